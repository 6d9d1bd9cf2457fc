<?php

declare(strict_types=1);

namespace App\Telemetry\Usage;

use App\Estate\Models\Cluster;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Support\Facades\DB;

/**
 * Usage facts added up ahead: without the statement, or without who ran it, by day and, where a month is over, by month. What is asked
 * for says which of them is enough; all of them say the same.
 */
final class UsageSums
{
    private const FACTS = 'usage_facts';

    /** A month as 2026-11, of what has a day_at. */
    private const MONTH = "DATE_FORMAT('1970-01-01' + INTERVAL %s.day_at SECOND, '%%Y-%%m')";

    /** Adds up a day anew, after its facts changed. */
    public static function day(int $clusterId, int $dayAt): void
    {
        foreach (['origin', 'statement'] as $key) {
            DB::table("usage_{$key}_days")->where('day_at', $dayAt)->where('cluster_id', $clusterId)->delete();
            self::add($key, self::FACTS, "usage_{$key}_days", 'day_at', 'day_at = ? AND cluster_id = ?', [$dayAt, $clusterId]);
        }
        DB::table('usage_months')->where('cluster_id', $clusterId)->where('month', gmdate('Y-m', $dayAt))->delete();
    }

    /** Adds up the months that are over and were not added up since they changed. */
    public static function months(Cluster $cluster, int $now): void
    {
        $month = sprintf(self::MONTH, 'd');
        $missing = DB::select(
            "SELECT DISTINCT {$month} AS month FROM usage_days d LEFT JOIN usage_months m ON m.cluster_id = d.cluster_id AND m.month = "
                ."{$month} WHERE d.cluster_id = ? AND d.day_at < ? AND m.month IS NULL",
            [$cluster->id, Days::monthTo($now)->from],
        );
        foreach ($missing as $row) {
            $days = Days::month((string) $row->month);
            DB::transaction(static function () use ($cluster, $days, $row): void {
                foreach (['origin', 'statement'] as $key) {
                    DB::table("usage_{$key}_months")->where('day_at', $days->from)->where('cluster_id', $cluster->id)->delete();
                    self::add($key, "usage_{$key}_days", "usage_{$key}_months", (string) $days->from,
                        'day_at >= ? AND day_at < ? AND cluster_id = ?', [$days->from, $days->to, $cluster->id]);
                }
                DB::table('usage_months')->insertOrIgnore(['cluster_id' => $cluster->id, 'month' => (string) $row->month]);
            });
        }
    }

    /**
     * The smallest store that has what is asked for, to stand after FROM.
     *
     * @param  list<UsageField>  $fields that are read or filtered by
     * @param  bool  $byMonth whether days of one month need not be told apart
     */
    public static function source(array $fields, Days $days, bool $byMonth): string
    {
        $key = self::key($fields);
        if ($key === null) {
            return self::FACTS;
        }
        $months = $byMonth ? self::whole($days) : [];
        if ($months === []) {
            return "usage_{$key}_days";
        }
        $parts = [];
        $at = $days->from;
        foreach ([...$months, null] as $month) {
            $to = $month->from ?? $days->to;
            if ($to > $at) {
                $parts[] = self::part($key, 'days', $at, $to);
            }
            if ($month !== null) {
                $parts[] = self::part($key, 'months', $month->from, $month->to);
                $at = $month->to;
            }
        }

        return '('.implode(' UNION ALL ', $parts).')';
    }

    /**
     * @param  list<UsageField>  $fields
     * @return string|null null where only the facts have all of them
     */
    private static function key(array $fields): ?string
    {
        $hasStatement = in_array(UsageField::Statement, $fields, true);
        $hasOrigin = array_filter($fields, static fn (UsageField $field): bool => $field->isOfOrigin()) !== [];

        return $hasStatement && $hasOrigin ? null : ($hasStatement ? 'statement' : 'origin');
    }

    private static function part(string $key, string $grain, int $from, int $to): string
    {
        $columns = implode(', ', self::columns());

        return "SELECT day_at, cluster_id, team_id, {$key}_id, {$columns} FROM usage_{$key}_{$grain} WHERE day_at >= {$from} AND "
            ."day_at < {$to}";
    }

    /**
     * Months that lie wholly in some days and are added up for every cluster that has facts of them.
     *
     * @return list<Days>
     */
    private static function whole(Days $days): array
    {
        $months = [];
        for ($at = $days->from; $at < $days->to; $at = $month->to) {
            $month = Days::month(gmdate('Y-m', $at));
            if ($month->from >= $days->from && $month->to <= $days->to) {
                $months[gmdate('Y-m', $at)] = $month;
            }
        }
        if ($months === []) {
            return [];
        }
        $name = sprintf(self::MONTH, 'd');
        $missing = DB::select(
            "SELECT DISTINCT {$name} AS month FROM usage_days d LEFT JOIN usage_months m ON m.cluster_id = d.cluster_id AND m.month = "
                ."{$name} WHERE d.day_at >= ? AND d.day_at < ? AND m.month IS NULL",
            [$days->from, $days->to],
        );
        foreach ($missing as $row) {
            unset($months[(string) $row->month]);
        }
        // A month nothing is known of is none that was added up.
        $known = DB::table('usage_months')->whereIn('month', array_keys($months))->distinct()->pluck('month')->all();

        return array_values(array_intersect_key($months, array_fill_keys($known, true)));
    }

    /**
     * @param  list<int>  $bindings
     */
    private static function add(string $key, string $from, string $to, string $at, string $where, array $bindings): void
    {
        $sums = implode(', ', array_map(static fn (string $name): string => "SUM({$name})", self::columns()));
        DB::insert(
            "INSERT INTO {$to} (day_at, cluster_id, team_id, {$key}_id, ".implode(', ', self::columns()).") SELECT {$at}, cluster_id, "
                ."team_id, {$key}_id, {$sums} FROM {$from} WHERE {$where} GROUP BY ".($at === 'day_at' ? 'day_at, ' : '').
                "cluster_id, team_id, {$key}_id",
            $bindings,
        );
    }

    /**
     * @return list<string>
     */
    private static function columns(): array
    {
        return array_map(static fn (UsageMeasure $one): string => $one->value, UsageMeasure::cases());
    }
}
