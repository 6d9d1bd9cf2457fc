<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use Illuminate\Support\Facades\DB;

/**
 * What a live server spends on being watched, beside what it spends on all others.
 */
final readonly class WatchingCost
{
    private const KEPT_HOURS = 24 * 35;

    private function __construct(public int $executions, public int $durationUs, public int $othersUs)
    {
    }

    /** Adds what was counted since the reading before; inside of its transaction. */
    public static function add(Cluster $cluster, int $executions, int $durationUs, int $othersUs): void
    {
        $now = Clock::seconds();
        $hour = $now - $now % 3600;
        DB::statement(
            'INSERT INTO watching (cluster_id, hour_at, executions, duration_us, others_us) VALUES (?, ?, ?, ?, ?)
            ON DUPLICATE KEY UPDATE executions = executions + VALUES(executions), duration_us = duration_us + VALUES(duration_us),
            others_us = others_us + VALUES(others_us)',
            [$cluster->id, $hour, $executions, $durationUs, $othersUs],
        );
    }

    /** Ends what has outlived its time. */
    public static function prune(): void
    {
        DB::table('watching')->where('hour_at', '<', Clock::seconds() - self::KEPT_HOURS * 3600)->delete();
    }

    /** Of the last day; null where nothing was counted. */
    public static function lately(Cluster $cluster): ?self
    {
        $sum = DB::table('watching')
            ->where('cluster_id', $cluster->id)
            ->where('hour_at', '>', Clock::seconds() - 86_400)
            ->selectRaw('SUM(executions) AS executions, SUM(duration_us) AS duration_us, SUM(others_us) AS others_us')
            ->first();

        return $sum?->executions === null ? null : new self((int) $sum->executions, (int) $sum->duration_us, (int) $sum->others_us);
    }

    public function share(): float
    {
        return $this->durationUs / max(1, $this->durationUs + $this->othersUs);
    }
}
