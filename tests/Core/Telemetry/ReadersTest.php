<?php

declare(strict_types=1);

namespace Tests\Core\Telemetry;

use Fulcrion\Core\Telemetry\ColumnMap;
use Fulcrion\Core\Telemetry\Execution;
use Fulcrion\Core\Telemetry\ExecutionReader;
use Fulcrion\Core\Telemetry\Rejection;
use Fulcrion\Core\Telemetry\SlowLogReader;
use Fulcrion\Core\Telemetry\Status;
use Opis\JsonSchema\Validator;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class ReadersTest extends TestCase
{
    /** 2026-11-20 12:00:00 UTC */
    private const NOW_US = 1_795_176_000_000_000;

    public function test_three_fields_are_enough(): void
    {
        $execution = self::read(['started_at' => '2026-11-20T06:00:00.5Z', 'duration_us' => 12, 'sql' => 'SELECT 1']);
        self::assertInstanceOf(Execution::class, $execution);
        self::assertSame(
            [1_795_154_400_500_000, 12, Status::Ok, null],
            [$execution->startedAtUs, $execution->durationUs, $execution->outcome->status, $execution->work->rowsExamined],
        );
    }

    public function test_moments_in_every_form_mean_the_same(): void
    {
        $reader = new ExecutionReader(self::NOW_US);
        foreach (
            [
                '2026-11-20T06:00:00Z',
                '2026-11-20 06:00:00',
                '2026-11-20T07:00:00+01:00',
                '2026-11-20T01:30:00-0430',
                '2026-11-20T06:00:00.000000000Z',
                1_795_154_400,
                1_795_154_400.0,
                '1795154400',
            ] as $moment
        ) {
            $execution = $reader->record(['started_at' => $moment, 'duration_us' => 1, 'sql' => 'x']);
            self::assertInstanceOf(Execution::class, $execution, (string) $moment);
            self::assertSame(1_795_154_400_000_000, $execution->startedAtUs, (string) $moment);
        }
    }

    /**
     * @param  array<string, mixed>  $change
     */
    #[DataProvider('broken')]
    public function test_a_bad_record_is_told_by_field_and_remedy(array $change, string $field, string $reason): void
    {
        $rejection = self::read($change + ['started_at' => '2026-11-20T06:00:00Z', 'duration_us' => 12, 'sql' => 'SELECT 1']);
        self::assertInstanceOf(Rejection::class, $rejection);
        self::assertSame($field, $rejection->field);
        self::assertStringContainsString($reason, $rejection->reason);
    }

    /** @return iterable<string, array{array<string, mixed>, string, string}> */
    public static function broken(): iterable
    {
        yield 'no moment' => [['started_at' => null], 'started_at', 'is missing'];
        yield 'a day that does not exist' => [['started_at' => '2026-02-30T06:00:00Z'], 'started_at', 'is not a moment'];
        yield 'words' => [['started_at' => 'yesterday'], 'started_at', 'is not a moment'];
        yield 'a clock that jumped ahead' => [['started_at' => '2031-01-01T00:00:00Z'], 'started_at', 'future'];
        yield 'a clock that fell back' => [['started_at' => '1970-01-01T00:00:01Z'], 'started_at', 'before the year 2000'];
        yield 'negative duration' => [['duration_us' => -1], 'duration_us', 'whole number'];
        yield 'broken duration' => [['duration_us' => 1.5], 'duration_us', 'whole number'];
        yield 'endless duration' => [['duration_us' => 9_000_000_000_000], 'duration_us', '31 days'];
        yield 'empty text' => [['sql' => '  '], 'sql', 'at least one character'];
        yield 'unknown status' => [['status' => 'fine'], 'status', 'none of'];
        yield 'text for a count' => [['rows_examined' => 'many'], 'rows_examined', 'whole number'];
        yield 'a list for a user' => [['user' => ['a']], 'user', 'not a text'];
        yield 'a very long user' => [['user' => str_repeat('u', 191)], 'user', '190'];
        yield 'neither true nor false' => [['full_scan' => 'maybe'], 'full_scan', 'neither'];
        yield 'nested binds' => [['binds' => [['a']]], 'binds', 'plain values'];
        yield 'broken warnings' => [['warnings' => [1]], 'warnings', 'list of texts'];
    }

    public function test_lines_that_are_no_objects_and_bytes_of_another_encoding(): void
    {
        $reader = new ExecutionReader(self::NOW_US);
        foreach (['{"a":', '[1]', '"x"', 'null', '12'] as $line) {
            $rejection = $reader->line($line);
            self::assertInstanceOf(Rejection::class, $rejection, $line);
            self::assertSame('(line)', $rejection->field);
        }
        $execution = $reader->line("{\"started_at\":1795154400,\"duration_us\":1,\"sql\":\"SELECT 'caf\xe9'\"}");
        self::assertInstanceOf(Execution::class, $execution);
        self::assertStringStartsWith("SELECT 'caf", $execution->sql);
    }

    public function test_our_schema_and_our_reader_agree(): void
    {
        $schema = (string) file_get_contents(__DIR__.'/../../../docs/formats/execution.schema.json');
        $validator = new Validator();
        $good = [
            'started_at' => '2026-11-20T06:00:00Z',
            'duration_us' => 12,
            'sql' => 'SELECT 1',
            'cluster' => 'fernhill',
            'database' => 'd',
            'user' => 'u',
            'application' => 'a',
            'client_host' => 'h',
            'queue' => 'q',
            'status' => 'error',
            'error' => 'e',
            'rows_returned' => 1,
            'rows_examined' => 2,
            'rows_affected' => 3,
            'bytes_scanned' => 4,
            'bytes_spilled' => 5,
            'lock_us' => 6,
            'queued_us' => 7,
            'cpu_us' => 8,
            'tmp_tables_memory' => 9,
            'tmp_tables_disk' => 10,
            'sort_merge_passes' => 11,
            'full_scan' => true,
            'index_used' => false,
            'warnings' => ['w'],
            'binds' => ['a', 1, null],
            'plan_ref' => 'p',
        ];
        self::assertSame(ExecutionReader::FIELDS, array_keys($good));
        self::assertInstanceOf(Execution::class, self::read($good));
        self::assertTrue($validator->validate(json_decode((string) json_encode($good)), $schema)->isValid());
        foreach (['started_at', 'duration_us', 'sql'] as $required) {
            self::assertFalse(
                $validator->validate(json_decode((string) json_encode(array_diff_key($good, [$required => 1]))), $schema)->isValid(),
                $required,
            );
        }
        foreach (
            [['duration_us' => -1], ['status' => 'fine'], ['rows_examined' => 'many'], ['binds' => [['a']]], ['sql' => '']] as $change
        ) {
            self::assertFalse($validator->validate(json_decode((string) json_encode($change + $good)), $schema)->isValid());
            self::assertInstanceOf(Rejection::class, self::read($change + $good));
        }
    }

    public function test_reads_a_slow_log_entry_by_entry(): void
    {
        $log = <<<'LOG'
        /usr/sbin/mariadbd, Version: 10.11.11-MariaDB (Debian 12). started with:
        Tcp port: 33420  Unix socket: /run/db.sock
        Time		    Id Command	Argument
        # Time: 261120  6:00:01
        # User@Host: board[board] @ hub [10.0.0.7]
        # Thread_id: 12  Schema: field  QC_hit: No
        # Query_time: 1.250000  Lock_time: 0.000100  Rows_sent: 5  Rows_examined: 900
        # Rows_affected: 0  Bytes_sent: 80
        # Full_scan: Yes  Full_join: No  Tmp_table: Yes  Tmp_table_on_disk: Yes
        # Filesort: Yes  Filesort_on_disk: No  Merge_passes: 2  Priority_queue: No
        # Tmp_tables: 3  Tmp_disk_tables: 1  Tmp_table_sizes: 0
        SET timestamp=1795154400;
        SELECT a
        # not a header, a comment
        FROM t;
        # User@Host: [loader] @  [10.0.0.8]
        # Thread_id: 13  Schema:   QC_hit: No
        # Query_time: 0.5  Lock_time: 0  Rows_sent: 0  Rows_examined: 0
        use trade;
        SET timestamp=1795154410;
        DELETE FROM t WHERE a = 1;
        LOG;
        $reader = new SlowLogReader();
        $entries = [];
        foreach (explode("\n", $log) as $line) {
            $entries[] = $reader->feed(trim($line)."\n");
        }
        $entries[] = $reader->end();
        $entries = array_values(array_filter($entries));
        self::assertCount(2, $entries);
        self::assertSame([4, 16], array_column($entries, 'line'));
        $one = (new ExecutionReader(self::NOW_US))->record($entries[0]['record']);
        self::assertInstanceOf(Execution::class, $one);
        self::assertSame("SELECT a\n# not a header, a comment\nFROM t", $one->sql);
        self::assertSame(
            [1_795_154_400_000_000, 1_250_000, 100, 5, 900, 2, 1, true, 'board', 'hub', 'field'],
            [
                $one->startedAtUs,
                $one->durationUs,
                $one->times->lockUs,
                $one->work->rowsReturned,
                $one->work->rowsExamined,
                $one->work->tmpTablesMemory,
                $one->work->tmpTablesDisk,
                $one->work->fullScan,
                $one->origin->user,
                $one->origin->clientHost,
                $one->origin->database,
            ],
        );
        $two = (new ExecutionReader(self::NOW_US))->record($entries[1]['record']);
        self::assertInstanceOf(Execution::class, $two);
        self::assertSame(
            ['trade', 'loader', '10.0.0.8', 'DELETE FROM t WHERE a = 1'],
            [$two->origin->database, $two->origin->user, $two->origin->clientHost, $two->sql],
        );
    }

    public function test_foreign_columns_are_recognised_with_their_units(): void
    {
        $map = ColumnMap::guess(['Start Time', 'elapsed_ms', 'query_text', 'usr', 'noise']);
        self::assertSame([], $map->missing());
        self::assertSame(
            ['started_at' => '2026-11-20 06:00:00', 'duration_us' => 1_500, 'sql' => 'SELECT 1', 'user' => 'ada'],
            $map->apply([
                'Start Time' => '2026-11-20 06:00:00',
                'elapsed_ms' => '1.5',
                'query_text' => 'SELECT 1',
                'usr' => 'ada',
                'noise' => 'x',
            ]),
        );
        self::assertSame(['duration_us', 'sql'], ColumnMap::guess(['started_at', 'x'])->missing());
    }

    /**
     * @param  array<string, mixed>  $record
     */
    private static function read(array $record): Execution|Rejection
    {
        return (new ExecutionReader(self::NOW_US))->record($record);
    }
}
