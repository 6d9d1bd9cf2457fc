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
     * @param  iterable<array<string, scalar|null>>  $rows
     */
    public static function table(string $format, string $name, iterable $rows): StreamedResponse
    {
        return response()->streamDownload(
            static function () use ($format, $rows): void {
                $out = fopen('php://output', 'wb');
                assert($out !== false);
                $first = true;
                if ($format === 'json') {
                    fwrite($out, '[');
                }
                foreach ($rows as $row) {
                    if ($format === 'json') {
                        fwrite(
                            $out,
                            ($first ? "\n" : ",\n").
                                json_encode($row, JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES | JSON_INVALID_UTF8_SUBSTITUTE),
                        );
                    } else {
                        if ($first) {
                            fputcsv($out, array_map(self::cell(...), array_keys($row)), ',', '"', '');
                        }
                        fputcsv($out, array_map(self::cell(...), $row), ',', '"', '');
                    }
                    $first = false;
                }
                if ($format === 'json') {
                    fwrite($out, "\n]\n");
                }
            },
            "{$name}.{$format}",
            ['Content-Type' => $format === 'json' ? 'application/json' : 'text/csv; charset=utf-8'],
        );
    }

    /** A cell that begins like a formula would be run by spreadsheet programs. */
    public static function cell(bool|int|float|string|null $value): string
    {
        $text = is_bool($value) ? ($value ? 'true' : 'false') : (string) $value;

        return is_string($value) && $text !== '' && str_contains("=+-@\t\r", $text[0]) ? "'{$text}" : $text;
    }
}
