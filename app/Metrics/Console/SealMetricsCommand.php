<?php

declare(strict_types=1);

namespace App\Metrics\Console;

use App\Estate\Models\Cluster;
use App\Metrics\Places\PlaceError;
use App\Metrics\Store\KeptHours;
use App\Metrics\Store\PointStore;
use App\Metrics\Store\ProcessStore;
use App\Platform\Support\Clock;
use Illuminate\Console\Command;

final class SealMetricsCommand extends Command
{
    private const DAY = 86_400;

    protected $signature = 'metrics:seal';

    protected $description = 'Puts hours of metrics that are over together, and ends what is older than each cluster keeps';

    public function handle(PointStore $points, KeptHours $hours, ProcessStore $processes): int
    {
        $sealed = $points->seal();
        foreach (Cluster::query()->get() as $cluster) {
            try {
                $hours->prune($cluster->id, Clock::seconds() - $cluster->retention_days * self::DAY);
                $processes->prune($cluster->id, Clock::seconds());
            } catch (PlaceError $error) {
                $this->warn("{$cluster->name}: {$error->getMessage()}");
            }
        }
        $this->line("{$sealed} points were put together.");

        return self::SUCCESS;
    }
}
