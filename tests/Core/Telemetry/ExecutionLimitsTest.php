<?php

declare(strict_types=1);

namespace Tests\Core\Telemetry;

use Fulcrion\Core\Statements\LatencySketch;
use Fulcrion\Core\Statements\LoadAggregate;
use Fulcrion\Core\Telemetry\Execution;
use Fulcrion\Core\Telemetry\ExecutionReader;
use Fulcrion\Core\Telemetry\Fact;
use Fulcrion\Core\Telemetry\Rejection;
use Fulcrion\Core\Telemetry\Status;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Every field of a record: what is taken, up to which limit, where it goes, and what it adds to.
 */
final class ExecutionLimitsTest extends TestCase
{
    private const NOW_US = 1_795_176_000_000_000;

    private const LEAST = ['started_at' => '2026-11-20T06:00:00Z', 'duration_us' => 12, 'sql' => 'SELECT 1'];

    /**
     * @return array<string, array{int, string}> field => its bit, the sum it goes into
     */
    private static function counted(): array
    {
        return [
            'rows_returned' => [Fact::ROWS_RETURNED, 'rows_returned'],
            'rows_examined' => [Fact::ROWS_EXAMINED, 'rows_examined'],
            'rows_affected' => [Fact::ROWS_AFFECTED, 'rows_affected'],
            'bytes_scanned' => [Fact::BYTES_SCANNED, 'bytes_scanned'],
            'bytes_spilled' => [Fact::BYTES_SPILLED, 'bytes_spilled'],
            'lock_us' => [Fact::LOCK, ''],
            'queued_us' => [Fact::QUEUED, ''],
            'cpu_us' => [Fact::CPU, ''],
            'tmp_tables_memory' => [Fact::TMP_MEMORY, 'tmp_memory'],
            'tmp_tables_disk' => [Fact::TMP_DISK, 'tmp_disk'],
            'sort_merge_passes' => [Fact::SORT_PASSES, 'sort_passes'],
        ];
    }

    public function test_a_count_goes_to_its_own_place_and_tells_that_it_is_known(): void
    {
        $value = static fn (Execution $e, string $field): ?int => match ($field) {
            'rows_returned' => $e->work->rowsReturned,
            'rows_examined' => $e->work->rowsExamined,
            'rows_affected' => $e->work->rowsAffected,
            'bytes_scanned' => $e->work->bytesScanned,
            'bytes_spilled' => $e->work->bytesSpilled,
            'lock_us' => $e->times->lockUs,
            'queued_us' => $e->times->queuedUs,
            'cpu_us' => $e->times->cpuUs,
            'tmp_tables_memory' => $e->work->tmpTablesMemory,
            'tmp_tables_disk' => $e->work->tmpTablesDisk,
            default => $e->work->sortMergePasses,
        };
        foreach (self::counted() as $field => [$bit, $sum]) {
            foreach ([0, 7, '7', 7.0, ExecutionReader::MOST, (string) ExecutionReader::MOST] as $given) {
                $execution = self::taken([$field => $given]);
                self::assertSame((int) $given, $value($execution, $field), $field);
                self::assertSame(Fact::DURATIONS | $bit, $execution->facts(), $field);
                foreach (array_keys(self::counted()) as $other) {
                    self::assertTrue($other === $field || $value($execution, $other) === null, "{$field} is not {$other}");
                }
            }
            foreach ([null, ''] as $nothing) {
                self::assertSame(Fact::DURATIONS, self::taken([$field => $nothing])->facts(), "{$field} is not known");
            }
            foreach ([-1, 1.5, '1.5', ' 7', '07x', true, [], 1e19, '9999999999999999999'] as $wrong) {
                self::assertSame($field, self::refused([$field => $wrong])->field, $field.' '.json_encode($wrong));
            }
            self::assertStringContainsString('no statement does', self::refused([$field => ExecutionReader::MOST + 1])->reason);
            if ($sum !== '') {
                $whole = new LoadAggregate();
                $whole->add(self::taken([$field => 5]));
                $whole->add(self::taken([$field => 3]));
                $whole->add(self::taken([]));
                self::assertSame(8, $whole->sums[$sum], $field);
                $others = ['executions' => 3, 'duration_us' => 36, $sum => 8] + ($field === 'sort_merge_passes' ? ['multi_pass' => 2] : []);
                $sums = array_filter($whole->sums, static fn (int $one): bool => $one !== 0);
                self::assertSame($others, array_intersect_key($others, $sums) + array_diff_key($sums, $others), $field);
            }
        }
    }

