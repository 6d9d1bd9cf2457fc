<?php

declare(strict_types=1);

namespace App\Telemetry\Store;

use Fulcrion\Core\Statements\LatencySketch;
use Fulcrion\Core\Statements\LoadAggregate;
use Fulcrion\Core\Statements\WindowCover;
use Fulcrion\Core\Time\Window;
use Illuminate\Support\Facades\DB;
use PDO;

/**
 * Reads tallies over a window from the fewest rows that cover it.
 */
final class Sums
{
    /**
     * @param  list<string>  $columns names of Tally::SUMS, min_us, max_us
     * @param  list<int>|null  $origins ids, null for all
     * @param  list<int>|null  $statements ids, null for all
     * @return array<int, array<string, int>> statement => column => sum
     */
    public function perStatement(int $clusterId, Window $window, array $columns, ?array $origins = null, ?array $statements = null): array
    {
        return $origins === [] || $statements === []
            ? []
            : LoadMemory::remember(
                $clusterId,
                'per statement',
                [$window, $columns, $origins, $statements],
                [],
                static fn (): array => self::summed($clusterId, $window, $columns, $origins, $statements),
            );
    }

    /**
     * @param  list<string>  $columns
     * @param  list<int>|null  $origins
     * @param  list<int>|null  $statements
     * @return array<int, array<string, int>>
     */
    private static function summed(int $clusterId, Window $window, array $columns, ?array $origins, ?array $statements): array
    {
        // Extremes cannot be taken away from each other.
        $sumsOnly = array_intersect($columns, ['min_us', 'max_us']) === [] && in_array('executions', $columns, true);
        $inner = implode(', ', array_map(static fn (string $name): string => self::aggregate($name)." AS {$name}", $columns));
        $where = self::in('origin_id', $origins).self::in('statement_id', $statements);
        $parts = [];
        foreach (WindowCover::of($window, $sumsOnly) as $part) {
            $parts[] = "(SELECT statement_id, {$part['sign']} AS sign, {$inner} FROM load_{$part['level']}
                WHERE cluster_id = {$clusterId} AND bucket_at >= {$part['from']} AND bucket_at < {$part['to']}{$where} GROUP BY "
                    .'statement_id ORDER BY NULL)';
        }
        $outer = implode(
            ', ',
            array_map(
                static fn (string $name): string => match ($name) {
                    'min_us' => 'MIN(min_us)',
                    'max_us' => 'MAX(max_us)',
                    default => "SUM(sign * {$name})",
                },
                $columns,
            ),
        );
        // Thousands of rows: read as plain lists, without an object for each.
        $rows = DB::connection()
            ->getReadPdo()
            ->query(
                "SELECT statement_id, {$outer} FROM (".implode(' UNION ALL ', $parts).') parts GROUP BY statement_id ORDER BY NULL',
            );
        $out = [];
        foreach ($rows === false ? [] : $rows->fetchAll(PDO::FETCH_NUM) as $row) {
            $id = array_shift($row);
            $out[$id] = array_combine($columns, array_map(intval(...), $row));
        }

        // What was there only in the part that was taken away did not run in the window.
        return $sumsOnly
            ? array_filter($out, static fn (array $sums): bool => $sums['executions'] > 0 || ($sums['load_us'] ?? 0) > 0)
            : $out;
    }

    /**
     * @param  list<int>|null  $origins
     * @param  list<int>  $statements
     * @return array<int, LatencySketch> statement => durations
     */
    public function sketches(int $clusterId, Window $window, array $statements, ?array $origins = null): array
    {
        if ($statements === [] || $origins === []) {
            return [];
        }

        return LoadMemory::remember(
            $clusterId,
            'sketches',
            [$window, $statements, $origins],
            [LatencySketch::class],
            static fn (): array => self::merged($clusterId, $window, $statements, $origins),
        );
    }

    /**
     * @param  list<int>|null  $origins
     * @param  list<int>  $statements
     * @return array<int, LatencySketch>
     */
    private static function merged(int $clusterId, Window $window, array $statements, ?array $origins): array
    {
        $bytes = [];
        foreach (WindowCover::of($window) as $part) {
            $rows = DB::select(
                "SET STATEMENT group_concat_max_len = 268435456 FOR SELECT statement_id, GROUP_CONCAT(sketch SEPARATOR '') AS sketch
                FROM load_{$part['level']} WHERE cluster_id = {$clusterId} AND bucket_at >= {$part['from']} AND bucket_at < {$part['to']}".
                    self::in('origin_id', $origins).
                    self::in('statement_id', $statements).
                    ' GROUP BY statement_id',
            );
            foreach ($rows as $row) {
                $bytes[$row->statement_id] = ($bytes[$row->statement_id] ?? '').$row->sketch;
            }
        }

        return array_map(LatencySketch::fromBinary(...), $bytes);
    }

    /**
     * @param  list<int>|null  $origins ids, null for all
     */
    public function executions(int $clusterId, Window $window, ?array $origins = null): int
    {
        $sum = 0;
        foreach ($origins === [] ? [] : WindowCover::of($window) as $part) {
            // Without statements there are no longer rows than hours, and few enough of those.
            $level = $part['level'] === 'five_minute' ? 'five_minute' : 'hour';
            $row = DB::selectOne(
                "SELECT SUM(executions) AS executions FROM load_by_origin_{$level} WHERE cluster_id = {$clusterId} AND bucket_at "
                    .">= {$part['from']} AND bucket_at < {$part['to']}".
                    self::in('origin_id', $origins),
            );
            $sum += (int) $row->executions;
        }

        return $sum;
    }

    /**
     * @return list<string>
     */
    public static function all(): array
    {
        return [...LoadAggregate::SUMS, 'min_us', 'max_us'];
    }

    /**
     * @param  list<int>|null  $ids
     */
    public static function in(string $column, ?array $ids): string
    {
        return $ids === null ? '' : " AND {$column} IN (".implode(',', array_map(intval(...), $ids)).')';
    }

    private static function aggregate(string $name): string
    {
        return match ($name) {
            'min_us' => 'MIN(min_us)',
            'max_us' => 'MAX(max_us)',
            // Whole numbers up to 2^53 are exact as doubles, and added several times faster than as decimals.
            default => "SUM({$name} + 0e0)",
        };
    }
}
