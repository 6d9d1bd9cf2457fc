<?php

declare(strict_types=1);

namespace Fulcrion\Core\Telemetry;

/**
 * Which column of a foreign table means which field, and in which unit its times are.
 */
final readonly class ColumnMap
{
    /** Factors to microseconds. */
    public const UNITS = ['us' => 1, 'ms' => 1_000, 's' => 1_000_000];

    /** Plain names of the trade that need no asking. */
    private const SYNONYMS = [
        'started_at' => ['start_time', 'started', 'start', 'begin_time', 'query_start', 'timestamp', 'ts', 'time'],
        'duration_us' => [
            'duration',
            'elapsed',
            'elapsed_us',
            'elapsed_ms',
            'duration_ms',
            'duration_s',
            'query_time',
            'total_time',
            'run_time',
            'execution_time',
            'latency',
            'elapsed_time',
        ],
        'sql' => ['query', 'query_text', 'sql_text', 'statement', 'text'],
        'database' => ['db', 'schema', 'database_name', 'schema_name'],
        'user' => ['user_name', 'username', 'usr', 'account', 'login'],
        'application' => ['app', 'application_name', 'program', 'client_application', 'app_name'],
        'client_host' => ['host', 'client', 'client_ip', 'client_addr', 'remote_host'],
        'rows_returned' => ['rows_sent', 'rows', 'row_count', 'result_rows', 'rows_out'],
        'rows_examined' => ['rows_read', 'rows_scanned'],
        'rows_affected' => ['rows_changed', 'rows_written'],
        'bytes_scanned' => ['bytes_read', 'bytes', 'scanned_bytes'],
        'bytes_spilled' => ['spilled_bytes', 'spill_bytes', 'bytes_spilled_to_disk'],
        'lock_us' => ['lock_time', 'lock_ms', 'lock_wait'],
        'queued_us' => ['queue_time', 'queued_ms', 'queue_ms', 'wait_time'],
        'cpu_us' => ['cpu_time', 'cpu_ms'],
        'status' => ['state', 'outcome', 'result'],
        'error' => ['error_message', 'error_text'],
    ];

    private const TIMES = ['duration_us', 'lock_us', 'queued_us', 'cpu_us'];

    /**
     * @param  array<string, array{column: string, unit: string}>  $fields field => where it comes from
     */
    public function __construct(public array $fields)
    {
    }

    /**
     * A first proposal from the names alone; the unit is read off an ending such as `_ms`.
     *
     * @param  list<string>  $header
     */
    public static function guess(array $header): self
    {
        $fields = [];
        foreach (ExecutionReader::FIELDS as $field) {
            foreach ([$field, ...self::SYNONYMS[$field] ?? []] as $name) {
                foreach ($header as $column) {
                    if (self::plain($column) === $name) {
                        $unit = preg_match('~_(us|ms|s)$~', $name, $m) === 1 ? $m[1] : 'ms';
                        $fields[$field] = ['column' => $column, 'unit' => in_array($field, self::TIMES, true) ? $unit : 'us'];

                        continue 3;
                    }
                }
            }
        }

        return new self($fields);
    }

    /**
     * Whether the proposal may be used without asking: it names the required fields exactly as the format does.
     *
     * @param  list<string>  $header
     */
    public static function isOurs(array $header): bool
    {
        return array_diff(['started_at', 'duration_us', 'sql'], $header) === [];
    }

    /**
     * @return list<string> required fields without a column
     */
    public function missing(): array
    {
        return array_values(array_diff(['started_at', 'duration_us', 'sql'], array_keys($this->fields)));
    }

    /**
     * @param  array<string, string>  $row column => cell
     * @return array<string, mixed>
     */
    public function apply(array $row): array
    {
        $record = [];
        foreach ($this->fields as $field => ['column' => $column, 'unit' => $unit]) {
            $cell = $row[$column] ?? '';
            if ($cell === '') {
                continue;
            }
            if (in_array($field, self::TIMES, true) && $unit !== 'us' && is_numeric($cell)) {
                $cell = (int) round((float) $cell * self::UNITS[$unit]);
            } elseif ($field === 'binds') {
                $cell = json_decode($cell, true, 16) ?? $cell;
            } elseif ($field === 'warnings' && $cell[0] === '[') {
                $cell = json_decode($cell, true, 16) ?? $cell;
            } elseif ($field === 'status') {
                $cell = strtolower($cell);
            }
            $record[$field] = $cell;
        }

        return $record;
    }

    public static function isTime(string $field): bool
    {
        return in_array($field, self::TIMES, true);
    }

    private static function plain(string $column): string
    {
        return strtolower((string) preg_replace(['~(?<=[a-z])(?=[A-Z])~', '~\W+~'], '_', trim($column)));
    }
}