    public function test_each_bit_stands_for_one_thing(): void
    {
        $bits = [
            Fact::LOCK, Fact::CPU, Fact::QUEUED, Fact::ROWS_RETURNED, Fact::ROWS_EXAMINED, Fact::ROWS_AFFECTED, Fact::BYTES_SCANNED,
            Fact::BYTES_SPILLED, Fact::TMP_MEMORY, Fact::TMP_DISK, Fact::SORT_PASSES, Fact::FULL_SCAN, Fact::INDEX, Fact::WARNINGS,
            Fact::DURATIONS,
        ];
        self::assertSame((1 << count($bits)) - 1, array_sum($bits));
        foreach ($bits as $bit) {
            self::assertSame(0, $bit & ($bit - 1), 'stores keep these');
        }
    }

    public function test_flags_are_read_in_every_spelling(): void
    {
        foreach ([true, 1, '1', 'true', 'YES', 'y', 'T'] as $yes) {
            self::assertSame([true, true], [
                self::taken(['full_scan' => $yes])->work->fullScan,
                self::taken(['index_used' => $yes])->work->indexUsed,
            ]);
        }
        foreach ([false, 0, '0', 'False', 'no', 'N', 'f'] as $no) {
            self::assertSame([false, false], [
                self::taken(['full_scan' => $no])->work->fullScan,
                self::taken(['index_used' => $no])->work->indexUsed,
            ]);
        }
        foreach (['full_scan', 'index_used'] as $field) {
            self::assertNull(self::taken([$field => ''])->work->fullScan);
            foreach ([2, 'on', 1.0, [], 'ja'] as $wrong) {
                self::assertSame($field, self::refused([$field => $wrong])->field);
            }
        }
        self::assertSame(Fact::DURATIONS | Fact::FULL_SCAN, self::taken(['full_scan' => false])->facts());
        self::assertSame(Fact::DURATIONS | Fact::INDEX, self::taken(['index_used' => true])->facts());
        $sums = new LoadAggregate();
        foreach ([['full_scan' => true, 'index_used' => true], ['full_scan' => false, 'index_used' => false], []] as $flags) {
            $sums->add(self::taken($flags));
        }
        self::assertSame([1, 1], [$sums->sums['full_scans'], $sums->sums['no_index']]);
    }

    public function test_texts_go_to_their_place_up_to_190_bytes_and_the_error_beyond(): void
    {
        $long = str_repeat('é', 95);
        foreach (['cluster', 'database', 'user', 'application', 'client_host', 'queue', 'plan_ref', 'error'] as $field) {
            $execution = self::taken([$field => $long]);
            $places = [
                'cluster' => $execution->origin->cluster, 'database' => $execution->origin->database, 'user' => $execution->origin->user,
                'application' => $execution->origin->application, 'client_host' => $execution->origin->clientHost,
                'queue' => $execution->origin->queue, 'plan_ref' => $execution->planRef, 'error' => $execution->outcome->error,
            ];
            self::assertSame([$field => $long], array_filter($places, static fn (?string $one): bool => (string) $one !== ''), $field);
            if ($field === 'error') {
                self::assertSame("{$long}x", self::taken([$field => "{$long}x"])->outcome->error);
            } else {
                self::assertSame([$field, 'is longer than 190 bytes'], self::both(self::refused([$field => "{$long}x"])));
            }
            self::assertSame([$field, 'is not a text'], self::both(self::refused([$field => 7])));
        }
        self::assertNull(self::taken(['cluster' => ''])->origin->cluster);
        self::assertSame('', self::taken(['user' => null])->origin->user);
    }

