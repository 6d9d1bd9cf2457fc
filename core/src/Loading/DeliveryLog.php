<?php

declare(strict_types=1);

namespace Fulcrion\Core\Loading;

use Fulcrion\Core\Time\MomentReader;

/**
 * Reads when each file of a delivery came (docs/formats/delivery.md): lines of CSV with a header, or of JSON.
 */
final readonly class DeliveryLog
{
    private const FIELDS = ['bytes', 'started', 'ended'];

    public const MOST_FILES = 200_000;

    private const COMPLAINTS = 20;

    /**
     * @param  list<TransferredFile>  $files times are microseconds since 1970
     * @param  list<string>  $complaints each with its line
     */
    private function __construct(public array $files, public array $complaints)
    {
    }

    public static function read(string $text): self
    {
        $text = str_starts_with($text, "\u{FEFF}") ? substr($text, 3) : $text;
        $lines = explode("\n", str_replace(["\r\n", "\r"], "\n", $text));
        $header = null;
        $files = $complaints = [];
        $reader = new MomentReader();
        foreach ($lines as $place => $line) {
            if (trim($line) === '') {
                continue;
            }
            if (count($files) >= self::MOST_FILES) {
                $complaints[] = 'Line '.($place + 1).': a delivery has at most '.self::MOST_FILES.' files; the rest was left out.';
                break;
            }
            if (str_starts_with(ltrim($line), '{')) {
                $record = json_decode($line, true);
            } else {
                $cells = array_map(static fn (?string $cell): string => trim((string) $cell), str_getcsv($line, ',', '"', ''));
                if ($header === null) {
                    $header = array_map(strtolower(...), $cells);
                    $missing = array_diff(self::FIELDS, $header);
                    if ($missing !== []) {
                        return new self([], ['Line '.($place + 1).': the header lacks '.implode(' and ', $missing)
                            .'. It names the columns: file, bytes, started, ended.']);
                    }

                    continue;
                }
                $record = count($cells) === count($header) ? array_combine($header, $cells) : null;
            }
            $one = is_array($record) ? self::file($record, $reader) : 'it has another number of cells than the header';
            if ($one instanceof TransferredFile) {
                $files[] = $one;
            } elseif (count($complaints) < self::COMPLAINTS) {
                $complaints[] = 'Line '.($place + 1).": {$one}.";
            }
        }

        return new self($files, $complaints);
    }

    /**
     * @param  array<mixed>  $record
     * @return TransferredFile|string what is wrong with it
     */
    private static function file(array $record, MomentReader $reader): TransferredFile|string
    {
        $bytes = $record['bytes'] ?? null;
        if (! is_int($bytes) && ! (is_string($bytes) && preg_match('~^\d{1,18}$~D', $bytes) === 1) || (int) $bytes < 0) {
            return 'bytes has to be a whole number';
        }
        $moments = [];
        foreach (['started', 'ended'] as $field) {
            $moments[] = $us = $reader->microseconds($record[$field] ?? null);
            if ($us === null) {
                return "{$field} has to be a moment, as 2026-11-15T01:30:00.250Z";
            }
        }

        return $moments[1] >= $moments[0] ? new TransferredFile((int) $bytes, (int) $moments[0], (int) $moments[1])
            : 'it ended before it started';
    }
}
