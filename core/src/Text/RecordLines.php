<?php

declare(strict_types=1);

namespace Fulcrion\Core\Text;

/**
 * Records a line each, as programs write logs: of CSV (RFC 4180) below a header, or of JSON; both may stand in one text.
 *
 * @template T of object
 */
final readonly class RecordLines
{
    private const COMPLAINTS = 20;

    /**
     * @param  list<T>  $records
     * @param  list<string>  $complaints each with its line
     */
    private function __construct(public array $records, public array $complaints)
    {
    }

    /**
     * @template R of object
     *
     * @param  list<string>  $fields a header has to name, in small letters
     * @param  callable(array<mixed>): (R|string)  $of makes a record of its fields, or says what is wrong with them
     * @param  string  $what there are at most so many of, for people
     * @return self<R>
     */
    public static function read(string $text, array $fields, int $most, string $what, callable $of): self
    {
        $text = str_starts_with($text, "\u{FEFF}") ? substr($text, 3) : $text;
        $header = null;
        $records = $complaints = [];
        foreach (explode("\n", str_replace(["\r\n", "\r"], "\n", $text)) as $place => $line) {
            if (trim($line) === '') {
                continue;
            }
            $at = 'Line '.($place + 1).': ';
            if (count($records) >= $most) {
                $complaints[] = "{$at}there are at most {$most} {$what}; the rest was left out.";
                break;
            }
            if (str_starts_with(ltrim($line), '{')) {
                $one = self::one(json_decode($line, true), 'it cannot be read as JSON', $of);
            } else {
                $cells = array_map(static fn (?string $cell): string => trim((string) $cell), str_getcsv($line, ',', '"', ''));
                if ($header === null) {
                    $header = array_map(strtolower(...), $cells);
                    $missing = array_diff($fields, $header);
                    if ($missing !== []) {
                        return new self([], ["{$at}the header lacks ".implode(' and ', $missing).'. It names the columns, among them '
                            .implode(', ', $fields).'.']);
                    }

                    continue;
                }
                $one = self::one(count($cells) === count($header) ? array_combine($header, $cells) : null,
                    'it has another number of cells than the header', $of);
            }
            if (! is_string($one)) {
                $records[] = $one;
            } elseif (count($complaints) < self::COMPLAINTS) {
                $complaints[] = "{$at}{$one}.";
            }
        }

        return new self($records, $complaints);
    }

    /**
     * @template R of object
     *
     * @param  callable(array<mixed>): (R|string)  $of
     * @return R|string
     */
    private static function one(mixed $record, string $otherwise, callable $of): object|string
    {
        return is_array($record) ? $of($record) : $otherwise;
    }
}
