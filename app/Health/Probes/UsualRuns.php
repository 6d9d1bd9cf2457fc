<?php

declare(strict_types=1);

namespace App\Health\Probes;

use App\Estate\Models\Cluster;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * What statements did around a moment, and what they usually do.
 */
final readonly class UsualRuns
{
    private const BUCKET = 300;

    private const DAY = 86_400;

    /** Days before that are looked at. */
    private const DAYS = 28;

    /** Days without which nobody knows what is usual. */
    private const LEAST_DAYS = 3;

    public const SUMS = 'SUM(executions) AS executions, SUM(duration_us) AS duration_us, SUM(queued_us) AS queued_us, '
        .'SUM(lock_us) AS lock_us, SUM(bytes_scanned) AS bytes_scanned, SUM(rows_examined) AS rows_examined';

    /**
     * Statements that began in a span, with what their runs were like.
     *
     * @param  string|null  $user whose; null for everybody's
     * @param  int|null  $statement number of the one that is asked for; null for all
     * @return array<int, StatementFacts> by number
     */
    public function around(Cluster $cluster, int $from, int $to, ?string $user = null, ?int $statement = null): array
    {
        $rows = DB::table('load_five_minute as l')->where('l.cluster_id', $cluster->id)
            ->where('l.bucket_at', '>=', $from - $from % self::BUCKET)->where('l.bucket_at', '<', $to)
            ->when($statement !== null, static fn ($query) => $query->where('l.statement_id', $statement))
            ->when($user !== null, static fn ($query) => $query->join('origins as o', 'o.id', '=', 'l.origin_id')
                ->where('o.user_name', $user))
            ->groupBy('l.statement_id')->selectRaw('l.statement_id, '.self::SUMS)->get();
        $facts = [];
        foreach ($rows as $row) {
            if ((int) $row->executions > 0) {
                $facts[(int) $row->statement_id] = self::facts($row);
            }
        }

        return $facts;
    }

    /**
     * What is usual, from the days before the one of a moment: the middle of what its runs were like on each.
     *
     * @param  list<int>  $statements
     * @return array<int, StatementFacts> by number; those that ran on too few days are not there
     */
    public function usual(Cluster $cluster, array $statements, int $at): array
    {
        $day = $at - $at % self::DAY;
        $days = [];
        foreach (DB::table('load_day')->where('cluster_id', $cluster->id)->whereIn('statement_id', $statements)
            ->where('bucket_at', '>=', $day - self::DAYS * self::DAY)->where('bucket_at', '<', $day)
            ->groupBy('statement_id', 'bucket_at')->selectRaw('statement_id, bucket_at, '.self::SUMS)->get() as $row) {
            if ((int) $row->executions > 0) {
                $days[(int) $row->statement_id][] = self::facts($row);
            }
        }
        $usual = [];
        foreach ($days as $statement => $list) {
            if (count($list) >= self::LEAST_DAYS) {
                $usual[$statement] = StatementFacts::middle($list);
            }
        }

        return $usual;
    }

    /** Part of the time in flight that was spent waiting in queues; null where nothing was. */
    public function waiting(Cluster $cluster, int $from, int $to): ?float
    {
        $sums = DB::table('load_by_origin_five_minute')->where('cluster_id', $cluster->id)
            ->where('bucket_at', '>=', $from - $from % self::BUCKET)->where('bucket_at', '<', $to)
            ->selectRaw('SUM(load_us) AS load_us, SUM(queued_us) AS queued_us')->first();

        return (int) ($sums->load_us ?? 0) === 0 ? null : (int) ($sums->queued_us ?? 0) / (int) ($sums->load_us ?? 1);
    }

    /**
     * Who had most in flight, without waiting.
     *
     * @return array<string, float> mean number of executions at work, by account, most first
     */
    public function users(Cluster $cluster, int $from, int $to, int $most): array
    {
        $from -= $from % self::BUCKET;

        return DB::table('load_by_origin_five_minute as l')->join('origins as o', 'o.id', '=', 'l.origin_id')
            ->where('l.cluster_id', $cluster->id)->where('l.bucket_at', '>=', $from)->where('l.bucket_at', '<', $to)
            ->groupBy('o.user_name')->selectRaw('o.user_name, SUM(l.load_us - LEAST(l.load_us, l.queued_us)) AS us')
            ->orderByDesc('us')->limit($most)->pluck('us', 'user_name')
            ->map(static fn (mixed $us): float => (float) $us / 1e6 / max(1, $to - $from))->all();
    }

    public static function facts(stdClass $row): StatementFacts
    {
        $runs = max(1, (int) $row->executions);

        return new StatementFacts(
            (int) $row->executions,
            (int) $row->duration_us / $runs,
            (int) $row->queued_us / $runs,
            (int) $row->lock_us / $runs,
            (int) $row->bytes_scanned / $runs,
            (int) $row->rows_examined / $runs,
        );
    }
}
