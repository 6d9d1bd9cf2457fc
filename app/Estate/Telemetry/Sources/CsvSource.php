<?php

declare(strict_types=1);

namespace App\Estate\Telemetry\Sources;

use Fulcrion\Core\Telemetry\ColumnMap;
use Fulcrion\Core\Telemetry\ExecutionReader;
use Fulcrion\Core\Telemetry\Rejection;
use Generator;

/**
 * RFC 4180 with a header. Comma, semicolon and tab are told apart by the header.
 */
final readonly class CsvSource implements RecordSource
{
    /** Lines one cell may span before its quote counts as never closed. */
    private const MAX_SPAN = 5_000;

    public function __construct(private ColumnMap $map)
    {
    }

    public function records(LineFile $file, ExecutionReader $reader): Generator
    {
        $head = self::head($file);
        if ($head === null) {
            return;
        }
        [$separator, $header, $headLine] = $head;
        $width = count($header);
        while (($record = self::readRecord($file)) !== null) {
            [$line, $raw] = $record;
            if (trim($raw) === '') {
                continue;
            }
            $cells = str_getcsv(rtrim($raw, "\r\n"), $separator, '"', '');
            if (count($cells) !== $width) {
                yield $line => [$headLine.$raw, new Rejection('(line)', 'has '.count($cells)." cells, the header has {$width}")];

                continue;
            }
            yield $line => [$headLine.$raw, $reader->record($this->map->apply(array_combine($header, array_map(strval(...), $cells))))];
        }
    }

    /**
     * @return array{string, list<string>, string}|null separator, column names, the header as it stands
     */
    public static function head(LineFile $file): ?array
    {
        $record = self::readRecord($file);
        if ($record === null) {
            return null;
        }
        $line = rtrim($record[1], "\r\n");
        $counts = ['"' => 0];
        foreach ([',', ';', "\t"] as $separator) {
            $counts[$separator] = substr_count($line, $separator);
        }
        arsort($counts);
        $separator = (string) array_key_first($counts);
        $separator = $separator === '"' ? ',' : $separator;

        return [$separator, array_map(static fn (?string $cell): string => trim((string) $cell), str_getcsv($line, $separator, '"', '')), $line."\n"];
    }

    /**
     * @return array{int, string}|null line number, text
     */
    private static function readRecord(LineFile $file): ?array
    {
        $raw = $file->next();
        if ($raw === null) {
            return null;
        }
        $line = $file->line;
        for ($span = 1; substr_count($raw, '"') % 2 === 1 && $span < self::MAX_SPAN; $span++) {
            $more = $file->next();
            if ($more === null) {
                break;
            }
            $raw .= $more;
        }

        return [$line, $raw];
    }
}
