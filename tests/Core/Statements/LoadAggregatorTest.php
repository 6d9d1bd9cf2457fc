<?php

declare(strict_types=1);

namespace Tests\Core\Statements;

use Fulcrion\Core\Statements\Comparison;
use Fulcrion\Core\Statements\Concentration;
use Fulcrion\Core\Statements\CounterDelta;
use Fulcrion\Core\Statements\LoadAggregate;
use Fulcrion\Core\Statements\LoadAggregator;
use Fulcrion\Core\Statements\SampleShelf;
use Fulcrion\Core\Statements\StatementChange;
use Fulcrion\Core\Statements\StepChange;
use Fulcrion\Core\Statements\WindowCover;
use Fulcrion\Core\Telemetry\Execution;
use Fulcrion\Core\Telemetry\ExecutionOutcome;
use Fulcrion\Core\Telemetry\ExecutionTimes;
use Fulcrion\Core\Telemetry\ExecutionWork;
use Fulcrion\Core\Telemetry\Fact;
use Fulcrion\Core\Telemetry\Status;
use Fulcrion\Core\Time\Window;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class LoadAggregatorTest extends TestCase
{
    private const T = 1_793_491_200;

    private const S = 1_000_000;

    public function test_a_run_over_borders_gives_each_bucket_its_share(): void
    {
        // Begins 100 s before a border and runs 500 s: 100, 300 and 100 s.
        $fold = new LoadAggregator();
        $fold->add(new Execution(
            (self::T + 200) * self::S,
            500 * self::S,
            'x',
            times: new ExecutionTimes(7, cpuUs: 250 * self::S),
        ), 's', 'o');
        $buckets = $fold->buckets();
        self::assertSame([self::T, self::T + 300, self::T + 600], array_keys($buckets));
        $load = array_map(static fn (array $bucket): int => $bucket['s']['o']->sums['load_us'], array_values($buckets));
        self::assertSame([100 * self::S, 300 * self::S, 100 * self::S], $load);
        self::assertSame(
            [1, 0, 0],
            array_map(static fn (array $bucket): int => $bucket['s']['o']->sums['executions'], array_values($buckets)),
        );
        self::assertSame(
            [50 * self::S, 150 * self::S, 50 * self::S],
            array_map(static fn (array $bucket): int => $bucket['s']['o']->sums['cpu_us'], array_values($buckets)),
        );
        self::assertSame(7, array_sum(array_map(static fn (array $bucket): int => $bucket['s']['o']->sums['lock_us'], $buckets)));
    }

    public function test_nothing_is_lost_in_folding_and_no_bucket_exceeds_its_length(): void
    {
        $random = new Randomizer(new Mt19937(23));
        for ($round = 0; $round < 300; $round++) {
            $fold = new LoadAggregator();
            $duration = (int) exp($random->getInt(0, 23_000) / 1_000);
            $lock = $random->getInt(0, $duration);
            $fold->add(new Execution(
                self::T * self::S + $random->getInt(0, 900 * self::S),
                $duration,
                'x',
                times: new ExecutionTimes($lock),
            ), 's', 'o');
            foreach (
                [
                    $fold->buckets(),
                    LoadAggregator::coarsen($fold->buckets(), 3_600),
                    LoadAggregator::coarsen(LoadAggregator::coarsen($fold->buckets(), 3_600), 86_400),
                ] as $buckets
            ) {
                $sums = ['load_us' => 0, 'lock_us' => 0, 'executions' => 0];
                foreach ($buckets as $bucket) {
                    foreach (array_keys($sums) as $name) {
                        $sums[$name] += $bucket['s']['o']->sums[$name];
                    }
                }
                self::assertSame(['load_us' => $duration, 'lock_us' => $lock, 'executions' => 1], $sums);
            }
            foreach ($fold->buckets() as $bucket) {
                self::assertLessThanOrEqual(300 * self::S, $bucket['s']['o']->sums['load_us']);
            }
        }
    }

    public function test_tallies_merge_to_what_one_tally_of_all_says(): void
    {
        $executions = [
            new Execution(
                1,
                500,
                'x',
                outcome: new ExecutionOutcome(Status::Error, warningCount: 2),
                work: new ExecutionWork(3, fullScan: true),
            ),
            new Execution(2, 90, 'x', work: new ExecutionWork(sortMergePasses: 4, indexUsed: false)),
            new Execution(
                3,
                7_000,
                'x',
                outcome: new ExecutionOutcome(Status::TimedOut),
                work: new ExecutionWork(bytesScanned: 11),
            ),
        ];
        $whole = new LoadAggregate();
        $parts = new LoadAggregate();
        foreach ($executions as $execution) {
            $whole->add($execution);
            $part = new LoadAggregate();
            $part->add($execution);
            $parts->merge($part);
        }
        self::assertEquals($whole, $parts);
        self::assertSame(
            [3, 1, 1, 1, 1, 4],
            [
                $whole->sums['executions'],
                $whole->sums['errors'],
                $whole->sums['timed_out'],
                $whole->sums['multi_pass'],
                $whole->sums['no_index'],
                $whole->sums['sort_passes'],
            ],
        );
        self::assertSame([90, 7_000], [$whole->minUs, $whole->maxUs]);
        self::assertNotSame(0, $whole->facts & Fact::BYTES_SCANNED);
        self::assertSame(0, $whole->facts & Fact::CPU);
    }

    public function test_a_cover_is_exact_and_short(): void
    {
        $random = new Randomizer(new Mt19937(29));
        for ($round = 0; $round < 500; $round++) {
            $from = self::T + 300 * $random->getInt(0, 2_000);
            $window = new Window($from, $from + 300 * $random->getInt(1, 9_000));
            $at = $window->from;
            $rows = 0;
            foreach (WindowCover::of($window) as $part) {
                $seconds = WindowCover::LEVELS[$part['level']];
                self::assertSame($at, $part['from']);
                self::assertSame(0, $part['from'] % $seconds);
                self::assertSame(0, $part['to'] % $seconds);
                $rows += intdiv($part['to'] - $part['from'], $seconds);
                $at = $part['to'];
            }
            self::assertSame($window->to, $at);
            self::assertLessThanOrEqual(22 + 10 + 6 + 12 + intdiv($window->seconds(), 604_800), $rows);

            // With parts taken away, every bucket still counts once inside and not at all outside.
            $times = [];
            $short = 0;
            foreach (WindowCover::of($window, true) as $part) {
                self::assertSame(0, $part['from'] % WindowCover::LEVELS[$part['level']]);
                $short += intdiv($part['to'] - $part['from'], WindowCover::LEVELS[$part['level']]);
                for ($bucket = $part['from']; $bucket < $part['to']; $bucket += 300) {
                    $times[$bucket] = ($times[$bucket] ?? 0) + $part['sign'];
                }
            }
            $inside = array_keys(array_filter($times, static fn (int $n): bool => $n !== 0));
            self::assertSame([1], array_values(array_unique(array_filter($times, static fn (int $n): bool => $n !== 0))));
            self::assertSame(
                [$window->from, $window->to - 300, intdiv($window->seconds(), 300)],
                [min($inside), max($inside), count($inside)],
            );
            self::assertLessThanOrEqual($rows, $short);
        }
    }

    public function test_the_parts_of_a_change_add_up_to_the_whole(): void
    {
        $random = new Randomizer(new Mt19937(31));
        $side = static function () use ($random): array {
            $out = [];
            for ($id = 1; $id <= 30; $id++) {
                if ($random->getInt(0, 4) > 0) {
                    $runs = $random->getInt(0, 50);
                    $duration = $runs * $random->getInt(1, 9_000_000);
                    $out[$id] = ['executions' => $runs, 'durationUs' => $duration, 'loadUs' => $duration + $random->getInt(0, 1_000)];
                }
            }

            return $out;
        };
        for ($round = 0; $round < 100; $round++) {
            [$before, $after] = [$side(), $side()];
            $changes = Comparison::of($before, 3_600, $after, 86_400);
            $whole = array_sum(array_column($after, 'loadUs')) / 1e6 / 86_400 - array_sum(array_column($before, 'loadUs')) / 1e6 / 3_600;
            self::assertEqualsWithDelta(
                $whole,
                array_sum(array_map(static fn (StatementChange $change): float => $change->change(), $changes)),
                1e-9,
            );
            foreach ($changes as $change) {
                self::assertEqualsWithDelta($change->change(), $change->byCount + $change->byLatency + $change->carriedOver(), 1e-12);
            }
        }
    }

    public function test_a_change_is_split_into_count_and_latency(): void
    {
        // 10 runs of 1 s an hour become 10 of 3 s: all of it is latency. Then twice as many: all of it is count.
        $slower = Comparison::of([1 => self::sums(10, 1)], 3_600, [1 => self::sums(10, 3)], 3_600)[0];
        self::assertEqualsWithDelta([0.0, 20 / 3_600], [$slower->byCount, $slower->byLatency], 1e-12);
        $more = Comparison::of([1 => self::sums(10, 1)], 3_600, [1 => self::sums(20, 1)], 3_600)[0];
        self::assertEqualsWithDelta([10 / 3_600, 0.0], [$more->byCount, $more->byLatency], 1e-12);
        self::assertSame(
            ['came', 'went'],
            [
                Comparison::of([], 60, [1 => self::sums(1, 1)], 60)[0]->movement(),
                Comparison::of([1 => self::sums(1, 1)], 60, [], 60)[0]->movement(),
            ],
        );
    }

    public function test_counters_survive_resets_and_forgotten_rows(): void
    {
        $was = ['count' => 10, 'rows' => 100];
        self::assertSame(['count' => 5, 'rows' => 20], CounterDelta::of($was, ['count' => 15, 'rows' => 120], false, false));
        self::assertSame(
            ['count' => 3, 'rows' => 7],
            CounterDelta::of($was, ['count' => 3, 'rows' => 7], false, false),
            'a restart begins at nothing',
        );
        self::assertSame(
            ['count' => 12, 'rows' => 7],
            CounterDelta::of($was, ['count' => 12, 'rows' => 7], false, false),
            'one counter that fell tells of a reset',
        );
        self::assertSame(
            ['count' => 40, 'rows' => 400],
            CounterDelta::of($was, ['count' => 40, 'rows' => 400], false, true),
            'the row was dropped and came back',
        );
        self::assertSame(['count' => 2, 'rows' => 1], CounterDelta::of(null, ['count' => 2, 'rows' => 1], false, false));
        self::assertNull(
            CounterDelta::of(null, ['count' => 2, 'rows' => 1], true, false),
            'what lies before the first reading cannot be dated',
        );
        self::assertNull(CounterDelta::of($was, $was, false, false));
    }

    public function test_shelves_keep_the_slowest_and_a_fair_few_in_any_order(): void
    {
        $random = new Randomizer(new Mt19937(37));
        $picked = array_fill(0, 50, 0);
        for ($round = 0; $round < 400; $round++) {
            $entries = [];
            for ($i = 0; $i < 50; $i++) {
                $entries[] = [$i === 9 ? 1_000 : $random->getInt(1, 500), bin2hex(pack('J', $random->getInt(0, PHP_INT_MAX))), $i];
            }
            $one = new SampleShelf(1, 3);
            $two = new SampleShelf(1, 3);
            foreach ($entries as $entry) {
                $one->offer(...$entry);
            }
            foreach ($random->shuffleArray($entries) as $entry) {
                $two->offer(...$entry);
            }
            self::assertSame($one->kept(), $two->kept());
            self::assertSame(9, $one->kept()[0]['sample']);
            foreach ($one->kept() as $kept) {
                $picked[$kept['sample']]++;
            }
        }
        unset($picked[9]);
        // Each of the 49 others is expected 400 * 3 / 50 = 24 times.
        self::assertGreaterThan(6, min($picked));
        self::assertLessThan(55, max($picked));
    }

    public function test_a_step_is_found_and_noise_is_not(): void
    {
        $random = new Randomizer(new Mt19937(41));
        $noise = static fn (): float => 1 + $random->getInt(-150, 150) / 1_000;
        for ($round = 0; $round < 100; $round++) {
            $step = $random->getInt(5, 22);
            $values = array_map(static fn (int $day): float => ($day < $step ? 100 : 600) * $noise(), range(0, 27));
            $change = StepChange::find($values, 2.0);
            self::assertNotNull($change);
            self::assertSame($step, $change->at);
            self::assertEqualsWithDelta(6.0, $change->factor(), 1.0);
            self::assertNull(StepChange::find(array_map(static fn (): float => 100 * $noise(), range(0, 27)), 1.35));
        }
        $weekdays = array_map(static fn (int $day): int => ($day % 7) + 1, range(0, 27));
        $rhythm = array_map(static fn (int $day): float => ($weekdays[$day] === 7 ? 10.0 : 100.0) * $noise(), range(0, 27));
        self::assertNull(StepChange::find($rhythm, 1.35, $weekdays), 'quiet Sundays are no step');
        $doubled = array_map(static fn (float $value, int $day): float => $day >= 21 ? 2 * $value : $value, $rhythm, range(0, 27));
        self::assertSame(21, StepChange::find($doubled, 1.35, $weekdays)?->at);
        self::assertNull(StepChange::find([1.0, 9.0], 2.0));
    }

    public function test_the_few_that_make_the_bulk(): void
    {
        self::assertSame(['few' => 2, 'share' => 0.8], Concentration::of([10, 50, 5, 30, 5], 0.7));
        self::assertSame(['few' => 0, 'share' => 0.0], Concentration::of([], 0.7));
    }

    /**
     * @return array{executions: int, durationUs: int, loadUs: int}
     */
    private static function sums(int $runs, int $seconds): array
    {
        return ['executions' => $runs, 'durationUs' => $runs * $seconds * self::S, 'loadUs' => $runs * $seconds * self::S];
    }
}
