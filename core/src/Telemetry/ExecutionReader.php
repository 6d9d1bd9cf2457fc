<?php

declare(strict_types=1);

namespace Fulcrion\Core\Telemetry;

use Fulcrion\Core\Sql\LongText;
use Fulcrion\Core\Time\MomentReader;

/**
 * Turns one decoded record into an Execution or into the reason why it is none.
 */
final class ExecutionReader
{
    /** Longest believable duration: 31 days. Longer ones come from broken clocks. */
    public const MAX_DURATION_US = 31 * 86_400_000_000;

    /** Largest statement text kept, in bytes. */
    public const MAX_SQL_BYTES = 4_194_304;

    /** The same without its lists of values. */
    public const MAX_TEXT_BYTES = 262_144;

    /** Rows, bytes or microseconds of one execution: sums of many have to fit 64 bits. */
    public const MOST = 1_000_000_000_000_000;

    private const COUNTS = [
        'rows_returned' => null,
        'rows_examined' => null,
        'rows_affected' => null,
        'bytes_scanned' => null,
        'bytes_spilled' => null,
        'lock_us' => null,
        'queued_us' => null,
        'cpu_us' => null,
        'tmp_tables_memory' => null,
        'tmp_tables_disk' => null,
        'sort_merge_passes' => null,
    ];

    private const TEXTS = [
        'cluster' => null,
        'database' => null,
        'user' => null,
        'application' => null,
        'client_host' => null,
        'queue' => null,
        'error' => null,
        'plan_ref' => null,
    ];

    /** Every field of a record, required ones first. */
    public const FIELDS = [
        'started_at',
        'duration_us',
        'sql',
        'cluster',
        'database',
        'user',
        'application',
        'client_host',
        'queue',
        'status',
        'error',
        'rows_returned',
        'rows_examined',
        'rows_affected',
        'bytes_scanned',
        'bytes_spilled',
        'lock_us',
        'queued_us',
        'cpu_us',
        'tmp_tables_memory',
        'tmp_tables_disk',
        'sort_merge_passes',
        'full_scan',
        'index_used',
        'warnings',
        'binds',
        'plan_ref',
    ];

    private readonly MomentReader $moments;

    /** What most records have in common. */
    private readonly ExecutionOutcome $fine;

    private readonly ExecutionTimes $untold;

    /**
     * @param  int  $nowUs records that begin more than a day later are refused, their clock is wrong
     */
    public function __construct(private readonly int $nowUs)
    {
        $this->moments = new MomentReader();
        [$this->fine, $this->untold] = [new ExecutionOutcome(), new ExecutionTimes()];
    }

    /**
     * One line of JSON Lines.
     */
    public function line(string $json): Execution|Rejection
    {
        $record = json_decode($json, true, 16);
        if ($record === null && json_last_error() === JSON_ERROR_UTF8) {
            // Statements may carry bytes of another encoding; keep the record, mark the bytes.
            $record = json_decode($json, true, 16, JSON_INVALID_UTF8_SUBSTITUTE);
        }
        if (! is_array($record) || ($record !== [] && array_is_list($record))) {
            return new Rejection(
                '(line)',
                $record === null && json_last_error() !== JSON_ERROR_NONE
                    ? 'not a JSON object: '.json_last_error_msg()
                    : 'not a JSON object: write one {...} a line',
            );
        }

        return $this->record($record);
    }

