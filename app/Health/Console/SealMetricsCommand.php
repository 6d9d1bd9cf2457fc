<?php

declare(strict_types=1);

namespace App\Health\Console;

use App\Estate\Models\Cluster;
use App\Health\Metrics\KeptHours;
use App\Health\Metrics\PointStore;
use App\Platform\Support\Clock;
use Illuminate\Console\Command;

final class SealMetricsCommand extends Command
{
    private const DAY = 86_400;

    protected $signature = 'health:seal';

    protected $description = 'Puts hours of metrics that are over together, and ends what is older than each cluster keeps';

    public function handle(PointStore $points, KeptHours $hours): int
    {
        $sealed = $points->seal();
        foreach (Cluster::query()->get() as $cluster) {
            $hours->prune($cluster->id, Clock::seconds() - $cluster->retention_days * self::DAY);
        }
        $this->line("{$sealed} points were put together.");

        return self::SUCCESS;
    }
}
