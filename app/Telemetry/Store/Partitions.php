<?php

declare(strict_types=1);

namespace App\Telemetry\Store;

use Illuminate\Database\QueryException;
use Illuminate\Support\Facades\DB;
use stdClass;

/**
 * Keeps one partition a day in the tables that hold telemetry by bucket, and drops days that are over.
 */
final class Partitions
{
    public const TABLES = ['load_five_minute', 'load_hour', 'load_by_origin_five_minute', 'load_by_origin_hour', 'seen_executions'];

    private const DAY = 86_400;

    /** @var array<string, array<int, int>> table => upper bound => lower bound */
    private array $ranges = [];

    /**
     * Changing partitions ends an open transaction: call this before one begins.
     *
     * @param  list<int>  $buckets Unix seconds
     */
    public function ensure(array $buckets): void
    {
        $days = array_unique(array_map(static fn (int $at): int => $at - ($at % self::DAY), $buckets));
        sort($days);
        foreach (self::TABLES as $table) {
            $missing = array_values(array_filter($days, fn (int $day): bool => ! $this->has($table, $day)));
            if ($missing === []) {
                continue;
            }
            unset($this->ranges[$table]);
            foreach ($missing as $day) {
                if (! $this->has($table, $day)) {
                    $this->split($table, $day, $missing);
                }
            }
        }
    }

    /**
     * Removes whole days that no cluster keeps any more.
     *
     * @return int partitions dropped
     */
    public function dropBefore(int $at): int
    {
        $dropped = 0;
        foreach (self::TABLES as $table) {
            foreach ($this->rows($table) as $row) {
                if ($row->bound !== 'MAXVALUE' && (int) $row->bound <= $at) {
                    DB::statement("ALTER TABLE {$table} DROP PARTITION {$row->name}");
                    $dropped++;
                }
            }
            unset($this->ranges[$table]);
        }

        return $dropped;
    }

    private function has(string $table, int $day): bool
    {
        return ($this->ranges($table)[$day + self::DAY] ?? null) === $day;
    }

    /**
     * @return array<int, int> upper bound => lower bound of bounded partitions
     */
    private function ranges(string $table): array
    {
        if (! isset($this->ranges[$table])) {
            $ranges = [];
            $lower = 0;
            foreach ($this->rows($table) as $row) {
                if ($row->bound !== 'MAXVALUE') {
                    $ranges[(int) $row->bound] = $lower;
                    $lower = (int) $row->bound;
                }
            }
            $this->ranges[$table] = $ranges;
        }

        return $this->ranges[$table];
    }

    /**
     * @return list<stdClass> name, bound
     */
    private function rows(string $table): array
    {
        return array_values(DB::select(
            'SELECT partition_name AS name, partition_description AS bound FROM information_schema.partitions
            WHERE table_schema = DATABASE() AND table_name = ? ORDER BY partition_ordinal_position',
            [$table],
        ));
    }

    /**
     * Splits the partition that holds $day at every wanted day inside it.
     *
     * @param  list<int>  $wanted
     */
    private function split(string $table, int $day, array $wanted): void
    {
        $rows = $this->rows($table);
        $lower = 0;
        foreach ($rows as $row) {
            $upper = $row->bound === 'MAXVALUE' ? PHP_INT_MAX : (int) $row->bound;
            if ($day < $upper) {
                break;
            }
            $lower = $upper;
        }
        if (! isset($row, $upper)) {
            return;
        }
        $bounds = [];
        foreach ($wanted as $each) {
            if ($each >= $lower && $each < $upper) {
                $bounds[$each] = true;
                $bounds[$each + self::DAY] = true;
            }
        }
        unset($bounds[$lower], $bounds[0]);
        $parts = [];
        foreach (array_keys($bounds) as $bound) {
            if ($bound < $upper) {
                $parts[$bound] = 'PARTITION '.self::name($bound)." VALUES LESS THAN ({$bound})";
            }
        }
        ksort($parts);
        $parts[] =
            $upper === PHP_INT_MAX
                ? 'PARTITION rest VALUES LESS THAN MAXVALUE'
                : 'PARTITION '.self::name($upper)." VALUES LESS THAN ({$upper})";
        try {
            DB::statement("ALTER TABLE {$table} REORGANIZE PARTITION {$row->name} INTO (".implode(', ', $parts).')');
        } catch (QueryException $exception) {
            // Another writer may have made the same days in the meantime.
            unset($this->ranges[$table]);
            if (! $this->has($table, $day)) {
                throw $exception;
            }
        }
        unset($this->ranges[$table]);
    }

    private static function name(int $bound): string
    {
        return 'until_'.gmdate('Ymd', $bound);
    }
}
