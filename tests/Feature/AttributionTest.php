<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Connectors\DigestReading;
use App\Telemetry\Collect\Attribution;
use App\Telemetry\Collect\Grown;
use App\Telemetry\Collect\Part;
use Fulcrion\Core\Telemetry\Execution;
use Fulcrion\Core\Telemetry\ExecutionOrigin;
use Fulcrion\Core\Telemetry\ExecutionOutcome;
use Fulcrion\Core\Telemetry\ExecutionTimes;
use Fulcrion\Core\Telemetry\ExecutionWork;
use Fulcrion\Core\Telemetry\Fact;
use Fulcrion\Core\Telemetry\Status;
use PHPUnit\Framework\TestCase;

/**
 * What a server counted in all, taken apart by who sent it.
 */
final class AttributionTest extends TestCase
{
    public function test_runs_that_are_remembered_go_to_who_sent_them_and_the_rest_to_the_database(): void
    {
        $parts = Attribution::of(
            self::grown(['count' => 10, 'duration_us' => 1_000, 'rows_examined' => 50, 'lock_us' => 20, 'errors' => 1, 'full_scans' => 9]),
            [self::execution(0, 100, 'ada'), self::execution(200, 300, 'bo', Status::Error), self::execution(600, 50, 'ada')],
        );
        self::assertSame(
            [
                'ada' => [2, 150, 150, 8, 4, 0, 2],
                'bo' => [1, 300, 300, 4, 2, 1, 1],
                '' => [7, 550, 550, 38, 14, 0, 6],
            ],
            self::told($parts),
        );
        $by = [];
        foreach ($parts as $part) {
            $by[$part->origin->user] = $part->tally;
            self::assertSame('glass', $part->origin->database);
        }
        self::assertSame([50, 100, 2], [$by['ada']->minUs, $by['ada']->maxUs, array_sum($by['ada']->bins)]);
        self::assertSame([intdiv(550, 7), intdiv(550, 7), []], [$by['']->minUs, $by['']->maxUs, $by['']->bins]);
        self::assertSame([Fact::DURATIONS, 0], [$by['ada']->facts & Fact::DURATIONS, $by['']->facts & Fact::DURATIONS]);
        self::assertSame(Fact::LOCK | Fact::TMP_DISK, $by['']->facts & (Fact::LOCK | Fact::TMP_DISK));
    }

    public function test_what_was_cancelled_is_no_error_as_well(): void
    {
        $parts = Attribution::of(
            self::grown(['count' => 9, 'duration_us' => 900, 'errors' => 4]),
            array_map(
                static fn (Status $status): Execution => self::execution(0, 9, 'ada', $status),
                [Status::Cancelled, Status::TimedOut, Status::Error],
            ),
        );
        $sums = array_map(static fn (Part $part): array => array_intersect_key(
            $part->tally->sums,
            ['errors' => 0, 'cancelled' => 0, 'timed_out' => 0],
        ), $parts);
        self::assertSame(
            [['errors' => 1, 'cancelled' => 1, 'timed_out' => 1], ['errors' => 1, 'cancelled' => 0, 'timed_out' => 0]],
            $sums,
        );
    }

    public function test_all_that_is_remembered_leaves_no_rest(): void
    {
        $parts = Attribution::of(
            self::grown(['count' => 2, 'duration_us' => 151]),
            [self::execution(0, 100, 'ada'), self::execution(5, 50, 'bo')],
        );
        self::assertSame(['bo', 'ada'], array_map(static fn (Part $part): string => $part->origin->user, $parts), 'who ended first');
    }

    public function test_what_ended_after_the_counters_were_read_waits_for_the_next_reading(): void
    {
        $parts = Attribution::of(
            self::grown(['count' => 2, 'duration_us' => 60]),
            // The longest began first and ended last.
            [self::execution(0, 900, 'late'), self::execution(10, 20, 'ada'), self::execution(50, 40, 'ada')],
        );
        self::assertSame(['ada' => [2, 60, 60, 8, 4, 0, 2]], self::told($parts));
    }

    public function test_counters_never_fall_below_nought(): void
    {
        // The server adds up picoseconds, a remembered run is rounded: the rest may come out a microsecond short.
        $parts = Attribution::of(self::grown(['count' => 2, 'duration_us' => 99]), [self::execution(0, 100, 'ada')]);
        self::assertSame([1, 0, 0, 0, 0, 0, 0], self::told($parts)['']);
    }

    public function test_a_run_nobody_is_known_for_is_part_of_the_rest(): void
    {
        $parts = Attribution::of(self::grown(['count' => 3, 'duration_us' => 400]), [self::execution(0, 100, '', host: '')]);
        self::assertCount(1, $parts);
        self::assertSame([3, 400, 400, 4, 2, 0, 1], self::told($parts)['']);
        self::assertSame([1, 100, 150], [array_sum($parts[0]->tally->bins), $parts[0]->tally->minUs, $parts[0]->tally->maxUs]);
    }

    public function test_extremes_of_a_new_row_are_those_of_the_server(): void
    {
        $delta = ['count' => 2, 'duration_us' => 100];
        $grown = new Grown(new DigestReading('k', 'glass', 'SELECT', $delta, 7, 93, '', 0, 0), $delta, true);
        $tally = Attribution::of($grown, [])[0]->tally;
        self::assertSame([7, 93, 2, 100], [$tally->minUs, $tally->maxUs, $tally->sums['executions'], $tally->sums['load_us']]);
    }

    /**
     * @param  array<string, int>  $delta
     */
    private static function grown(array $delta): Grown
    {
        return new Grown(new DigestReading('k', 'glass', 'SELECT', $delta, 1, 9_999, '', 0, 0), $delta, false);
    }

    private static function execution(int $at, int $us, string $user, Status $status = Status::Ok, string $host = 'shed'): Execution
    {
        return new Execution(
            $at,
            $us,
            'SELECT',
            new ExecutionOrigin(database: 'other', user: $user, clientHost: $host),
            new ExecutionOutcome($status),
            new ExecutionTimes(2),
            new ExecutionWork(0, 4, 0, fullScan: true),
        );
    }

    /**
     * @param  list<Part>  $parts
     * @return array<string, list<int>> by user
     */
    private static function told(array $parts): array
    {
        $told = [];
        foreach ($parts as $part) {
            $sums = $part->tally->sums;
            $told[$part->origin->user] = array_map(
                static fn (string $name): int => $sums[$name],
                ['executions', 'duration_us', 'load_us', 'rows_examined', 'lock_us', 'errors', 'full_scans'],
            );
        }

        return $told;
    }
}
