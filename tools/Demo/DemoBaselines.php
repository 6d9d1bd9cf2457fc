<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

use App\Baseline\Application\MeasureBaseline;
use App\Baseline\Models\BaselineRun;
use App\Estate\Connectors\PracticeClusters;
use App\Estate\Models\Cluster;
use Fulcrion\Practice\Storage\NodeBook;
use Fulcrion\Practice\Storage\Warehouse;

/**
 * Baselines of the nodes of the demo world: one from before the history, and one of last night.
 */
final readonly class DemoBaselines
{
    private const DAYS_AGO = [27, 0];

    public function write(int $now): void
    {
        foreach (['fernhill', 'wren'] as $slug) {
            $cluster = Cluster::query()->where('slug', $slug)->first();
            if ($cluster === null || BaselineRun::query()->where('cluster_id', $cluster->id)->exists()) {
                continue;
            }
            $set = NodeBook::read(Warehouse::open(PracticeClusters::root($slug)));
            foreach (self::DAYS_AGO as $days) {
                foreach ($set->names as $node => $host) {
                    $at = $now - $days * 86_400 - 3_600;
                    BaselineRun::query()->create([
                        'cluster_id' => $cluster->id, 'host' => $host, 'state' => 'done', 'outcome' => 'complete', 'at' => $at,
                        'plan' => ['kind' => 'practice', 'seconds' => 1, 'spaceBytes' => 16_000_000, 'load' => 1.0, 'partner' => ''],
                        'values' => MeasureBaseline::played($set, $node, $at), 'notes' => [], 'asked_us' => $at * 1_000_000,
                        'asked_by' => 'Idris Pell', 'heartbeat_us' => $at * 1_000_000,
                    ]);
                }
            }
        }
    }
}
