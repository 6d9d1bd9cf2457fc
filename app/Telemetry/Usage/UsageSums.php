<?php

declare(strict_types=1);

namespace App\Telemetry\Usage;

use App\Estate\Models\Cluster;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Support\Facades\DB;

/**
 * Usage facts added up ahead: without the statement, or without who ran it, by day and, where they are over, by week and month. What is
 * asked for says which of them is enough; all of them say the same.
 */
final class UsageSums
{
    private const FACTS = 'usage_facts';

    private const KEYS = ['origin', 'statement'];

    /** Adds up a day again, after its facts changed. */
    public static function day(int $clusterId, int $dayAt): void
    {
        foreach (self::KEYS as $key) {
            DB::table("usage_{$key}_days")->where('day_at', $dayAt)->where('cluster_id', $clusterId)->delete();
            self::add($key, self::FACTS, "usage_{$key}_days", 'day_at', 'day_at = ? AND cluster_id = ?', [$dayAt, $clusterId]);
        }
        foreach (['weeks', 'months'] as $grain) {
            DB::table('usage_spans')
                ->where('cluster_id', $clusterId)
                ->where('grain', $grain)
                ->where('from_at', self::span($grain, $dayAt)->from)
                ->delete();
        }
    }

    /**
     * Adds up the weeks and months that are over and were not added up since they changed.
     *
     * @param  int  $now as the clocks of the estate show it
     */
    public static function spans(Cluster $cluster, int $now): void
    {
        $days = DB::table('usage_days')->where('cluster_id', $cluster->id)->orderBy('day_at')->pluck('day_at');
        foreach (['weeks', 'months'] as $grain) {
            $known = DB::table('usage_spans')->where('cluster_id', $cluster->id)->where('grain', $grain)->pluck('from_at')->flip();
            $spans = [];
            foreach ($days as $day) {
                $span = self::span($grain, (int) $day);
                if ($span->to <= $now && ! isset($known[$span->from])) {
                    $spans[$span->from] = $span;
                }
            }
            foreach ($spans as $span) {
                DB::transaction(static fn () => self::addSpan($cluster, $grain, $span));
            }
        }
    }

    private static function addSpan(Cluster $cluster, string $grain, Days $span): void
    {
        foreach (self::KEYS as $key) {
            DB::table("usage_{$key}_{$grain}")->where('day_at', $span->from)->where('cluster_id', $cluster->id)->delete();
            self::add($key, "usage_{$key}_days", "usage_{$key}_{$grain}", (string) $span->from,
                'day_at >= ? AND day_at < ? AND cluster_id = ?', [$span->from, $span->to, $cluster->id]);
        }
        DB::table('usage_spans')->insertOrIgnore(['cluster_id' => $cluster->id, 'grain' => $grain, 'from_at' => $span->from]);
    }

    /**
     * The smallest stores that together have what is asked for.
     *
     * @param  list<UsageField>  $fields that are read or filtered by
     * @param  list<string>  $grains whose days need not be distinguished: months, weeks
     * @return non-empty-list<array{string, Days}> table and days of it, in order
     */
    public static function parts(array $fields, Days $days, array $grains): array
    {
        $key = self::key($fields);
        if ($key === null) {
            return [[self::FACTS, $days]];
        }
        $parts = [];
        $at = $days->from;
        foreach (self::whole($days, $grains) as [$grain, $span]) {
            if ($span->from > $at) {
                $parts[] = ["usage_{$key}_days", new Days($at, $span->from)];
            }
            $parts[] = ["usage_{$key}_{$grain}", $span];
            $at = $span->to;
        }
        if ($days->to > $at) {
            $parts[] = ["usage_{$key}_days", new Days($at, $days->to)];
        }

        return $parts === [] ? [["usage_{$key}_days", $days]] : $parts;
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

    /**
     * Weeks and months that lie wholly in some days and are added up for every cluster that has facts of them; a month goes before the
     * weeks in it.
     *
     * @param  list<string>  $grains
     * @return list<array{string, Days}> grain and days, in order
     */
    private static function whole(Days $days, array $grains): array
    {
        $whole = [];
        $taken = [];
        foreach (['months', 'weeks'] as $grain) {
            $clusters = in_array($grain, $grains, true) ? self::addedUp($grain, $days) : [];
            for ($at = $days->from; $at < $days->to; $at = $span->to) {
                $span = self::span($grain, $at);
                $isFree = array_filter($taken, static fn (Days $one): bool => $one->from < $span->to && $one->to > $span->from) === [];
                if ($isFree && isset($clusters[$span->from]) && $span->from >= $days->from && $span->to <= $days->to) {
                    $whole[$span->from] = [$grain, $span];
                    $taken[] = $span;
                }
            }
        }
        ksort($whole);

        return array_values($whole);
    }

    /**
     * @return array<int, true> by the start of each span all clusters that have facts of it are added up for
     */
    private static function addedUp(string $grain, Days $days): array
    {
        $known = $missing = [];
        foreach (
            DB::table('usage_spans')->where('grain', $grain)->where('from_at', '>=', $days->from)->where('from_at', '<', $days->to)
                ->get(['cluster_id', 'from_at']) as $row
        ) {
            $known[(int) $row->from_at][(int) $row->cluster_id] = true;
        }
        foreach (
            $known === [] ? [] : DB::table('usage_days')->where('day_at', '>=', $days->from)->where('day_at', '<', $days->to)
                ->get(['cluster_id', 'day_at']) as $row
        ) {
            $from = self::span($grain, (int) $row->day_at)->from;
            if (! isset($known[$from][(int) $row->cluster_id])) {
                $missing[$from] = true;
            }
        }

        return array_fill_keys(array_keys(array_diff_key($known, $missing)), true);
    }

    /** The week or month a moment lies in. */
    private static function span(string $grain, int $at): Days
    {
        return $grain === 'months' ? Days::month(gmdate('Y-m', $at)) : Days::week($at);
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
