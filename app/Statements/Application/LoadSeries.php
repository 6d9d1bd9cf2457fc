<?php

declare(strict_types=1);

namespace App\Statements\Application;

use App\Platform\Support\Clock;
use App\Telemetry\Store\FineLoadStore;
use App\Telemetry\Store\LoadMemory;
use App\Telemetry\Store\Sums;
use Closure;
use Fulcrion\Core\Statements\LoadAggregator;
use Fulcrion\Core\Statements\WindowCover;
use Fulcrion\Core\Time\Window;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Load over time: mean executions in flight for each interval of a window, split by one trait.
 */
final class LoadSeries
{
    /** Split key => label. */
    public const SPLITS = [
        'user' => 'user',
        'database' => 'database',
        'application' => 'application',
        'kind' => 'kind of statement',
        'time' => 'what time was spent on',
    ];

    /** What a figure may show over time. */
    public const MEASURES = ['load' => 'load', 'count' => 'executions', 'mean' => 'mean latency'];

    public const OTHER = 'other';

    private const SERIES = 5;

    /**
     * @param  list<int>|null  $origins
     * @return array{step: int, times: list<int>, series: array<string, list<float>>, executions: list<int>}
     */
    public function of(StatementScope $scope, string $split, ?array $origins, bool $count = false): array
    {
        return LoadMemory::remember(
            $scope->cluster->id,
            'series',
            [$scope->window, $split, $origins, $count],
            [],
            fn (): array => $this->split($scope, $split, $origins, $count),
        );
    }

    /**
     * @param  list<int>|null  $origins
     * @return array{step: int, times: list<int>, series: array<string, list<float>>, executions: list<int>}
     */
    private function split(StatementScope $scope, string $split, ?array $origins, bool $count): array
    {
        $window = $scope->window;
        $step = self::stepOf($scope);
        $times = $window->intervals($step);
        [$group, $join] = match ($split) {
            'time' => ["''", ''],
            'kind' => ['l.kind', ''],
            default => ['o.'.Origins::COLUMNS[$split], 'JOIN origins o ON o.id = l.origin_id'],
        };
        $rows =
            $origins === []
                ? []
                : self::parts(
                    $window,
                    $step,
                    static fn (
                        string $level,
                        string $within,
                    ): string => "SELECT l.bucket_at, {$group} AS part, l.load_us, l.lock_us, l.queued_us, l.cpu_us, l.executions
            FROM ".self::byOrigin($level)." l {$join} WHERE l.cluster_id = {$scope->cluster->id} AND {$within}".
                        Sums::in('l.origin_id', $origins),
                    'part, SUM(load_us) AS load_us, SUM(lock_us) AS lock_us, SUM(queued_us) AS queued_us, SUM(cpu_us) AS cpu_us, '
                        .'SUM(executions) AS executions',
                    ', part',
                );
        $index = array_flip($times);
        $parts = [];
        $executions = array_fill(0, count($times), 0);
        foreach ($rows as $row) {
            $i = $index[(int) $row->at] ?? null;
            if ($i === null) {
                continue;
            }
            $executions[$i] += (int) $row->executions;
            // Executions go the same way as microseconds: a rate per second of the interval in either case.
            $load = $count ? (int) $row->executions * 1_000_000 : (int) $row->load_us;
            if ($split === 'time' && ! $count) {
                // The source may count waiting and work that overlap; what they claim is never more than the time itself.
                $left = $load;
                foreach (['CPU' => 'cpu_us', 'lock' => 'lock_us', 'queue' => 'queued_us'] as $name => $column) {
                    $share = min($left, (int) $row->{$column});
                    $left -= $share;
                    $parts[$name][$i] = ($parts[$name][$i] ?? 0) + $share;
                }
                $parts['rest'][$i] = ($parts['rest'][$i] ?? 0) + $left;
            } else {
                $name = $row->part === '' ? ($split === 'time' ? 'all' : '(none)') : $row->part;
                $parts[$name][$i] = ($parts[$name][$i] ?? 0) + $load;
            }
        }

        return [
            'step' => $step,
            'times' => $times,
            'series' => $this->leading(
                $parts,
                array_map(static fn (int $at): int => $window->length($at, $step), $times),
                $split === 'time' && ! $count,
            ),
            'executions' => array_values($executions),
        ];
    }

