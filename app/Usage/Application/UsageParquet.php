<?php

declare(strict_types=1);

namespace App\Usage\Application;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Parquet\Compression;
use Fulcrion\Core\Parquet\ParquetWriter;

/**
 * A table of use as a file of columns.
 */
final class UsageParquet
{
    public static function of(ExplorePage $page): string
    {
        $columns = $values = [];
        foreach ($page->table() as $line) {
            foreach ($line as $name => $value) {
                $columns[$name] ??= new Column((string) $name, ColumnType::of(is_int($value) ? TypeKind::Bigint : TypeKind::Text));
                $values[$name][] = $value;
            }
        }

        return (new ParquetWriter(Compression::Gzip))->write(array_values($columns), array_values($values));
    }
}
