<?php

declare(strict_types=1);

namespace Fulcrion\Core\Loading;

use Fulcrion\Core\Text\RecordLines;
use Fulcrion\Core\Time\MomentReader;

/**
 * Reads when each file of a delivery came (docs/formats/delivery.md): lines of CSV with a header, or of JSON.
 */
final readonly class DeliveryLog
{
    private const FIELDS = ['bytes', 'started', 'ended'];

    public const MOST_FILES = 200_000;

    /**
     * @param  list<TransferredFile>  $files times are microseconds since 1970
     * @param  list<string>  $complaints each with its line
     */
    private function __construct(public array $files, public array $complaints)
    {
    }

    public static function read(string $text): self
    {
        $reader = new MomentReader();
        $lines = RecordLines::read($text, self::FIELDS, self::MOST_FILES, 'files in a delivery',
            static fn (array $record): TransferredFile|string => self::file($record, $reader));

        return new self($lines->records, $lines->complaints);
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
