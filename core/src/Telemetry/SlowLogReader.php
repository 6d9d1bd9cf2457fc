<?php

declare(strict_types=1);

namespace Fulcrion\Core\Telemetry;

use Fulcrion\Core\Plans\ExplainLines;

/**
 * Reads the text format of MariaDB's slow query log line by line. One entry is a block of `#` lines, optional `use` and
 * `SET timestamp` lines, and the statement, which ends where the next block begins.
 *
 * @see https://mariadb.com/kb/en/slow-query-log-overview/ the log's own documentation
 */
final class SlowLogReader
{
    /** The line a block begins with; inside a statement any other line with a `#` is a comment of it. */
    private const BLOCK = '~^# (?:Time: \d{6}\s|User@Host: .*\[.*\] @ )~';

    /** What the server writes about itself whenever it opens the log, wherever in it that is. */
    private const OPENED = '~^(?:\S*(?:mysqld|mariadbd)\S*, Version: .* started with:|Tcp port: .* Unix socket: '
        .'.*|Time\s+Id\s+Command\s+Argument)$~';

    /** @var array<string, mixed> */
    private array $record = [];

    /** @var list<string> lines with its plan */
    private array $explain = [];

    private string $sql = '';

    private string $raw = '';

    private int $firstLine = 0;

    private int $line = 0;

    private string $database = '';

    private bool $inStatement = false;

    /**
     * @return array{line: int, raw: string, record: array<string, mixed>, explain: list<string>}|null an entry that this line completed
     */
    public function feed(string $line): ?array
    {
        $this->line++;
        $text = rtrim($line, "\r\n");
        $begins = preg_match(self::BLOCK, $text) === 1;
        if (! $this->inStatement && str_starts_with($text, '# administrator command: ')) {
            // What clients ask of the server without SQL stands where a statement would.
            $text = substr($text, 2);
        }
        if (preg_match(self::OPENED, $text) === 1) {
            return $this->inStatement ? $this->finish() : null;
        }
        if ($begins || (! $this->inStatement && $this->record !== [] && str_starts_with($text, '#'))) {
            $done = $this->inStatement ? $this->finish() : null;
            $this->begin($line);
            $this->record['block'] = true;
            $this->header($text);

            return $done;
        }
        if ($this->record === [] && ! $this->inStatement) {
            if (trim($text) === '') {
                return null;
            }
            // The end of an entry whose beginning is in the log before this one: it is set aside, for it has no time.
            $this->firstLine = $this->line;
        }
        $this->raw .= $line;
        if ($this->sql === '') {
            // Behind the stamp a USE is the statement itself.
            if (! isset($this->record['timestamp']) && preg_match('~^use (`?)(.+)\1;$~i', $text, $match) === 1) {
                // The server writes the name as it is, whatever is in it.
                $this->database = $match[1] === '' ? $match[2] : str_replace('``', '`', $match[2]);

                return null;
            }
            // Once stamped, a SET is the statement itself.
            if (
                ! isset($this->record['timestamp']) &&
                preg_match('~^SET (?:\w+=\d+,)*timestamp=(\d+(?:\.\d+)?)(?:,\w+=\d+)*;$~i', $text, $match) === 1
            ) {
                $this->record['timestamp'] = (float) $match[1];

                return null;
            }
        }
        $this->inStatement = true;
        $this->sql .= ($this->sql === '' ? '' : "\n").$text;

        return null;
    }

    /**
     * @return array{line: int, raw: string, record: array<string, mixed>, explain: list<string>}|null the last entry of the log
     */
    public function end(): ?array
    {
        return $this->record === [] && ! $this->inStatement ? null : $this->finish();
    }

    private function begin(string $line): void
    {
        if ($this->raw === '') {
            $this->firstLine = $this->line;
        }
        $this->raw .= $line;
    }

    private function header(string $text): void
    {
        if (str_starts_with($text, '# User@Host:')) {
            if (preg_match('~^# User@Host:\s*([^\[]*)\[([^\]]*)\]\s*@\s*(\S*)\s*\[([^\]]*)\]~', $text, $m) === 1) {
                $this->record['user'] = $m[2] !== '' ? $m[2] : trim($m[1]);
                $this->record['client_host'] = $m[3] !== '' ? $m[3] : $m[4];
            }

            return;
        }
        if (ExplainLines::is($text)) {
            $this->explain[] = $text;

            return;
        }
        if (preg_match('~^# Thread_id: \d+\s+Schema: (.*?)\s+QC_hit: ~', $text, $m) === 1) {
            // The name of a schema may have spaces in it.
            $this->database = $m[1];

            return;
        }
        if (preg_match_all('~(\w+):\s+(\S+)~', $text, $pairs, PREG_SET_ORDER) > 0) {
            foreach ($pairs as [, $name, $value]) {
                $this->pair($name, $value);
            }
        }
    }

    private function pair(string $name, string $value): void
    {
        $field = match ($name) {
            'Rows_sent' => 'rows_returned',
            'Rows_examined' => 'rows_examined',
            'Rows_affected' => 'rows_affected',
            'Merge_passes' => 'sort_merge_passes',
            default => null,
        };
        if ($field !== null) {
            $this->record[$field] = $value;

            return;
        }
        switch ($name) {
            case 'Query_time':
                $this->record['duration_us'] = self::microseconds($value);
                break;
            case 'Lock_time':
                $this->record['lock_us'] = self::microseconds($value);
                break;
            case 'Full_scan':
                $this->record['full_scan'] = $value === 'Yes';
                break;
            case 'Tmp_tables':
                $this->record['tmp_tables'] = (int) $value;
                break;
            case 'Tmp_disk_tables':
                $this->record['tmp_tables_disk'] = (int) $value;
                break;
        }
    }

    private static function microseconds(string $seconds): ?int
    {
        return is_numeric($seconds) ? (int) round((float) $seconds * 1_000_000) : null;
    }

    /**
     * @return array{line: int, raw: string, record: array<string, mixed>, explain: list<string>}
     */
    private function finish(): array
    {
        $record = $this->record;
        if (isset($record['timestamp'], $record['duration_us']) && is_float($record['timestamp'])) {
            // The stamp is the moment the statement began.
            $record['started_at'] = $record['timestamp'];
        }
        if (isset($record['tmp_tables']) && is_int($record['tmp_tables'])) {
            $disk = is_int($record['tmp_tables_disk'] ?? null) ? $record['tmp_tables_disk'] : 0;
            $record['tmp_tables_memory'] = max(0, $record['tmp_tables'] - $disk);
        }
        unset($record['block'], $record['timestamp'], $record['tmp_tables']);
        $record['database'] = $this->database;
        $sql = rtrim($this->sql);
        $record['sql'] = str_ends_with($sql, ';') ? substr($sql, 0, -1) : $sql;
        $done = ['line' => $this->firstLine, 'raw' => $this->raw, 'record' => $record, 'explain' => $this->explain];
        $this->record = $this->explain = [];
        $this->sql = $this->raw = '';
        $this->inStatement = false;

        return $done;
    }
}
