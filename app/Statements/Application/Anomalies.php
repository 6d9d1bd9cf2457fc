<?php

declare(strict_types=1);

namespace App\Statements\Application;

use App\Platform\Support\MomentStyle;
use App\Telemetry\Store\Sums;
use Fulcrion\Core\Statements\LoadAggregator;
use Fulcrion\Core\Statements\StepChange;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Support\Facades\DB;

/**
 * Looks over the last 28 days of a cluster for what changed its level, what is rare but heavy and what is asked over and
 * over. Reads day and hour summaries only.
 */
final readonly class Anomalies
{
    public const DAYS = 28;

    /** A mean latency counts as shifted from this factor on, a user's bytes from the smaller one. */
    private const LATENCY_FACTOR = 2.0;

    private const BYTES_FACTOR = 1.25;

    /** Below this share of the cluster's load nothing is worth a word. */
    private const LEAST_SHARE = 0.002;

    /**
     * @return list<Anomaly> heaviest first
     */
    public function of(StatementScope $scope, int $now): array
    {
        $clusterId = $scope->cluster->id;
        $to = $now - ($now % 86_400) + 86_400;
        $from = $to - self::DAYS * 86_400;
        $days = DB::select("SELECT statement_id, bucket_at, SUM(executions) AS executions, SUM(duration_us) AS duration_us, SUM(load_us)
        AS load_us
            FROM load_day WHERE cluster_id = {$clusterId} AND bucket_at >= {$from} AND bucket_at < {$to} GROUP BY statement_id, "
                .'bucket_at ORDER BY bucket_at');
        $byStatement = [];
        $total = 0;
        foreach ($days as $day) {
            $byStatement[$day->statement_id][] = [
                (int) $day->bucket_at,
                (int) $day->executions,
                (int) $day->duration_us,
                (int) $day->load_us,
            ];
            $total += (int) $day->load_us;
        }
        if ($total === 0) {
            return [];
        }
        $found = [
            ...$this->shifts($byStatement, $total),
            ...$this->rare($byStatement, $total, $scope),
            ...$this->steady($byStatement, $total, $scope, $from, $to),
        ];
        usort($found, static fn (Anomaly $a, Anomaly $b): int => $b->secondsPerWeek <=> $a->secondsPerWeek);

        return [...$this->named($found), ...FailingStatements::of($scope, $to), ...$this->users($scope, $from, $now)];
    }

    /**
     * @param  array<int, list<array{int, int, int, int}>>  $byStatement day, executions, duration, load
     * @return list<Anomaly>
     */
    private function shifts(array $byStatement, int $total): array
    {
        $found = [];
        foreach ($byStatement as $id => $days) {
            $days = array_values(array_filter($days, static fn (array $day): bool => $day[1] > 0 && $day[2] > 0));
            if (array_sum(array_column($days, 3)) < self::LEAST_SHARE * $total) {
                continue;
            }
            $change = StepChange::find(array_map(static fn (array $day): float => $day[2] / $day[1], $days), self::LATENCY_FACTOR);
            if ($change === null || $change->at >= count($days)) {
                continue;
            }
            $since = array_slice($days, $change->at);
            $runs = array_sum(array_column($since, 1));
            $weeks = max(1, count($since)) / 7;
            $slower = $change->factor() > 1;
            $found[] = new Anomaly(
                $slower ? 'slower' : 'faster',
                $slower ? 'act' : 'watch',
                (string) $id,
                null,
                '',
                sprintf(
                    '%s since %s: %s a run before, %s since (daily medians, %s runs since).',
                    ucfirst(Quantity::change($change->before, $change->after, 'slower', 'faster')),
                    self::dayName($since[0][0]),
                    Quantity::duration($change->before),
                    Quantity::duration($change->after),
                    Quantity::count($runs),
                ),
                max(0.0, (($change->after - $change->before) * $runs) / 1e6 / $weeks),
                self::around($since[0][0]),
            );
        }

        return $found;
    }

    /**
     * Few runs that weigh as much as a routine.
     *
     * @param  array<int, list<array{int, int, int, int}>>  $byStatement
     * @return list<Anomaly>
     */
    private function rare(array $byStatement, int $total, StatementScope $scope): array
    {
        $means = [];
        foreach ($byStatement as $days) {
            $runs = array_sum(array_column($days, 1));
            if ($runs > 10) {
                $means[] = array_sum(array_column($days, 2)) / $runs;
            }
        }
        sort($means);
        $usual = $means === [] ? 0.0 : $means[(int) (0.95 * (count($means) - 1))];
        $found = [];
        foreach ($byStatement as $id => $days) {
            $runs = array_sum(array_column($days, 1));
            $load = array_sum(array_column($days, 3));
            if ($runs === 0 || $runs > 10 || $load < self::LEAST_SHARE * $total) {
                continue;
            }
            $mean = array_sum(array_column($days, 2)) / $runs;
            if ($mean < 10 * $usual) {
                continue;
            }
            $rows = DB::selectOne(
                'SELECT SUM(rows_examined) AS examined, SUM(rows_returned) AS returned FROM load_day WHERE cluster_id = ? AND '
                    .'statement_id = ?',
                [$scope->cluster->id, $id],
            );
            $reads =
                (int) $rows->examined > 0
                    ? sprintf(
                        '; each run reads about %s rows to return %s',
                        Quantity::short((float) $rows->examined / $runs),
                        Quantity::short((float) $rows->returned / $runs),
                    )
                    : '';
            $found[] = new Anomaly(
                'rare and heavy',
                'act',
                (string) $id,
                null,
                '',
                sprintf(
                    'Ran %s %s, %s%s: %s of all load in these 28 days%s.',
                    $runs === 1 ? 'once' : "{$runs} times",
                    self::between($scope->cluster->id, $id, $days[0][0], $days[count($days) - 1][0]),
                    Quantity::duration($mean),
                    $runs === 1 ? '' : ' each',
                    Quantity::percent($load / $total),
                    $reads,
                ),
                $load / 1e6 / 4,
                self::around($days[0][0]),
            );
        }

        return $found;
    }

    /**
     * The same question at the same rhythm, day and night.
     *
     * @param  array<int, list<array{int, int, int, int}>>  $byStatement
     * @return list<Anomaly>
     */
    private function steady(array $byStatement, int $total, StatementScope $scope, int $from, int $to): array
    {
        $heavy = array_keys(
            array_filter(
                $byStatement,
                static fn (array $days): bool => count($days) >= 3 && array_sum(array_column($days, 3)) >= 0.01 * $total,
            ),
        );
        if ($heavy === []) {
            return [];
        }
        $rows = DB::select(
            'SELECT statement_id, COUNT(*) AS hours, AVG(n) AS mean, STDDEV_POP(n) AS spread, SUM(returned) AS returned, SUM(examined)
            AS examined, MIN(bucket_at) AS first_at, MAX(bucket_at) AS last_at, SUM(load_us) AS load_us, SUM(n) AS runs
            FROM (SELECT statement_id, bucket_at, SUM(executions) AS n, SUM(rows_returned) AS returned, SUM(rows_examined) AS examined,
            SUM(load_us) AS load_us FROM load_hour
                WHERE cluster_id = ? AND bucket_at >= ? AND bucket_at < ?'.
                Sums::in('statement_id', $heavy).
                " GROUP BY statement_id, bucket_at) h
            JOIN statements s ON s.id = h.statement_id AND s.kind = 'read' GROUP BY statement_id",
            [$scope->cluster->id, $from, $to],
        );
        $found = [];
        foreach ($rows as $row) {
            $span = ((int) $row->last_at - (int) $row->first_at) / 3600 + 1;
            // Round the clock: nearly every hour, nearly the same number.
            if ($row->hours < 0.95 * $span || $row->mean < 2 || $row->spread > 0.12 * $row->mean) {
                continue;
            }
            $found[] = new Anomaly(
                'steady repetition',
                'watch',
                (string) $row->statement_id,
                null,
                '',
                sprintf(
                    'Asked every %s round the clock, %s runs: %s of all load; each run reads %s rows again to return %s.',
                    Quantity::duration(round(60 / $row->mean) * 60e6),
                    Quantity::count((int) $row->runs),
                    Quantity::percent($row->load_us / $total),
                    Quantity::short((float) $row->examined / $row->runs),
                    Quantity::short((float) $row->returned / $row->runs),
                ),
                (int) $row->load_us / 1e6 / ($span / 168),
                'last 24 hours',
            );
        }

        return $found;
    }

    /**
     * Users whose scanned bytes went to another level.
     *
     * @return list<Anomaly>
     */
    private function users(StatementScope $scope, int $from, int $now): array
    {
        // The day under way is not comparable yet.
        $to = $now - ($now % 86_400);
        $rows = DB::select(
            'SELECT o.user_name, f.bucket_at - f.bucket_at % 86400 AS day, SUM(f.bytes_scanned) AS bytes FROM load_by_origin_hour f JOIN
            origins o ON o.id = f.origin_id
            WHERE f.cluster_id = ? AND f.bucket_at >= ? AND f.bucket_at < ? GROUP BY o.user_name, day ORDER BY day',
            [$scope->cluster->id, $from, $to],
        );
        $byUser = [];
        foreach ($rows as $row) {
            if ((int) $row->bytes > 0) {
                $byUser[$row->user_name][(int) $row->day] = (float) $row->bytes;
            }
        }
        $all = array_sum(array_map(array_sum(...), $byUser));
        $found = [];
        foreach ($byUser as $user => $days) {
            if (array_sum($days) < self::LEAST_SHARE * $all) {
                continue;
            }
            $weekdays = array_map(static fn (int $day): int => (int) gmdate('N', $day), array_keys($days));
            $change = StepChange::find(array_values($days), self::BYTES_FACTOR, $weekdays);
            if ($change === null) {
                continue;
            }
            $since = array_keys($days)[$change->at];
            $found[] = new Anomaly(
                $change->factor() > 1 ? 'reads more' : 'reads less',
                'watch',
                null,
                (string) $user,
                (string) $user,
                sprintf(
                    'Bytes scanned went %s since %s: a usual day was %s, now %s (weekly rhythm taken out).',
                    $change->factor() > 1
                        ? 'up by '.Quantity::percent($change->factor() - 1)
                        : 'down by '.Quantity::percent(1 - $change->factor()),
                    self::dayName($since),
                    Quantity::bytes($change->before),
                    Quantity::bytes($change->after),
                ),
                0.0,
                self::around($since),
            );
        }

        return $found;
    }

    /**
     * @param  list<Anomaly>  $found with the statement's id in place of its fingerprint
     * @return list<Anomaly>
     */
    private function named(array $found): array
    {
        $statements = DB::table('statements')
            ->whereIn('id', array_map(static fn (Anomaly $each): ?string => $each->fingerprint, $found))
            ->get(['id', 'fingerprint', DB::raw('LEFT(text, 300) AS text')])
            ->keyBy('id')
            ->all();

        return array_map(
            static fn (Anomaly $each): Anomaly => new Anomaly(
                $each->kind,
                $each->state,
                $statements[(int) $each->fingerprint]->fingerprint,
                null,
                $statements[(int) $each->fingerprint]->text,
                $each->sentence,
                $each->secondsPerWeek,
                $each->window,
            ),
            $found,
        );
    }

    /** Day summaries are kept by UTC days, so they are named by them. */
    private static function dayName(int $at): string
    {
        return onUtc($at, MomentStyle::Weekday);
    }

    /** The days something ran on; the hours where that is one day, as far as they are still kept. */
    private static function between(int $clusterId, int $statementId, int $firstDay, int $lastDay): string
    {
        if ($firstDay !== $lastDay) {
            return 'between '.self::dayName($firstDay).' and '.self::dayName($lastDay);
        }
        $kept = DB::selectOne(
            'SELECT MIN(bucket_at) AS first_at, MAX(bucket_at) AS last_at FROM load_five_minute WHERE cluster_id = ? AND '
                .'statement_id = ? AND bucket_at >= ? AND bucket_at < ? AND executions > 0',
            [$clusterId, $statementId, $firstDay, $firstDay + 86_400],
        );
        if ($kept->first_at === null) {
            return 'on '.self::dayName($firstDay);
        }

        $time = static fn (int $at): string => onUtc($at, MomentStyle::Time);

        return 'on '.self::dayName($firstDay).' between '.$time((int) $kept->first_at).' and '.
            $time((int) $kept->last_at + LoadAggregator::BUCKET_SECONDS).' UTC';
    }

    /** From a week before the change to now or a week after it. */
    private static function around(int $at): string
    {
        return gmdate('Y-m-d', $at - 7 * 86_400).' to '.gmdate('Y-m-d', $at + 6 * 86_400);
    }
}
