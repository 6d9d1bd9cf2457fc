<?php

declare(strict_types=1);

namespace Fulcrion\Core\Layout;

use Fulcrion\Core\Catalog\ZoneMap;

/**
 * Lays a sample out as a definition says and measures what the workload would read of it. Chunks have the share of the
 * sample that whole ones have of the table.
 */
final readonly class Trial
{
    /**
     * @param  list<string>  $columns those bounds are wanted of
     */
    public static function index(Sample $sample, TableDefinition $definition, int $nodes, array $columns): ChunkIndex
    {
        $zones = $sizes = [];
        $rows = $sample->rows();
        $perChunk = max(1, (int) round($definition->chunkRows * $rows / max(1, $sample->of)));
        $values = array_map($sample->column(...), $columns);
        foreach (self::groups($sample, $definition, $nodes) as $members) {
            if ($definition->clustering !== []) {
                $keys = array_map(static fn (string $name): array => self::pick($sample->column($name), $members), $definition->clustering);
                $members = array_map(static fn (int $i): int => $members[$i], $definition->clustering()->order($keys));
            }
            foreach (array_chunk($members, $perChunk) as $chunk) {
                $zones[] = array_map(static fn (array $list): ZoneMap => self::zone(self::pick($list, $chunk)), $values);
                $sizes[] = count($chunk);
            }
        }

        return new ChunkIndex($zones, $sizes, $columns);
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

    /**
     * @return array<string, list<int>> rows of each node and partition
     */
    private static function groups(Sample $sample, TableDefinition $definition, int $nodes): array
    {
        $rows = $sample->rows();
        $partition = $definition->partitioning;
        $type = $partition === null ? null : $definition->column($partition->column)?->type;
        $parts = $partition === null ? [] : $sample->column($partition->column);
        $hash = $definition->distribution->kind === Distribution::HASH ? array_map($sample->column(...), $definition->distribution->columns) : [];
        $groups = [];
        for ($i = 0; $i < $rows; $i++) {
            $node = match ($definition->distribution->kind) {
                Distribution::HASH => Distribution::node(array_map(static fn (array $list): int|float|string|bool|null => $list[$i], $hash), $nodes),
                Distribution::EVEN => $i % $nodes,
                default => Chunk::EVERY_NODE,
            };
            $groups[$node.'|'.($partition === null || $type === null ? '' : $partition->name($parts[$i], $type))][] = $i;
        }

        return $groups;
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
