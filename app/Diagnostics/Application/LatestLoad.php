<?php

declare(strict_types=1);

namespace App\Diagnostics\Application;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use Fulcrion\Core\Statements\Symptoms\Counted;
use Illuminate\Support\Facades\DB;

/**
 * What a live server counted of each statement in the last ten minutes in which it ran, of the last day. So a report of the night is
 * still known in the morning, and what was corrected at noon is not measured by the morning.
 */
final readonly class LatestLoad
{
    private const SPAN_SECONDS = 600;

    public const RECENT_SECONDS = 86_400;

    private const WEEK_SECONDS = 604_800;

    /**
     * @return array<string, Counted> of those with something to look at, by fingerprint
     */
    public static function of(Cluster $cluster): array
    {
        $from = Clock::seconds() - self::RECENT_SECONDS;
        $counted = [];
        foreach (
            DB::select(
                'SELECT s.fingerprint, LEFT(s.text, 4000) AS text, t.* FROM (
                    SELECT l.statement_id, SUM(l.executions) AS executions, SUM(l.duration_us) AS duration_us,
                        SUM(l.rows_examined) AS examined, SUM(l.rows_returned) AS returned, SUM(l.rows_affected) AS affected,
                        SUM(GREATEST(l.full_scans, l.no_index)) AS unindexed, SUM(l.tmp_disk) AS tmp_disk,
                        SUM(l.errors + l.timed_out) AS failed
                    FROM (SELECT statement_id, MAX(bucket_at) AS last_at FROM load_five_minute WHERE cluster_id = ? AND bucket_at >= ?
                        GROUP BY statement_id) m
                    JOIN load_five_minute l ON l.cluster_id = ? AND l.statement_id = m.statement_id
                        AND l.bucket_at > m.last_at - ? AND l.bucket_at >= ?
                    GROUP BY l.statement_id HAVING unindexed > 0 OR tmp_disk > 0 OR failed > 0
                    ORDER BY duration_us DESC, l.statement_id LIMIT 2000
                ) t JOIN statements s ON s.id = t.statement_id',
                [$cluster->id, $from, $cluster->id, self::SPAN_SECONDS, $from],
            ) as $row
        ) {
            $counted[$row->fingerprint] = new Counted(
                $row->text,
                (int) $row->executions,
                (int) $row->duration_us,
                (int) $row->examined,
                (int) $row->returned,
                (int) $row->affected,
                (int) $row->unindexed,
                (int) $row->tmp_disk,
                (int) $row->failed,
            );
        }

        // Sorted here: texts would be sorted along on disk.
        uasort($counted, static fn (Counted $a, Counted $b): int => $b->durationUs <=> $a->durationUs);

        return $counted;
    }

    /**
     * @param  list<string>  $statements
     * @return array<string, float> time in flight in the last seven days, by fingerprint
     */
    public static function weekUs(Cluster $cluster, array $statements): array
    {
        $from = Clock::seconds() - self::WEEK_SECONDS;

        return $statements === [] ? [] : array_map(floatval(...), DB::table('load_day')
            ->join('statements', 'statements.id', '=', 'statement_id')
            ->where('cluster_id', $cluster->id)
            ->where('bucket_at', '>=', $from - ($from % 86_400))
            ->whereIn('fingerprint', $statements)
            ->groupBy('fingerprint')
            ->selectRaw('fingerprint, SUM(duration_us) AS us')
            ->pluck('us', 'fingerprint')
            ->all());
    }

    /**
     * Mean duration of a statement in a span of time, in whole intervals of five minutes.
     */
    public static function meanUs(Cluster $cluster, string $statement, int $fromUs, int $toUs): ?float
    {
        $row = DB::table('load_five_minute')
            ->join('statements', 'statements.id', '=', 'statement_id')
            ->where('cluster_id', $cluster->id)
            ->where('fingerprint', $statement)
            ->where('bucket_at', '>=', intdiv($fromUs, 1_000_000))
            ->where('bucket_at', '<', intdiv($toUs, 1_000_000))
            ->selectRaw('SUM(duration_us) AS us, SUM(executions) AS runs')
            ->first();

        return $row === null || (int) $row->runs === 0 ? null : $row->us / $row->runs;
    }
}
