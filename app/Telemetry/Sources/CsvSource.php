<?php

declare(strict_types=1);

namespace App\Telemetry\Sources;

use Fulcrion\Core\Telemetry\ColumnMap;
use Fulcrion\Core\Telemetry\Execution;
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
        $read = function (string $raw) use ($reader, $separator, $header, $width): Execution|Rejection {
            $cells = array_map(strval(...), str_getcsv(rtrim($raw, "\r\n"), $separator, '"', ''));

            return count($cells) === $width
                ? $reader->record($this->map->apply(array_combine($header, $cells)))
                : new Rejection('(line)', 'has '.count($cells)." cells, the header has {$width}");
        };
        /** @var list<array{int, string}> $waiting lines that were read on and are to be read again */
        $waiting = [];
        while (($next = array_shift($waiting) ?? self::line($file)) !== null) {
            [$line, $raw] = $next;
            if (trim($raw) === '') {
                continue;
            }
            $lines = [$next];
            $closed = true;
            while (self::isOpen($raw, $separator)) {
                $more = count($lines) >= self::MAX_SPAN ? null : array_shift($waiting) ?? self::line($file);
                // A line that is a record by itself does not stand inside of a cell: the quote before it was a stray one.
                if (
                    $more === null ||
                    (substr_count($more[1], $separator) >= $width - 1 &&
                        ! self::isOpen($more[1], $separator) &&
                        $read($more[1]) instanceof Execution)
                ) {
                    $closed = false;
                    array_unshift($waiting, ...$more === null ? [] : [$more]);
                    break;
                }
                $lines[] = $more;
                $raw .= $more[1];
            }
            if ($closed) {
                yield $line => [$headLine.$raw, $read($raw)];

                continue;
            }
            foreach ($lines as $i => [$number, $lost]) {
                if (trim($lost) !== '') {
                    yield $number => [
                        $headLine.$lost,
                        new Rejection(
                            '(line)',
                            $i === 0 ? 'has a quote that is not closed' : "follows a quote in line {$line} that is not closed",
                        ),
                    ];
                }
            }
        }
    }

    /**
     * @return array{string, list<string>, string}|null separator, column names, the header as it stands
     */
    public static function head(LineFile $file): ?array
    {
        $record = self::line($file);
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

        return [
            $separator,
            array_map(static fn (?string $cell): string => trim((string) $cell), str_getcsv($line, $separator, '"', '')),
            $line."\n",
        ];
    }

    /**
     * @return array{int, string}|null its number, its text
     */
    private static function line(LineFile $file): ?array
    {
        $raw = $file->next();

        return $raw === null ? null : [$file->line, $raw];
    }

    /** Whether a text ends inside of a quoted cell. A quote only opens one where a cell begins. */
    private static function isOpen(string $raw, string $separator): bool
    {
        if (! str_contains($raw, '"')) {
            return false;
        }
        $length = strlen($raw);
        $at = 0;
        while ($at < $length) {
            for ($doubled = $raw[$at] === '"'; $doubled; $at += $doubled ? 1 : 0) {
                $at = strpos($raw, '"', $at + 1);
                if ($at === false) {
                    return true;
                }
                $doubled = ($raw[$at + 1] ?? '') === '"';
            }
            $next = strpos($raw, $separator, $at);
            $end = strpos($raw, "\n", $at);
            $at = min($next === false ? $length : $next + 1, $end === false ? $length : $end + 1);
        }

        return false;
    }
}
