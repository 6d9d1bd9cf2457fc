<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

use Fulcrion\Core\Catalog\ZoneMap;

/**
 * Lays a sample out as a definition says and measures what the workload would read of it. Chunks have the share of the
 * sample that whole ones have of the table.
 */
final readonly class LayoutTrial
{
    /** Rows that are dealt at a time: each node gets a piece of them that came together. */
    private const DEALT = 4_096;

    /**
     * @param  list<string>  $columns those bounds are wanted of
     */
    public static function index(Sample $sample, TableDefinition $definition, int $nodes, array $columns): ChunkIndex
    {
        $zones = $sizes = $places = [];
        $rows = $sample->rows();
        $perChunk = max(1, (int) round(($definition->chunkRows * $rows) / max(1, $sample->of)));
        $values = array_map($sample->column(...), $columns);
        foreach (self::groups($sample, $definition, $nodes) as $group => $members) {
            $node = (int) $group;
            if ($definition->clustering !== []) {
                // Rows alike in the key come in any order, whatever order they have now.
                $members = self::mixed($members);
                $keys = array_map(static fn (string $name): array => self::pick($sample->column($name), $members), $definition->clustering);
                $members = array_map(static fn (int $i): int => $members[$i], $definition->clustering()->order($keys));
            }
            foreach (array_chunk($members, $perChunk) as $chunk) {
                $zones[] = array_map(static fn (array $list): ZoneMap => self::zone(self::pick($list, $chunk)), $values);
                $sizes[] = count($chunk);
                $places[] = $node;
            }
        }

        return new ChunkIndex($zones, $sizes, $columns, $places);
    }

    /**
     * Share of the table read by a workload, each statement weighted by what it read before.
     *
     * @param  list<array{weight: float, predicates: list<Predicate>}>  $asked
     */
    public static function share(ChunkIndex $index, array $asked): float
    {
        $read = $weight = 0.0;
        foreach ($asked as $one) {
            $read += $one['weight'] * $index->share($one['predicates']);
            $weight += $one['weight'];
        }

        return $weight > 0 ? $read / $weight : 1.0;
    }

    /** Rows of a chunk on average, where nodes and partitions may have fewer than one is meant to hold. */
    public static function chunkRows(Sample $sample, TableDefinition $definition, int $nodes): int
    {
        $rows = $sample->rows();
        $perChunk = max(1.0, ($definition->chunkRows * $rows) / max(1, $sample->of));
        $chunks = 0;
        foreach (self::groups($sample, $definition, $nodes) as $members) {
            $chunks += (int) ceil(count($members) / $perChunk);
        }

        return max(1, min($definition->chunkRows, intdiv($sample->of, max(1, $chunks))));
    }

    /**
     * @return array<string, list<int>> rows of each node and partition
     */
    private static function groups(Sample $sample, TableDefinition $definition, int $nodes): array
    {
        $rows = $sample->rows();
        $partition = $definition->partitioning;
        $type = $partition === null ? null : $definition->column($partition->column)?->type;
        $parts = $partition === null ? [] : $sample->column($partition->column);
        $hash =
            $definition->distribution->kind === Distribution::HASH
                ? array_map($sample->column(...), $definition->distribution->columns)
                : [];
        $groups = [];
        $apart = $sample->of / max(1, $rows);
        for ($i = 0; $i < $rows; $i++) {
            $node = match ($definition->distribution->kind) {
                Distribution::HASH => Distribution::node(
                    array_map(static fn (array $list): int|float|string|bool|null => $list[$i], $hash),
                    $nodes,
                ),
                Distribution::EVEN => self::dealt((int) ($i * $apart), $sample->of, $nodes),
                default => Chunk::EVERY_NODE,
            };
            $groups[$node.'|'.($partition === null || $type === null ? '' : $partition->name($parts[$i], $type))][] = $i;
        }

        return $groups;
    }

    /**
     * In another order: steps of the golden ratio through all of them.
     *
     * @param  list<int>  $rows
     * @return list<int>
     */
    private static function mixed(array $rows): array
    {
        $count = count($rows);
        $step = max(1, (int) ($count * 0.618));
        while ($step > 1 && self::divisor($step, $count) !== 1) {
            $step--;
        }
        $mixed = [];
        for ($i = 0, $at = 0; $i < $count; $i++, $at = ($at + $step) % $count) {
            $mixed[] = $rows[$at];
        }

        return $mixed;
    }

    private static function divisor(int $a, int $b): int
    {
        return $b === 0 ? $a : self::divisor($b, $a % $b);
    }

    /** The node a row of an evenly distributed table is dealt to, by where it comes. */
    private static function dealt(int $row, int $of, int $nodes): int
    {
        $begin = $row - ($row % self::DEALT);

        return intdiv(($row - $begin) * $nodes, max(1, min(self::DEALT, $of - $begin)));
    }

    /**
     * @param  list<int|float|string|bool|null>  $values
     * @param  list<int>  $rows
     * @return list<int|float|string|bool|null>
     */
    private static function pick(array $values, array $rows): array
    {
        $picked = [];
        foreach ($rows as $row) {
            $picked[] = $values[$row];
        }

        return $picked;
    }

    /**
     * @param  list<int|float|string|bool|null>  $values
     */
    private static function zone(array $values): ZoneMap
    {
        $min = $max = null;
        $nulls = 0;
        foreach ($values as $value) {
            if ($value === null) {
                $nulls++;
            } elseif ($min === null || $max === null) {
                $min = $max = $value;
            } elseif (is_string($value)) {
                $min = strcmp($value, (string) $min) < 0 ? $value : $min;
                $max = strcmp($value, (string) $max) > 0 ? $value : $max;
            } else {
                $min = $value < $min ? $value : $min;
                $max = $value > $max ? $value : $max;
            }
        }

        return new ZoneMap($min, $max, $nulls, count($values), 0);
    }
}