    /**
     * @param  array<array-key, mixed>  $record
     */
    public function record(array $record): Execution|Rejection
    {
        $startedAtUs = $this->startedAtUs($record);
        if ($startedAtUs instanceof Rejection) {
            return $startedAtUs;
        }
        $durationUs = self::durationUs($record);
        if ($durationUs instanceof Rejection) {
            return $durationUs;
        }
        $sql = $record['sql'] ?? null;
        $wrong = self::wrongText($sql);
        if ($wrong !== null || ! is_string($sql)) {
            return new Rejection('sql', (string) $wrong);
        }
        $status = isset($record['status']) ? (is_string($record['status']) ? Status::tryFrom($record['status']) : null) : Status::Ok;
        if ($status === null) {
            return new Rejection('status', 'is none of ok, error, cancelled, timed_out');
        }
        $counts = self::counts($record);
        if ($counts instanceof Rejection) {
            return $counts;
        }
        $texts = self::texts($record);
        if ($texts instanceof Rejection) {
            return $texts;
        }
        $flags = self::flags($record);
        if ($flags instanceof Rejection) {
            return $flags;
        }
        [$warningCount, $warnings] = self::warnings($record['warnings'] ?? null);
        if ($warningCount === false) {
            return new Rejection('warnings', 'is neither a number nor a list of texts');
        }
        $binds = $record['binds'] ?? null;
        $plainBinds = is_array($binds) ? array_filter($binds, static fn (mixed $bind): bool => $bind === null || is_scalar($bind)) : null;
        if ($binds !== null && $plainBinds !== $binds) {
            return new Rejection('binds', 'is not a list or object of plain values');
        }

        return new Execution(
            $startedAtUs,
            $durationUs,
            $sql,
            new ExecutionOrigin(
                $texts['cluster'],
                $texts['database'] ?? '',
                $texts['user'] ?? '',
                $texts['application'] ?? '',
                $texts['client_host'] ?? '',
                $texts['queue'],
            ),
            $this->outcome($status, $texts['error'], $warningCount, $warnings),
            $this->times($counts['lock_us'], $counts['queued_us'], $counts['cpu_us']),
            new ExecutionWork(
                $counts['rows_returned'],
                $counts['rows_examined'],
                $counts['rows_affected'],
                $counts['bytes_scanned'],
                $counts['bytes_spilled'],
                $counts['tmp_tables_memory'],
                $counts['tmp_tables_disk'],
                $counts['sort_merge_passes'],
                $flags['full_scan'],
                $flags['index_used'],
            ),
            $plainBinds,
            $texts['plan_ref'],
        );
    }

    /**
     * @param  list<string>  $warnings
     */
    private function outcome(Status $status, ?string $error, ?int $warningCount, array $warnings): ExecutionOutcome
    {
        return $status === Status::Ok && $error === null && $warningCount === null
            ? $this->fine
            : new ExecutionOutcome($status, $error, $warningCount, $warnings);
    }

    private function times(?int $lockUs, ?int $queuedUs, ?int $cpuUs): ExecutionTimes
    {
        return $lockUs === null && $queuedUs === null && $cpuUs === null ? $this->untold : new ExecutionTimes($lockUs, $queuedUs, $cpuUs);
    }

    /**
     * @param  array<mixed>  $record
     */
    private function startedAtUs(array $record): int|Rejection
    {
        $startedAtUs = $this->moments->microseconds($record['started_at'] ?? null);
        if ($startedAtUs === null) {
            return new Rejection(
                'started_at',
                isset($record['started_at']) ? 'is not a moment: write 2026-11-20T06:00:00.123456Z or Unix seconds' : 'is missing',
            );
        }

        return $startedAtUs > $this->nowUs + 86_400_000_000 || $startedAtUs < 946_684_800_000_000
            ? new Rejection(
                'started_at',
                'lies '.
                    ($startedAtUs > $this->nowUs ? 'more than a day in the future' : 'before the year 2000').
                    ': the clock of the source was wrong',
            )
            : $startedAtUs;
    }

    /**
     * @param  array<mixed>  $record
     */
    private static function durationUs(array $record): int|Rejection
    {
        $durationUs = self::count($record['duration_us'] ?? null);

        return $durationUs === null || $durationUs > self::MAX_DURATION_US
            ? new Rejection(
                'duration_us',
                match (true) {
                    ! isset($record['duration_us']) => 'is missing',
                    $durationUs !== null => 'is longer than 31 days',
                    default => 'is not a whole number of microseconds, 0 or more',
                },
            )
            : $durationUs;
    }

