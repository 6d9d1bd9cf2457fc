<?php

declare(strict_types=1);

namespace App\Platform\Support;

use Symfony\Component\HttpFoundation\StreamedResponse;

/**
 * Tables to take away.
 */
final class Export
{
    /**
     * @param  string  $format one of the words of ExportFormat
     * @param  iterable<array<string, scalar|null>>  $rows all of the same columns
     */
    public static function table(string $format, string $name, iterable $rows): StreamedResponse
    {
        $format = ExportFormat::from($format);

        return response()->streamDownload(
            static function () use ($format, $rows): void {
                match ($format) {
                    ExportFormat::Csv => Spreadsheet::csv('php://output', self::withHead($rows)),
                    ExportFormat::Json => self::json($rows),
                    ExportFormat::Xlsx => print Spreadsheet::xlsx(self::withHead($rows)),
                };
            },
            "{$name}.{$format->value}",
            ['Content-Type' => $format->contentType()],
        );
    }

    /** A cell that begins like a formula would be run by spreadsheet programs; a number is none. */
    public static function cell(bool|int|float|string|null $value): string
    {
        $text = is_bool($value) ? ($value ? 'true' : 'false') : (string) $value;

        return is_string($value) && $text !== '' && ! is_numeric($text) && str_contains("=+-@\t\r", $text[0]) ? "'{$text}" : $text;
    }

    /**
     * @param  iterable<array<string, scalar|null>>  $rows
     * @return iterable<list<scalar|null>> the names of their columns first
     */
    private static function withHead(iterable $rows): iterable
    {
        $isFirst = true;
        foreach ($rows as $row) {
            if ($isFirst) {
                yield array_keys($row);
            }
            $isFirst = false;
            yield array_values($row);
        }
    }

    /**
     * @param  iterable<array<string, scalar|null>>  $rows
     */
    private static function json(iterable $rows): void
    {
        $before = "[\n";
        foreach ($rows as $row) {
            echo $before.json_encode($row, JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_INVALID_UTF8_SUBSTITUTE);
            $before = ",\n";
        }
        echo($before === ",\n" ? '' : '[')."\n]\n";
    }
}
