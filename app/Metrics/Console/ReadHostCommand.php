<?php

declare(strict_types=1);

namespace App\Metrics\Console;

use App\Estate\Models\Cluster;
use App\Metrics\Store\PointStore;
use App\Metrics\Store\ThisHost;
use App\Platform\Support\Clock;
use Illuminate\Console\Command;

final class ReadHostCommand extends Command
{
    protected $signature = 'metrics:read-host';

    protected $description = 'Reads what the host this application runs on is doing';

    public function handle(ThisHost $host, PointStore $points): int
    {
        $own = Cluster::query()->where('is_own', true)->first();
        if ($own !== null) {
            $taken = $points->take($own->id, $host->name(), intdiv(Clock::microseconds(), 1_000), $host->read());
            $this->line("{$taken} values were taken.");
        }

        return self::SUCCESS;
    }
}