    /** What is wrong with the text of a statement; null where nothing is. */
    private static function wrongText(mixed $sql): ?string
    {
        return match (true) {
            $sql === null => 'is missing',
            ! is_string($sql) || trim($sql) === '' => 'is not a text with at least one character',
            strlen($sql) > self::MAX_SQL_BYTES => 'is longer than 4 MiB',
            strlen($sql) > self::MAX_TEXT_BYTES && strlen(LongText::shortened($sql)) > self::MAX_TEXT_BYTES =>
                'is longer than 256 KiB, its lists of values not counted',
            default => null,
        };
    }

    /**
     * @param  array<mixed>  $record
     * @return array<string, int|null>|Rejection by field of COUNTS
     */
    private static function counts(array $record): array|Rejection
    {
        // Only what the record has is looked at: most records have few of the optional fields.
        $counts = self::COUNTS;
        foreach (array_intersect_key($record, $counts) as $field => $value) {
            if ($value === null || $value === '') {
                continue;
            }
            $counts[$field] = is_int($value) && $value >= 0 ? $value : self::count($value);
            if ($counts[$field] === null) {
                return new Rejection($field, 'is not a whole number, 0 or more');
            }
            if ($counts[$field] > self::MOST) {
                return new Rejection($field, 'is more than a thousand million millions, which no statement does');
            }
        }

        return $counts;
    }

    /**
     * @param  array<mixed>  $record
     * @return array<string, string|null>|Rejection by field of TEXTS
     */
    private static function texts(array $record): array|Rejection
    {
        $texts = self::TEXTS;
        foreach (array_intersect_key($record, $texts) as $field => $value) {
            if ($value !== null && ! is_string($value)) {
                return new Rejection($field, 'is not a text');
            }
            if ($value !== null && $field !== 'error' && strlen($value) > 190) {
                return new Rejection($field, 'is longer than 190 bytes');
            }
            $texts[$field] = $value === '' ? null : $value;
        }

        return $texts;
    }

    /**
     * @param  array<mixed>  $record
     * @return array{full_scan: bool|null, index_used: bool|null}|Rejection
     */
    private static function flags(array $record): array|Rejection
    {
        $flags = [];
        foreach (['full_scan', 'index_used'] as $field) {
            $value = $record[$field] ?? null;
            $flags[$field] = is_bool($value) || $value === null || $value === '' ? ($value === '' ? null : $value) : self::flag($value);
            if ($flags[$field] === null && $value !== null && $value !== '') {
                return new Rejection($field, 'is neither true nor false');
            }
        }

        return $flags;
    }

    private static function count(mixed $value): ?int
    {
        if (is_int($value)) {
            return $value >= 0 ? $value : null;
        }
        if (is_float($value)) {
            return $value >= 0 && $value < 9e18 && floor($value) === $value ? (int) $value : null;
        }

        return is_string($value) && ctype_digit($value) && strlen($value) < 19 ? (int) $value : null;
    }

    private static function flag(mixed $value): ?bool
    {
        return match (is_string($value) ? strtolower($value) : $value) {
            true, 1, '1', 'true', 'yes', 'y', 't' => true,
            false, 0, '0', 'false', 'no', 'n', 'f' => false,
            default => null,
        };
    }

    /**
     * @return array{int|false|null, list<string>}
     */
    private static function warnings(mixed $value): array
    {
        if ($value === null || $value === '') {
            return [null, []];
        }
        if (is_array($value)) {
            $texts = [];
            foreach ($value as $text) {
                if (! is_string($text)) {
                    return [false, []];
                }
                $texts[] = mb_strcut($text, 0, 500);
            }

            return [count($texts), $texts];
        }
        $count = self::count($value);
        if ($count !== null) {
            return [min($count, 1_000_000), []];
        }

        return is_string($value) ? [1, [mb_strcut($value, 0, 500)]] : [false, []];
    }
}
