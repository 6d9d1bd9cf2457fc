<?php

declare(strict_types=1);

namespace App\Workbench\Application;

use App\Platform\Support\ExportFormat;
use App\Platform\Support\Spreadsheet;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Parquet\Compression;
use Fulcrion\Core\Parquet\ParquetWriter;
use Illuminate\Http\Response;

/**
 * A result as a file of an open format.
 */
final readonly class ResultFile
{
    /**
     * @param  list<Column>  $columns
     * @param  list<list<int|float|string|bool|null>>  $rows
     */
    public function response(string $format, string $name, array $columns, array $rows): Response
    {
        [$body, $type] = match ($format) {
            'csv' => [$this->csv($columns, $rows), ExportFormat::Csv->contentType()],
            'json' => [$this->json($columns, $rows), ExportFormat::Json->contentType()],
            'xlsx' => [Spreadsheet::xlsx(self::typed($columns, $rows)), ExportFormat::Xlsx->contentType()],
            default => [$this->parquet($columns, $rows), 'application/vnd.apache.parquet'],
        };

        return response($body, 200, ['Content-Type' => $type, 'Content-Disposition' => "attachment; filename=\"{$name}.{$format}\""]);
    }

    /**
     * @param  list<Column>  $columns
     * @param  list<list<int|float|string|bool|null>>  $rows
     */
    private function csv(array $columns, array $rows): string
    {
        $path = (string) tempnam(sys_get_temp_dir(), 'csv');
        try {
            Spreadsheet::csv($path, self::shown($columns, $rows));

            return (string) file_get_contents($path);
        } finally {
            @unlink($path);
        }
    }

    /**
     * @param  list<Column>  $columns
     * @param  list<list<int|float|string|bool|null>>  $rows
     */
    private function json(array $columns, array $rows): string
    {
        $list = [];
        foreach ($rows as $row) {
            $record = [];
            foreach ($columns as $i => $column) {
                $name = isset($record[$column->name]) ? "{$column->name} ".($i + 1) : $column->name;
                $record[$name] =
                    $row[$i] === null || $column->type->is(TypeKind::Bigint, TypeKind::Double, TypeKind::Boolean)
                        ? $row[$i]
                        : $column->type->show($row[$i]);
            }
            $list[] = $record;
        }

        return json_encode(
            $list,
            JSON_THROW_ON_ERROR | JSON_PRETTY_PRINT | JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_INVALID_UTF8_SUBSTITUTE,
        )."\n";
    }

    /**
     * @param  list<Column>  $columns
     * @param  list<list<int|float|string|bool|null>>  $rows
     */
    private function parquet(array $columns, array $rows): string
    {
        $unique = [];
        foreach ($columns as $i => $column) {
            $taken = array_map(static fn (Column $c): string => $c->name, $unique);
            $unique[] = new Column(in_array($column->name, $taken, true) ? "{$column->name} ".($i + 1) : $column->name, $column->type);
        }
        $values = [];
        foreach (array_keys($columns) as $i) {
            $values[] =
                array_column($rows, $i) === [] ? [] : array_map(static fn (array $row): int|float|string|bool|null => $row[$i], $rows);
        }

        return (new ParquetWriter(Compression::Gzip))->write($unique, $values);
    }

    /**
     * @param  list<Column>  $columns
     * @param  list<list<int|float|string|bool|null>>  $rows
     * @return iterable<list<string>> as they are shown, names of columns first
     */
    private static function shown(array $columns, array $rows): iterable
    {
        yield array_map(static fn (Column $column): string => $column->name, $columns);
        foreach ($rows as $row) {
            $cells = [];
            foreach ($columns as $i => $column) {
                $cells[] = $row[$i] === null ? '' : $column->type->show($row[$i]);
            }
            yield $cells;
        }
    }

    /**
     * @param  list<Column>  $columns
     * @param  list<list<int|float|string|bool|null>>  $rows
     * @return iterable<list<int|float|string|bool|null>> numbers as numbers, names of columns first
     */
    private static function typed(array $columns, array $rows): iterable
    {
        yield array_map(static fn (Column $column): string => $column->name, $columns);
        foreach ($rows as $row) {
            $cells = [];
            foreach ($columns as $i => $column) {
                $isPlain = $row[$i] === null || $column->type->is(TypeKind::Bigint, TypeKind::Double, TypeKind::Boolean);
                $cells[] = $isPlain ? $row[$i] : $column->type->show($row[$i]);
            }
            yield $cells;
        }
    }
}
