<?php

declare(strict_types=1);

namespace App\Metrics\Console;

use App\Estate\Models\Cluster;
use App\Metrics\Intake\MetricIntake;
use App\Metrics\Intake\SourceKind;
use App\Metrics\Store\ThisHost;
use App\Platform\Support\Clock;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\Wire\Received;
use Fulcrion\Core\Metrics\Wire\Reception;
use Illuminate\Console\Command;

final class ReadHostCommand extends Command
{
    protected $signature = 'metrics:read-host';

    protected $description = 'Reads what the host this application runs on is doing';

    public function handle(ThisHost $host, MetricIntake $intake): int
    {
        $own = Cluster::query()->where('is_own', true)->first();
        if ($own !== null) {
            $atMs = intdiv(Clock::microseconds(), 1_000);
            $values = array_map(static fn (Metric $one): Received => new Received($host->name(), $atMs, $one), $host->read());
            $result = $intake->take($own, new Reception($values), SourceKind::Own, $host->name());
            $this->line("{$result->taken} values were taken.");
        }

        return self::SUCCESS;
    }
}