    /**
     * @return iterable<string, array{array<string, mixed>, bool}>
     */
    public static function limits(): iterable
    {
        yield 'a day ahead' => [['started_at' => '2026-11-21T12:00:00.000000Z'], true];
        yield 'a microsecond more' => [['started_at' => '2026-11-21T12:00:00.000001Z'], false];
        yield 'the year 2000' => [['started_at' => '2000-01-01T00:00:00.000000Z'], true];
        yield 'a microsecond less' => [['started_at' => '1999-12-31T23:59:59.999999Z'], false];
        yield '31 days' => [['duration_us' => 2_678_400_000_000], true];
        yield '31 days and a microsecond' => [['duration_us' => 2_678_400_000_001], false];
        yield 'no time at all' => [['duration_us' => 0], true];
        yield '4 MiB of values' => [['sql' => self::values(4_194_304)], true];
        yield 'a byte more of values' => [['sql' => self::values(4_194_305)], false];
        yield '256 KiB without values' => [['sql' => 'SELECT '.str_repeat('a', 262_144 - 7)], true];
        yield 'a byte more without values' => [['sql' => 'SELECT '.str_repeat('a', 262_144 - 6)], false];
    }

    /**
     * @param  array<string, mixed>  $change
     */
    #[DataProvider('limits')]
    public function test_limits_are_where_they_are_said_to_be(array $change, bool $taken): void
    {
        $read = (new ExecutionReader(self::NOW_US))->record($change + self::LEAST);
        self::assertSame($taken, $read instanceof Execution);
        if ($read instanceof Rejection) {
            self::assertSame(array_key_first($change), $read->field);
        }
    }

    public function test_warnings_are_counted_or_listed(): void
    {
        $of = static fn (mixed $given): array => [
            self::taken(['warnings' => $given])->outcome->warningCount, self::taken(['warnings' => $given])->outcome->warnings,
        ];
        self::assertSame([null, []], $of(null));
        self::assertSame([null, []], $of(''));
        self::assertSame([0, []], $of([]));
        self::assertSame([2, ['a', 'b']], $of(['a', 'b']));
        self::assertSame([3, []], $of('3'));
        self::assertSame([1_000_000, []], $of(1_000_001));
        self::assertSame([1, ['cut off']], $of('cut off'));
        self::assertSame([1, [str_repeat('é', 250)]], $of(str_repeat('é', 251)));
        foreach ([-1, 1.5, [1], [['a']], true] as $wrong) {
            self::assertSame('warnings', self::refused(['warnings' => $wrong])->field);
        }
        $sums = new LoadAggregate();
        $sums->add(self::taken(['warnings' => ['a', 'b']]));
        $sums->add(self::taken(['warnings' => 5]));
        self::assertSame(7, $sums->sums['warnings']);
        self::assertSame(Fact::DURATIONS | Fact::WARNINGS, $sums->facts);
    }

    public function test_binds_are_plain_values_by_place_or_name(): void
    {
        foreach ([[1, 'a', null, 1.5, true], ['from' => '2026', 'to' => null], []] as $binds) {
            self::assertSame($binds, self::taken(['binds' => $binds])->binds);
        }
        self::assertNull(self::taken(['binds' => null])->binds);
        foreach ([[[1]], ['a' => ['b' => 1]], 'a', 7] as $wrong) {
            self::assertSame(['binds', 'is not a list or object of plain values'], self::both(self::refused(['binds' => $wrong])));
        }
    }

    public function test_each_way_to_end_has_its_own_count(): void
    {
        $sums = new LoadAggregate();
        foreach (['ok' => 4, 'error' => 3, 'cancelled' => 2, 'timed_out' => 1] as $status => $times) {
            self::assertSame(Status::from($status), self::taken(['status' => $status])->outcome->status);
            for ($i = 0; $i < $times; $i++) {
                $sums->add(self::taken(['status' => $status]));
            }
        }
        self::assertSame([10, 3, 2, 1], [
            $sums->sums['executions'], $sums->sums['errors'], $sums->sums['cancelled'], $sums->sums['timed_out'],
        ]);
        foreach (['OK', '', 1, []] as $wrong) {
            self::assertSame('status', self::refused(['status' => $wrong])->field);
        }
    }

