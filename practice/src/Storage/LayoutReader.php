<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Storage;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnStatistics;
use Fulcrion\Core\Parquet\ParquetReader;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\ClusterRates;
use Fulcrion\Core\Storage\ColumnSpread;
use Fulcrion\Core\Storage\Encodings\Place;
use Fulcrion\Core\Storage\LayoutHistory;
use Fulcrion\Core\Storage\LayoutStatistics;
use Fulcrion\Core\Storage\LayoutUses;
use Fulcrion\Core\Storage\Sample;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Storage\TableOutline;
use Fulcrion\Practice\Rollups\Lookup;
use Fulcrion\Practice\Rollups\Rollup;

/**
 * Tells how a table lies, and draws from it.
 */
final readonly class LayoutReader
{
    /** Files younger than this may belong to a writer at work. */
    private const ORPHAN_S = 3600;

    /**
     * @return array<string, TableLayout> schema.table => how it lies
     */
    public static function all(Warehouse $warehouse, int $nowUs): array
    {
        $layouts = [];
        foreach ($warehouse->every() as $table) {
            $layouts["{$table->schema}.{$table->name}"] = self::of($warehouse, $table, $nowUs);
        }

        return $layouts;
    }

    /**
     * The same in outline, without reading what is known of each chunk.
     *
     * @return array<string, TableOutline> by schema.table
     */
    public static function outlines(Warehouse $warehouse): array
    {
        $outlines = [];
        foreach ($warehouse->every() as $table) {
            $name = "{$table->schema}.{$table->name}";
            $facts = $table->facts($warehouse->nodes);
            $outlines[$name] = new TableOutline(
                $name,
                $facts->definition,
                $facts->rows,
                $facts->bytes,
                $facts->chunks,
                $facts->smallChunks,
                $facts->partitions,
                $facts->rowsByNode,
                $warehouse->profile->rowFactor,
            );
        }

        return $outlines;
    }

    /**
     * @param  bool  $history whether old versions and files of no version are looked for, which reads every manifest
     */
    public static function of(Warehouse $warehouse, TableStore $store, int $nowUs, bool $history = false): TableLayout
    {
        $manifest = $store->manifest();
        $statistics = $store->statistics();
        $orphans = $history ? $store->orphans(intdiv($nowUs, 1_000_000) - self::ORPHAN_S) : [];

        return new TableLayout(
            "{$store->schema}.{$store->name}",
            $manifest->definition,
            $warehouse->nodes,
            $manifest->chunks,
            $warehouse->profile->rowFactor,
            null,
            'practice',
            new LayoutStatistics(
                array_map(
                    static fn (ColumnStatistics $column): array => ['distinct' => $column->distinct, 'nullShare' => $column->nullShare],
                    $statistics->columns ?? [],
                ),
                $statistics === null ? null : max(0, $nowUs - $statistics->collectedUs),
                $statistics === null ? 0.0 : ($manifest->rowsChanged - $statistics->rowsChanged) / max(1, $statistics->rows),
            ),
            new LayoutHistory(
                $manifest->version,
                $history ? self::versions($store, $manifest, $warehouse->nodes) : [],
                count($orphans),
                array_sum($orphans),
            ),
            new LayoutUses(
                array_map(strval(...), array_keys($warehouse->rewritings())),
                self::rollups($warehouse, "{$store->schema}.{$store->name}"),
                self::lookups($warehouse, "{$store->schema}.{$store->name}"),
            ),
        );
    }

    /**
     * @return list<array{name: string, sql: string, rows: int, bytes: int}>
     */
    private static function rollups(Warehouse $warehouse, string $table): array
    {
        $rollups = array_filter($warehouse->rollupBook()->rollups(), static fn (Rollup $rollup): bool => $rollup->fact === $table);

        return array_values(
            array_map(static function (Rollup $rollup) use ($warehouse): array {
                $manifest = $warehouse->rollupBook()->rows($rollup)->manifest();

                return [
                    'name' => $rollup->path(),
                    'sql' => $rollup->sql,
                    'rows' => $manifest->rows(),
                    'bytes' => $manifest->bytes($warehouse->nodes),
                ];
            }, $rollups),
        );
    }

    /**
     * @return list<array{name: string, key: string, columns: list<string>}>
     */
    private static function lookups(Warehouse $warehouse, string $table): array
    {
        $lookups = array_filter($warehouse->rollupBook()->lookups(), static fn (Lookup $lookup): bool => $lookup->table === $table);

        return array_values(
            array_map(
                static fn (Lookup $lookup): array => ['name' => $lookup->path(), 'key' => $lookup->key, 'columns' => $lookup->columns],
                $lookups,
            ),
        );
    }

    public static function rates(HardwareProfile $profile): ClusterRates
    {
        return new ClusterRates(
            ($profile->rowFactor * 1e6) / ($profile->cores * $profile->rowsPerSecondPerCore),
            ($profile->rowFactor * 1e6) / $profile->diskBytesPerSecond,
            ($profile->rowFactor * 1e6) / $profile->networkBytesPerSecond,
            $profile->chunkOpenUs / $profile->cores,
        );
    }

    /**
     * @return array{list<Place>, int} all rows of some nodes and partitions, of how many
     */
    public static function places(TableStore $store, int $most): array
    {
        $manifest = $store->manifest();
        $groups = [];
        foreach ($manifest->chunks as $chunk) {
            $groups["{$chunk->node}|{$chunk->partition}"][] = $chunk;
        }
        // By a digest of their names: neither all of one node nor all of one month, and the same ones every time.
        uksort($groups, static fn (string $a, string $b): int => strcmp(hash('xxh3', $a), hash('xxh3', $b)));
        $places = [];
        foreach (array_slice($groups, 0, $most) as $chunks) {
            $columns = [];
            foreach ($manifest->definition->columns as $column) {
                $columns[$column->name] = array_merge(
                    ...array_map(
                        static fn (Chunk $chunk): array =>
                            ParquetReader::open(new FileSource($store->file($chunk)))->readAll($column->name),
                        $chunks,
                    ),
                );
            }
            $places[] = new Place($columns);
        }

        return [$places, count($groups)];
    }

    /**
     * Rows from chunks spread evenly over the table, as many of each as its share.
     *
     * @param  list<string>|null  $columns null for all
     */
    public static function sample(TableStore $store, int $rows, ?array $columns = null): Sample
    {
        $manifest = $store->manifest();
        $names = $columns ?? array_map(static fn (Column $column): string => $column->name, $manifest->definition->columns);
        $total = $manifest->rows();
        $chunks = $manifest->chunks;
        // At most a few hundred files are opened.
        $every = max(1, (int) ceil(count($chunks) / 400));
        $taken = array_fill_keys($names, []);
        $near = $total === 0 ? 0.0 : min(1.0, ($rows * $every) / $total);
        foreach ($chunks as $i => $chunk) {
            if ($i % $every !== 0) {
                continue;
            }
            $wanted = min($chunk->rows, (int) ceil($chunk->rows * $near));
            $reader = ParquetReader::open(new FileSource($store->file($chunk)));
            $picked = self::picked($chunk->rows, $wanted);
            foreach ($names as $name) {
                $values = $reader->readAll($name);
                foreach ($picked as $row) {
                    $taken[$name][] = $values[$row];
                }
            }
        }

        return new Sample($taken, $total);
    }

    /**
     * One row of each of as many stretches of a chunk, so that none is left out. Where in its stretch goes by the golden
     * ratio: always at the same place, it would fall in step with rows that repeat themselves.
     *
     * @return list<int>
     */
    private static function picked(int $rows, int $wanted): array
    {
        $picked = [];
        for ($number = 0; $number < $wanted; $number++) {
            $low = intdiv($number * $rows, $wanted);
            $picked[] = $low + (int) (fmod($number * 0.618_033_988_749_895, 1.0) * (intdiv(($number + 1) * $rows, $wanted) - $low));
        }

        return $picked;
    }

    /** Counts how the rows would lie by the hash of a column; all rows are read. */
    public static function spread(TableStore $store, string $column, int $nodes): ColumnSpread
    {
        $counts = $values = [];
        foreach ($store->manifest()->chunks as $chunk) {
            foreach (ParquetReader::open(new FileSource($store->file($chunk)))->readAll($column) as $value) {
                $key = is_int($value) || is_string($value) ? $value : serialize($value);
                $counts[$key] = ($counts[$key] ?? 0) + 1;
                $values[$key] ??= $value;
            }
        }

        return ColumnSpread::of($column, $counts, static fn (int|string $key): int|float|string|bool|null => $values[$key] ?? null, $nodes);
    }

    /**
     * @return list<array{version: int, writtenUs: int, bytesAlone: int, files: int}>
     */
    private static function versions(TableStore $store, Manifest $current, int $nodes): array
    {
        $needed = array_fill_keys(array_map(static fn (Chunk $chunk): string => $chunk->file, $current->chunks), true);
        $versions = [];
        // From the latest: a file counts for the youngest version that still needs it.
        foreach (array_reverse($store->versions()) as $number) {
            if ($number === $current->version) {
                continue;
            }
            $outline = $store->outline($number, $nodes);
            $alone = array_diff_key($outline['files'], $needed);
            $needed += $alone;
            $versions[] = [
                'version' => $number,
                'writtenUs' => $outline['writtenUs'],
                'bytesAlone' => array_sum($alone),
                'files' => count($alone),
            ];
        }

        return array_reverse($versions);
    }
}
