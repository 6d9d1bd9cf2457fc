<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Sql;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Parquet\ParquetError;
use Fulcrion\Core\Parquet\ParquetReader;
use Fulcrion\Practice\Expression\Scalar;
use Fulcrion\Practice\Storage\FileSource;
use Fulcrion\Practice\Storage\Paths;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Practice\WarehouseError;

/**
 * Rows of files to be copied into a table.
 */
final readonly class CopyFiles
{
    private const BATCH = 5000;

    private function __construct(private string $path, private int $at)
    {
    }

    /** Only files of the cluster's inbox can be copied: a statement must not read whatever the process may read. */
    public static function of(Warehouse $warehouse, string $path, int $at): self
    {
        $inbox = (string) realpath($warehouse->inbox());
        $name = str_starts_with($path, 'inbox/') ? substr($path, 6) : $path;
        $real = realpath("{$inbox}/{$name}");
        if ($real === false || ! str_starts_with($real, "{$inbox}/")) {
            $files = array_map(basename(...), Paths::matching("{$inbox}/*"));
            throw new WarehouseError(
                "There is no file {$name} in the inbox of the cluster".
                    ($files === [] ? ', which is empty.' : '; there are '.implode(', ', $files).'.'),
                $at,
            );
        }

        return new self($real, $at);
    }

    /**
     * @param  list<Column>  $targets
     * @return iterable<list<list<int|float|string|bool|null>>> batches, one list a target
     */
    public function csv(array $targets, bool $header, string $delimiter): iterable
    {
        $file = @fopen($this->path, 'rb');
        if ($file === false) {
            throw new WarehouseError('The file '.basename($this->path).' cannot be opened.', $this->at);
        }
        try {
            $places = array_keys($targets);
            $line = 0;
            if ($header) {
                $head = fgetcsv($file, null, $delimiter, '"', '');
                $names = array_map(
                    static fn (?string $name): string => strtolower(trim((string) $name, " \xEF\xBB\xBF")),
                    $head === false ? [] : $head,
                );
                $line++;
                foreach ($targets as $i => $target) {
                    $place = array_search($target->name, $names, true);
                    $places[$i] = is_int($place)
                        ? $place
                        : throw new WarehouseError(
                            "Line 1 of the file names no column {$target->name}; it names ".implode(', ', $names).'.',
                            $this->at,
                        );
                }
            }
            $batch = array_fill(0, count($targets), []);
            while (($record = fgetcsv($file, null, $delimiter, '"', '')) !== false) {
                $line++;
                if ($record === [null]) {
                    continue;
                }
                foreach ($targets as $i => $target) {
                    $text =
                        $record[$places[$i]] ??
                        throw new WarehouseError(
                            "Line {$line} of the file has only ".count($record).' fields. Nothing was copied.',
                            $this->at,
                        );
                    try {
                        $batch[$i][] = $text === '' && ! $target->type->is(TypeKind::Text) ? null : self::value($text, $target->type);
                    } catch (WarehouseError $error) {
                        throw new WarehouseError(
                            "Line {$line}, column {$target->name}: {$error->getMessage()} Nothing was copied.",
                            $this->at,
                            "Line {$line}, column {$target->name}: {$error->sealed()} Nothing was copied.",
                        );
                    }
                }
                if (count($batch[0]) >= self::BATCH) {
                    yield $batch;
                    $batch = array_fill(0, count($targets), []);
                }
            }
            yield $batch;
        } finally {
            fclose($file);
        }
    }

    /**
     * @param  list<Column>  $targets
     * @return iterable<list<list<int|float|string|bool|null>>>
     */
    public function parquet(array $targets): iterable
    {
        try {
            $reader = ParquetReader::open(new FileSource($this->path));
            $types = [];
            foreach ($reader->columns as $column) {
                $types[strtolower($column->name)] = $column;
            }
            foreach ($targets as $target) {
                $found =
                    $types[$target->name] ??
                    throw new WarehouseError(
                        "The file has no column {$target->name}; it has ".implode(', ', array_keys($types)).'.',
                        $this->at,
                    );
                if (
                    (string) $found->type !== (string) $target->type &&
                    ! (
                        $found->type->is(TypeKind::Decimal) &&
                        $target->type->is(TypeKind::Decimal) &&
                        $found->type->scale === $target->type->scale
                    )
                ) {
                    throw new WarehouseError(
                        "The column {$target->name} is {$found->type} in the file and {$target->type} in the table.",
                        $this->at,
                    );
                }
            }
            for ($group = 0; $group < $reader->groupCount(); $group++) {
                yield array_map(
                    fn (Column $target): array => $this->fitting($reader->read($group, $types[$target->name]->name), $target),
                    $targets,
                );
            }
        } catch (ParquetError $error) {
            throw new WarehouseError($error->getMessage().' Nothing was copied.', $this->at);
        }
    }

    /**
     * @param  list<int|float|string|bool|null>  $values
     * @return list<int|float|string|bool|null>
     */
    private function fitting(array $values, Column $target): array
    {
        $type = $target->type;
        foreach ($type->is(TypeKind::Double, TypeKind::Decimal) ? $values : [] as $value) {
            if (is_float($value) && ! is_finite($value)) {
                throw new WarehouseError(
                    "The column {$target->name} holds a number that is infinite or none. Nothing was copied.",
                    $this->at,
                );
            }
            if (is_int($value) && $type->is(TypeKind::Decimal)) {
                Scalar::fits($value, $type->precision, $type->scale);
            }
        }

        return $values;
    }

    private static function value(string $text, ColumnType $type): int|float|string|bool
    {
        return match ($type->kind) {
            TypeKind::Bigint => Scalar::parseWhole($text),
            TypeKind::Double => Scalar::parseDouble($text),
            TypeKind::Decimal => Scalar::fits(Scalar::parseDecimal($text, $type->scale), $type->precision, $type->scale),
            TypeKind::Boolean => Scalar::parseBoolean($text),
            TypeKind::Date => Scalar::parseDate($text),
            TypeKind::Timestamp => Scalar::parseTime($text),
            TypeKind::Text => $text,
        };
    }
}