    /** Two records are the same where all of what the format names agrees, and differ where any of it does. */
    public function test_a_record_is_known_again_by_what_was_measured(): void
    {
        $same = self::taken([])->identity();
        self::assertSame(8, strlen($same));
        $beside = ['cpu_us' => 5, 'queue' => 'q', 'warnings' => 3, 'plan_ref' => 'p', 'error' => 'e', 'cluster' => 'c'];
        foreach ($beside as $field => $value) {
            self::assertSame($same, self::taken([$field => $value])->identity(), "{$field} does not tell records apart");
        }
        $seen = [$same => true];
        foreach (
            [
                'started_at' => '2026-11-20T06:00:00.000001Z', 'duration_us' => 13, 'sql' => 'SELECT 2', 'rows_returned' => 0,
                'rows_examined' => 0, 'bytes_scanned' => 0, 'status' => 'error', 'database' => 'd', 'user' => 'd', 'application' => 'd',
                'client_host' => 'd',
            ] as $field => $value
        ) {
            $identity = self::taken([$field => $value])->identity();
            self::assertArrayNotHasKey($identity, $seen, $field);
            $seen[$identity] = true;
        }
    }

    public function test_sums_of_many_are_those_added_one_by_one_in_whatever_order(): void
    {
        $random = new Randomizer(new Mt19937(8));
        $executions = [];
        $expected = array_fill_keys(LoadAggregate::SUMS, 0);
        [$least, $most, $bins] = [PHP_INT_MAX, 0, []];
        for ($i = 0; $i < 400; $i++) {
            $record = ['duration_us' => $random->getInt(0, 90_000_000)];
            foreach (self::counted() as $field => [, $sum]) {
                if ($sum !== '' && $random->getInt(0, 1) === 1) {
                    $record[$field] = $random->getInt(0, 1000);
                    $expected[$sum] += $record[$field];
                }
            }
            $expected['multi_pass'] += ($record['sort_merge_passes'] ?? 0) > 0 ? 1 : 0;
            $expected['executions']++;
            $expected['duration_us'] += $record['duration_us'];
            $least = min($least, $record['duration_us']);
            $most = max($most, $record['duration_us']);
            $bin = LatencySketch::bin($record['duration_us']);
            $bins[$bin] = ($bins[$bin] ?? 0) + 1;
            $executions[] = self::taken($record);
        }
        foreach ([$executions, $random->shuffleArray($executions)] as $list) {
            [$whole, $left, $right] = [new LoadAggregate(), new LoadAggregate(), new LoadAggregate()];
            foreach ($list as $i => $execution) {
                $whole->add($execution);
                ($i % 3 === 0 ? $left : $right)->add($execution);
            }
            $left->merge($right);
            foreach ([$whole, $left] as $sums) {
                self::assertSame($expected, $sums->sums);
                self::assertSame([$least, $most], [$sums->minUs, $sums->maxUs]);
                self::assertEquals($bins, $sums->bins);
            }
        }
    }

    /** A statement whose list of values makes it that many bytes long. */
    private static function values(int $bytes): string
    {
        $text = 'INSERT INTO t VALUES (1)'.str_repeat(', (1)', intdiv($bytes - 24, 5));

        return $text.str_repeat(' ', $bytes - strlen($text));
    }

    /**
     * @param  array<string, mixed>  $change
     */
    private static function taken(array $change): Execution
    {
        $read = (new ExecutionReader(self::NOW_US))->record($change + self::LEAST);
        self::assertInstanceOf(Execution::class, $read, (string) json_encode($change, JSON_PARTIAL_OUTPUT_ON_ERROR));

        return $read;
    }

    /**
     * @param  array<string, mixed>  $change
     */
    private static function refused(array $change): Rejection
    {
        $read = (new ExecutionReader(self::NOW_US))->record($change + self::LEAST);
        self::assertInstanceOf(Rejection::class, $read, (string) json_encode($change, JSON_PARTIAL_OUTPUT_ON_ERROR));

        return $read;
    }

    /**
     * @return array{string, string}
     */
    private static function both(Rejection $rejection): array
    {
        return [$rejection->field, $rejection->reason];
    }
}
