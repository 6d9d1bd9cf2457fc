<?php

declare(strict_types=1);

namespace App\Storage\Application;

use App\Estate\Models\Cluster;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

final class CollectStatistics implements ShouldQueue
{
    use Queueable;

    public int $timeout = 0;

    public int $tries = 1;

    public function __construct(public readonly int $clusterId, public readonly int $parallel, public readonly string $by)
    {
    }

    public function handle(StatisticsRound $round): void
    {
        $cluster = Cluster::query()->find($this->clusterId);
        if ($cluster instanceof Cluster) {
            $round->run($cluster, $this->parallel, $this->by);
        }
    }
}