    /**
     * Mean duration of what began in each interval.
     *
     * @param  list<int>|null  $origins
     * @return array{step: int, times: non-empty-list<int>, meanUs: list<float|null>, executions: int}
     */
    public function means(StatementScope $scope, Window $window, ?array $origins): array
    {
        $step = self::stepOf($scope);
        $times = $window->intervals($step);
        $index = array_flip($times);
        $means = array_fill(0, count($times), null);
        $executions = 0;
        $rows =
            $origins === []
                ? []
                : self::parts(
                    $window,
                    $step,
                    static fn (
                        string $level,
                        string $within,
                    ): string => 'SELECT bucket_at, duration_us, executions FROM '.self::byOrigin($level)." l
            WHERE cluster_id = {$scope->cluster->id} AND {$within}".Sums::in('origin_id', $origins),
                    'SUM(duration_us) AS duration_us, SUM(executions) AS executions',
                );
        foreach ($rows as $row) {
            if ((int) $row->executions > 0 && isset($index[(int) $row->at])) {
                $means[$index[(int) $row->at]] = (int) $row->duration_us / (int) $row->executions;
                $executions += (int) $row->executions;
            }
        }

        return ['step' => $step, 'times' => $times, 'meanUs' => array_values($means), 'executions' => $executions];
    }

    /**
     * The last days of a cluster as one line, for the rail.
     *
     * @return array{from: int, to: int, step: int, loads: list<float>}
     */
    public function rail(int $clusterId, int $now, int $days = 14): array
    {
        $step = 3600;
        $to = $now - ($now % $step) + $step;
        $from = $to - $days * 86_400;
        $loads = LoadMemory::remember($clusterId, 'rail', [$from, $to], [], static function () use ($clusterId, $from, $to, $step): array {
            $loads = array_fill(0, intdiv($to - $from, $step), 0.0);
            $sql =
                'SELECT bucket_at, SUM(load_us) AS load_us FROM load_by_origin_hour WHERE cluster_id = ? AND bucket_at >= ? AND '
                    .'bucket_at < ? GROUP BY bucket_at';
            foreach (DB::select($sql, [$clusterId, $from, $to]) as $row) {
                $loads[intdiv((int) $row->bucket_at - $from, $step)] = (int) $row->load_us / 1e6 / $step;
            }

            return array_values($loads);
        });

        return ['from' => $from, 'to' => $to, 'step' => $step, 'loads' => $loads];
    }

    /**
     * Sums of the intervals of a window, of nothing outside of it: hours inside, five minutes towards its ends.
     *
     * @param  Closure(string, string): string  $of the rows of a level, given a condition on bucket_at
     * @return list<stdClass> with the start of the interval as "at"
     */
    public static function parts(Window $window, int $step, Closure $of, string $sums, string $groups = ''): array
    {
        $union = array_map(
            static fn (array $part): string => $of($part['level'], "bucket_at >= {$part['from']} AND bucket_at < {$part['to']}"),
            $step < LoadAggregator::BUCKET_SECONDS
                ? [['level' => FineLoadStore::LEVEL, 'from' => $window->from, 'to' => $window->to]]
                : WindowCover::within($window, $step),
        );

        return array_values(
            DB::select(
                "SELECT GREATEST(bucket_at - bucket_at % {$step}, {$window->from}) AS at, {$sums} FROM (".
                    implode(' UNION ALL ', $union).
                    ") parts GROUP BY at{$groups}",
            ),
        );
    }

    /** Interval of the figures of a scope: finer than five minutes where a server was read so finely. */
    public static function stepOf(StatementScope $scope): int
    {
        return FineLoadStore::step($scope->cluster, $scope->window, Clock::seconds()) ?? self::step($scope->window->seconds());
    }

    private static function byOrigin(string $level): string
    {
        return $level === FineLoadStore::LEVEL ? FineLoadStore::byOrigin() : "load_by_origin_{$level}";
    }

    /** Interval that gives between 60 and 200 points. */
    public static function step(int $seconds): int
    {
        return match (true) {
            $seconds <= 12 * 3600 => 300,
            $seconds <= 36 * 3600 => 900,
            $seconds <= 8 * 86_400 => 3_600,
            $seconds <= 16 * 86_400 => 7_200,
            $seconds <= 35 * 86_400 => 14_400,
            default => 86_400,
        };
    }

    /**
     * @param  array<string, array<int, int>>  $parts name => place => microseconds
     * @param  list<int>  $seconds of each interval
     * @return array<string, list<float>> largest first, the rest as "other"
     */
    private function leading(array $parts, array $seconds, bool $fixed): array
    {
        if (! $fixed) {
            uasort($parts, static fn (array $a, array $b): int => array_sum($b) <=> array_sum($a));
        }
        $sums = [];
        foreach ($parts as $name => $values) {
            $key = ! $fixed && count($sums) >= self::SERIES && ! isset($sums[$name]) ? self::OTHER : (string) $name;
            $sums[$key] ??= array_fill(0, count($seconds), 0.0);
            foreach ($values as $i => $us) {
                $sums[$key][$i] += $us / 1e6 / $seconds[$i];
            }
        }

        return array_map(array_values(...), $sums);
    }
}
