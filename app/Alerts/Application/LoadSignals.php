<?php

declare(strict_types=1);

namespace App\Alerts\Application;

use App\Estate\Models\Cluster;
use App\Metrics\Signals\Signal;
use App\Metrics\Signals\SignalSource;
use Illuminate\Support\Facades\DB;

/**
 * What runs on a cluster and what waits, on the mean of five minutes.
 */
final readonly class LoadSignals implements SignalSource
{
    private const BUCKET = 300;

    /** Executions are told when they end. */
    private const DELAY = 600;

    private const COLUMNS = ['working' => 'load_us - queued_us', 'waiting' => 'queued_us'];

    public function prefix(): string
    {
        return 'load';
    }

    public function signals(Cluster $cluster): array
    {
        return [
            new Signal('load:working', 'Executions at work', '', 1.0, 20.0, false),
            new Signal('load:waiting', 'Executions that wait', '', 1.0, 2.0, false),
        ];
    }

    public function delaySeconds(Cluster $cluster): int
    {
        return self::DELAY;
    }

    public function values(Cluster $cluster, string $key, int $from, int $to, int $step): array
    {
        $column = self::COLUMNS[$key] ?? null;
        if ($column === null) {
            return [];
        }
        $first = $from - $from % self::BUCKET;
        $buckets = [];
        foreach (DB::table('load_by_origin_five_minute')->where('cluster_id', $cluster->id)->where('bucket_at', '>=', $first)
            ->where('bucket_at', '<', $to)->groupBy('bucket_at')->selectRaw("bucket_at, SUM({$column}) AS us")->get() as $row) {
            $buckets[(int) $row->bucket_at] = max(0.0, (int) $row->us / 1e6 / self::BUCKET);
        }
        // Before the first execution nobody knows; since then nothing was there where nothing is told.
        $began = DB::table('load_by_origin_five_minute')->where('cluster_id', $cluster->id)->min('bucket_at');
        $values = [];
        for ($at = $from; $at < $to; $at += $step) {
            $known = [];
            for ($bucket = $at - $at % self::BUCKET; $bucket < $at + $step; $bucket += self::BUCKET) {
                $known[] = $buckets[$bucket] ?? 0.0;
            }
            $values[] = $began === null || $at + $step <= (int) $began ? null : array_sum($known) / count($known);
        }

        return ['' => $values];
    }
}
