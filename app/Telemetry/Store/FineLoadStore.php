<?php

declare(strict_types=1);

namespace App\Telemetry\Store;

use App\Estate\Models\Cluster;
use Fulcrion\Core\Statements\FineLoad;
use Fulcrion\Core\Time\Window;
use Illuminate\Support\Facades\DB;

/**
 * The load of live servers by half minutes, for the last day.
 */
final class FineLoadStore
{
    public const LEVEL = 'half_minute';

    /** Somewhat more than the day that can be asked for, so that a window can be held against the one before. */
    private const KEPT_SECONDS = 30 * 3_600;

    private const DAY = 26 * 3_600;

    /** Longer windows would have more points than a figure shows. */
    private const LONGEST_SECONDS = 3 * 3_600;

    private const ROWS = 2_000;

    /**
     * The interval a window is shown by where it is known so finely; null where it is not.
     */
    public static function step(Cluster $cluster, Window $window, int $now): ?int
    {
        if (! $cluster->isLive() || $window->from < $now - self::DAY || $window->seconds() > self::LONGEST_SECONDS) {
            return null;
        }
        $first = DB::table('load_half_minute')->where('cluster_id', $cluster->id)->min('bucket_at');
        $before = $first === null ? $window->to : (int) $first - 300;
        // Of before it was kept so finely there may be load all the same.
        $isWhole = $before < $window->from || ! DB::table('load_by_origin_five_minute')
            ->where('cluster_id', $cluster->id)
            ->where('bucket_at', '>=', $window->from)
            ->where('bucket_at', '<', min($window->to, $before))
            ->exists();
        if (! $isWhole) {
            return null;
        }

        return $window->seconds() <= 5_400 ? FineLoad::SECONDS : 2 * FineLoad::SECONDS;
    }

    /**
     * Rows as those by origin and kind.
     */
    public static function byOrigin(): string
    {
        return '(SELECT h.cluster_id, h.bucket_at, h.origin_id, s.kind, h.executions, h.duration_us, h.load_us, h.lock_us, h.queued_us, '
            .'h.cpu_us FROM load_half_minute h JOIN statements s ON s.id = h.statement_id)';
    }

    /**
     * @param  array<string, array<string, int>>  $rows "bucket,statement,origin" => its sums
     */
    public function add(Cluster $cluster, array $rows): void
    {
        ksort($rows, SORT_STRING);
        $updates = implode(', ', array_map(static fn (string $name): string => "{$name} = {$name} + VALUES({$name})", FineLoad::SUMS));
        foreach (array_chunk($rows, self::ROWS, true) as $chunk) {
            $values = [];
            foreach ($chunk as $key => $sums) {
                $own = array_map(static fn (string $name): int => $sums[$name], FineLoad::SUMS);
                $values[] = "({$cluster->id},{$key},".implode(',', $own).')';
            }
            DB::unprepared('INSERT INTO load_half_minute (cluster_id, bucket_at, statement_id, origin_id, '.implode(', ', FineLoad::SUMS).
                ') VALUES '.implode(',', $values)." ON DUPLICATE KEY UPDATE {$updates}");
        }
    }

    public function prune(int $now): void
    {
        do {
            $deleted = DB::table('load_half_minute')->where('bucket_at', '<', $now - self::KEPT_SECONDS)->limit(20_000)->delete();
        } while ($deleted === 20_000);
    }
}
