<?php

declare(strict_types=1);

namespace Fulcrion\Core\Backup;

use Fulcrion\Core\Text\Parts;
use Fulcrion\Core\Text\RecordLines;
use Fulcrion\Core\Time\MomentReader;

/**
 * Reads which backups were taken (docs/formats/backups.md): lines of CSV with a header, or of JSON.
 */
final readonly class BackupLog
{
    private const FIELDS = ['plan', 'schemas', 'started', 'ended'];

    public const MOST = 10_000;

    private const MOST_SCHEMAS = 200;

    private const MOST_TEXT = 400;

    private const MOST_NAME = 120;

    /**
     * @param  list<Backup>  $backups
     * @param  list<string>  $complaints each with its line
     */
    private function __construct(public array $backups, public array $complaints)
    {
    }

    public static function read(string $text): self
    {
        $reader = new MomentReader();
        $lines = RecordLines::read($text, self::FIELDS, self::MOST, 'backups in a log',
            static fn (array $record): Backup|string => self::backup($record, $reader));

        return new self($lines->records, $lines->complaints);
    }

    /**
     * @param  array<mixed>  $record
     * @return Backup|string what is wrong with it
     */
    private static function backup(array $record, MomentReader $reader): Backup|string
    {
        $plan = trim(self::text($record['plan'] ?? null));
        if ($plan === '' || mb_strlen($plan) > self::MOST_NAME) {
            return 'plan has to be a name of at most '.self::MOST_NAME.' characters, the same each time';
        }
        $schemas = self::schemas($record['schemas'] ?? null);
        if (is_string($schemas)) {
            return $schemas;
        }
        $kind = BackupKind::tryFrom(strtolower(Parts::first(self::text($record['kind'] ?? null), BackupKind::Full->value)));
        if ($kind === null) {
            return 'kind has to be full or incremental';
        }
        $bytes = ($record['bytes'] ?? '') === '' ? null : $record['bytes'];
        if ($bytes !== null && ! (is_int($bytes) && $bytes >= 0) && ! (is_string($bytes) && preg_match('~^\d{1,18}$~D', $bytes) === 1)) {
            return 'bytes has to be a whole number';
        }
        $moments = [];
        foreach (['started', 'ended', 'removed'] as $field) {
            $said = $record[$field] ?? '';
            $moments[$field] = $said === '' ? null : $reader->microseconds($said);
            if ($moments[$field] === null && ($said !== '' || $field !== 'removed')) {
                return "{$field} has to be a moment, as 2026-11-15T01:30:00Z";
            }
        }
        if ($moments['ended'] < $moments['started']) {
            return 'it ended before it started';
        }
        if ($moments['removed'] !== null && $moments['removed'] < $moments['ended']) {
            return 'it was removed before it ended';
        }
        $failure = trim(self::text($record['failed'] ?? null));

        return new Backup(
            $plan,
            $kind,
            $schemas,
            (int) $moments['started'],
            (int) $moments['ended'],
            $bytes === null ? null : (int) $bytes,
            mb_substr(trim(self::text($record['place'] ?? null)), 0, self::MOST_TEXT),
            $failure === '' ? null : mb_substr($failure, 0, self::MOST_TEXT),
            $moments['removed'],
        );
    }

    /**
     * @return non-empty-list<string>|string what is wrong with them
     */
    private static function schemas(mixed $said): array|string
    {
        $names = is_array($said) ? array_map(self::text(...), array_values($said)) : Parts::split('~[\s,;]+~', self::text($said));
        $names = array_values(array_unique(array_map(trim(...), $names)));

        return match (true) {
            $names === [] || in_array('', $names, true) => 'schemas has to name at least one schema',
            count($names) > self::MOST_SCHEMAS => 'schemas names more than '.self::MOST_SCHEMAS.' schemas',
            max(array_map(mb_strlen(...), $names)) > self::MOST_NAME => 'the name of a schema has at most '.self::MOST_NAME.' characters',
            default => $names,
        };
    }

    private static function text(mixed $value): string
    {
        return is_string($value) || is_int($value) ? (string) $value : '';
    }
}
