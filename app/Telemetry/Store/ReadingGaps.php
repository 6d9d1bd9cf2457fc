<?php

declare(strict_types=1);

namespace App\Telemetry\Store;

use App\Estate\Models\Cluster;
use Illuminate\Support\Facades\DB;

/**
 * When a live server was not read. What its counters grew by meanwhile is known at the next reading, but not when.
 */
final readonly class ReadingGaps
{
    private const KEPT_SECONDS = 400 * 86_400;

    /** Notes that a reading came late. */
    public function note(Cluster $cluster, int $now): void
    {
        $last = $cluster->polled_at?->getTimestamp();
        if ($last !== null && $now - $last > $cluster->patienceSeconds()) {
            DB::table('reading_gaps')->insertOrIgnore(['cluster_id' => $cluster->id, 'from_at' => $last, 'to_at' => $now]);
        }
    }

    /**
     * @return list<array{int, int}> spans within the one asked for, those before anything was known and since the last reading among them
     */
    public function of(Cluster $cluster, int $from, int $to, int $now): array
    {
        if (! $cluster->isLive()) {
            return [];
        }
        $gaps = [];
        // Records of a time before may have been imported.
        $added = (int) ($cluster->created_at?->getTimestamp() ?? $from);
        $first = min($added, (int) (DB::table('load_day')->where('cluster_id', $cluster->id)->min('bucket_at') ?? $added));
        if ($first > $from) {
            $gaps[] = [$from, min($to, $first)];
        }
        foreach (
            DB::table('reading_gaps')->where('cluster_id', $cluster->id)->where('from_at', '<', $to)->where('to_at', '>', $from)
                ->orderBy('from_at')->get() as $row
        ) {
            $gaps[] = [max($from, (int) $row->from_at), min($to, (int) $row->to_at)];
        }
        $last = $cluster->polled_at?->getTimestamp();
        if ($last !== null && $last < $to && $now - $last > $cluster->patienceSeconds()) {
            $gaps[] = [max($from, $last), min($to, $now)];
        }

        return $gaps;
    }

    public function prune(int $now): void
    {
        DB::table('reading_gaps')->where('to_at', '<', $now - self::KEPT_SECONDS)->delete();
    }
}
