<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Catalog\ZoneMap;
use Fulcrion\Core\Parquet\ParquetError;
use Fulcrion\Core\Parquet\ParquetReader;

/**
 * Makes the layout of a table out of the footers of its files, flat or in folders named key=value. A file is a chunk.
 */
final class FolderLayout
{
    /** The rule of thumb of the trade for files on a lake. */
    public const TARGET_BYTES = 268_435_456;

    /** @var list<array{path: string, bytes: int, keys: array<string, string>, rows: int, zones: array<string, ZoneMap>}> */
    private array $files = [];

    /** @var array<string, Column> */
    private array $columns = [];

    /** @var array<string, true> names of folders' keys */
    private array $keys = [];

    /**
     * Takes the footer of a file; no data is read.
     *
     * @param  string  $path from the folder
     * @return string|null why it does not belong to the table; null when it does
     *
     * @throws ParquetError
     */
    public function add(string $path, int $bytes, ParquetReader $reader): ?string
    {
        foreach ($reader->columns as $column) {
            $known = $this->columns[$column->name] ?? null;
            if ($known !== null && (string) $known->type !== (string) $column->type) {
                return "its column {$column->name} is {$column->type}, in other files {$known->type}";
            }
        }
        $zones = [];
        $groups = $reader->groupCount();
        foreach ($reader->columns as $column) {
            $this->columns[$column->name] ??= $column;
            $min = $max = null;
            $nulls = $size = 0;
            $bounded = true;
            for ($group = 0; $group < $groups; $group++) {
                $statistics = $reader->statistics($group, $column->name);
                $size += $reader->bytes($group, $column->name);
                $nulls += $statistics->nullCount ?? 0;
                if ($statistics->min === null || $statistics->max === null) {
                    $bounded = false;
                } else {
                    $min = $min === null || Predicate::compare($statistics->min, $min) < 0 ? $statistics->min : $min;
                    $max = $max === null || Predicate::compare($statistics->max, $max) > 0 ? $statistics->max : $max;
                }
            }
            $zones[$column->name] = new ZoneMap($bounded ? $min : null, $bounded ? $max : null, $nulls, $reader->rowCount, $size);
        }
        $keys = [];
        foreach (array_slice(explode('/', $path), 0, -1) as $folder) {
            if (preg_match('~^([^=]+)=(.*)$~', $folder, $match) === 1) {
                $keys[$match[1]] = rawurldecode($match[2]);
                $this->keys[$match[1]] = true;
            }
        }
        $this->files[] = ['path' => $path, 'bytes' => $bytes, 'keys' => $keys, 'rows' => $reader->rowCount, 'zones' => $zones];

        return null;
    }

    public function layout(string $name): TableLayout
    {
        $columns = array_values($this->columns);
        $keyTypes = [];
        foreach (array_keys($this->keys) as $key) {
            $values = array_column(array_column($this->files, 'keys'), $key);
            $keyTypes[$key] = ColumnType::of(
                match (true) {
                    array_filter($values, static fn (string $value): bool => preg_match('~^-?\d{1,'
                        .'18}$~', $value) !== 1) === [] => TypeKind::Bigint,
                    array_filter($values, static fn (string $value): bool =>
                        preg_match('~^\d{4}-\d{2}-\d{2}$~', $value) !== 1) === [] => TypeKind::Date,
                    default => TypeKind::Text,
                },
            );
            if (! isset($this->columns[$key])) {
                $columns[] = new Column($key, $keyTypes[$key]);
            }
        }
        $chunks = [];
        foreach ($this->files as $file) {
            $zones = [];
            foreach ($columns as $column) {
                $zone = $file['zones'][$column->name] ?? null;
                $key = $file['keys'][$column->name] ?? null;
                $value = match (true) {
                    $key === null || $zone !== null => null,
                    $column->type->kind === TypeKind::Bigint => (int) $key,
                    $column->type->kind === TypeKind::Date => intdiv((int) strtotime("{$key} UTC"), 86_400),
                    default => $key,
                };
                // A column a file does not have is null in all its rows.
                $zones[] = $zone ?? new ZoneMap($value, $value, $value === null ? $file['rows'] : 0, $file['rows'], 0);
            }
            $partition = implode(
                '/',
                array_map(static fn (string|int $key, string $value): string =>
                    "{$key}={$value}", array_keys($file['keys']), $file['keys']),
            );
            $chunks[] = new Chunk($file['path'], 0, $partition, $file['rows'], $file['bytes'], $zones);
        }
        $key = array_key_first($this->keys);
        $rows = array_sum(array_column($this->files, 'rows'));
        $bytes = array_sum(array_column($this->files, 'bytes'));

        return new TableLayout(
            $name,
            new TableDefinition(
                $columns,
                Distribution::even(),
                $key === null ? null : new Partitioning($key, null),
                [],
                max(1, (int) round(self::TARGET_BYTES / max(1, $bytes / max(1, $rows)))),
            ),
            1,
            $chunks,
            1,
            self::TARGET_BYTES,
            'files',
            new LayoutStatistics([], null, 0.0),
            new LayoutHistory(0, [], 0, 0),
        );
    }

    /**
     * Rows that could lie in the files as far as their bounds tell: spread evenly between least and greatest value, by
     * a fixed sequence of its own for each column so that columns do not go together by accident.
     */
    public static function imagined(TableLayout $layout, int $rows): Sample
    {
        $total = max(1, $layout->rows());
        $columns = [];
        foreach ($layout->definition->columns as $number => $column) {
            $values = [];
            $turn = 0.5;
            // Weyl's sequence with the square roots of primes is spread evenly and needs no chance.
            $step = fmod(sqrt([2, 3, 5, 7, 11, 13, 17, 19, 23, 29, 31, 37][$number % 12]), 1.0);
            foreach ($layout->chunks as $chunk) {
                $zone = $chunk->zones[$number];
                $count = max(1, (int) round(($chunk->rows / $total) * $rows));
                for ($i = 0; $i < $count; $i++) {
                    $turn = fmod($turn + $step, 1.0);
                    $values[] = match (true) {
                        $zone->min === null || $zone->max === null => null,
                        is_int($zone->min) && is_int($zone->max) => $zone->min + (int) floor($turn * ($zone->max - $zone->min + 1)),
                        is_string($zone->min) || is_bool($zone->min) || is_string($zone->max) || is_bool($zone->max) => $turn < 0.5
                            ? $zone->min
                            : $zone->max,
                        default => $zone->min + $turn * ($zone->max - $zone->min),
                    };
                }
            }
            $columns[$column->name] = $values;
        }

        return new Sample($columns, $total);
    }
}
