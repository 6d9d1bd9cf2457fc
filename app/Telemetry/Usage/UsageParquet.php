<?php

declare(strict_types=1);

namespace App\Telemetry\Usage;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Parquet\Compression;
use Fulcrion\Core\Parquet\ParquetWriter;

/**
 * Rows of use or cost as a file of columns.
 */
final class UsageParquet
{
    /**
     * @param  iterable<array<int|string, int|string>>  $rows all of the same columns
     * @param  list<string>  $names columns of a file without rows
     */
    public static function of(iterable $rows, bool $mayBeNull = true, array $names = []): string
    {
        $column = static fn (string $name, TypeKind $kind): Column => new Column($name, ColumnType::of($kind), $mayBeNull);
        $columns = $values = [];
        foreach ($rows as $row) {
            foreach ($row as $name => $value) {
                $columns[$name] ??= $column((string) $name, is_int($value) ? TypeKind::Bigint : TypeKind::Text);
                $values[$name][] = $value;
            }
        }
        if ($columns === []) {
            $columns = array_map(static fn (string $name): Column => $column($name, TypeKind::Text), $names);
            $values = array_fill(0, count($names), []);
        }

        return (new ParquetWriter(Compression::Gzip))->write(array_values($columns), array_values($values));
    }
}
