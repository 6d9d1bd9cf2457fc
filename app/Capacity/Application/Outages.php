<?php

declare(strict_types=1);

namespace App\Capacity\Application;

use App\Estate\Models\Cluster;
use Fulcrion\Core\Capacity\Outage;
use Illuminate\Support\Facades\DB;

/**
 * When a cluster answered nobody: by what was tried on it.
 */
final readonly class Outages
{
    public const INTERVAL = 300;

    /**
     * @return list<Outage> ascending
     */
    public function of(Cluster $cluster, int $from, int $to): array
    {
        $from -= $from % self::INTERVAL;
        $statements = [];
        foreach (DB::table('load_five_minute')->where('cluster_id', $cluster->id)->where('bucket_at', '>=', $from)
            ->where('bucket_at', '<', $to)->groupBy('bucket_at')
            ->selectRaw('bucket_at, SUM(executions) AS executions, SUM(errors) AS failed')->get() as $row) {
            $statements[(int) $row->bucket_at] = ['executions' => (int) $row->executions, 'failed' => (int) $row->failed];
        }
        $probes = [];
        foreach (DB::table('probe_runs')->join('probes', 'probes.id', '=', 'probe_runs.probe_id')
            ->where('probes.cluster_id', $cluster->id)->where('probe_runs.at', '>=', $from)->where('probe_runs.at', '<', $to)
            ->get(['probe_runs.at', 'probe_runs.took_us']) as $row) {
            $probes[(int) $row->at] = $row->took_us !== null;
        }

        return Outage::find($statements, $probes, self::INTERVAL);
    }
}
