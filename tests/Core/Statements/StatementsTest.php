<?php

declare(strict_types=1);

namespace Tests\Core\Statements;

use Fulcrion\Core\Statements\Comparison;
use Fulcrion\Core\Statements\CounterDelta;
use Fulcrion\Core\Statements\SampleShelf;
use Fulcrion\Core\Statements\StatementChange;
use Fulcrion\Core\Statements\StepChange;
use Fulcrion\Core\Statements\WindowCover;
use Fulcrion\Core\Time\Window;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * What is said of statements over time, each against a plainer way to the same.
 */
final class StatementsTest extends TestCase
{
    private const SLOT = 300;

    public function test_a_window_is_covered_exactly_by_whole_intervals_and_as_few_as_can_be(): void
    {
        $random = new Randomizer(new Mt19937(13));
        for ($round = 0; $round < 400; $round++) {
            $from = self::SLOT * $random->getInt(5_900_000, 5_906_000);
            $to = $from + self::SLOT * $random->getInt(1, $random->getInt(0, 1) === 1 ? 40 : 9000);
            $window = new Window($from, $to);
            foreach ([false, true] as $mayTakeAway) {
                $parts = WindowCover::of($window, $mayTakeAway);
                $covered = [];
                foreach ($parts as ['level' => $level, 'from' => $begin, 'to' => $end, 'sign' => $sign]) {
                    $seconds = WindowCover::LEVELS[$level];
                    self::assertSame([0, 0], [$begin % $seconds, $end % $seconds], 'only whole intervals are kept');
                    self::assertLessThan($end, $begin);
                    self::assertTrue($mayTakeAway || $sign === 1);
                    for ($at = $begin; $at < $end; $at += self::SLOT) {
                        $covered[$at] = ($covered[$at] ?? 0) + $sign;
                    }
                }
                $covered = array_filter($covered, static fn (int $times): bool => $times !== 0);
                self::assertSame([1], array_values(array_unique($covered)));
                self::assertSame(intdiv($to - $from, self::SLOT), count($covered));
                self::assertSame([$from, $to - self::SLOT], [min(array_keys($covered)), max(array_keys($covered))]);
            }
            self::assertLessThanOrEqual(self::intervals(WindowCover::of($window)), self::intervals(WindowCover::of($window, true)));
            self::assertLessThanOrEqual(62 + intdiv($to - $from, 604_800), self::intervals(WindowCover::of($window)));
        }
    }

    #[TestWith([300])]
    #[TestWith([3600])]
    #[TestWith([86_400])]
    public function test_no_part_reaches_over_a_border_where_it_must_not(int $length): void
    {
        $random = new Randomizer(new Mt19937($length));
        for ($round = 0; $round < 100; $round++) {
            $from = self::SLOT * $random->getInt(5_900_000, 5_906_000);
            $to = $from + self::SLOT * $random->getInt(1, 600);
            $sum = 0;
            foreach (WindowCover::within(new Window($from, $to), $length) as ['level' => $level, 'from' => $begin, 'to' => $end]) {
                self::assertLessThanOrEqual(min($length, 3600), WindowCover::LEVELS[$level]);
                $sum += $end - $begin;
            }
            self::assertSame($to - $from, $sum);
        }
    }

    public function test_the_slowest_and_some_at_random_are_kept_whatever_the_order_they_come_in(): void
    {
        $random = new Randomizer(new Mt19937(19));
        for ($round = 0; $round < 200; $round++) {
            $offers = [];
            for ($i = $random->getInt(1, 30); $i > 0; $i--) {
                $lot = str_pad((string) $random->getInt(0, 999_999), 6, '0', STR_PAD_LEFT).chr(97 + $i % 26);
                $offers[$lot] = [$random->getInt(0, 12), $lot];
            }
            $offers = array_values($offers);
            $bySpeed = $byLot = $offers;
            usort($bySpeed, static fn (array $a, array $b): int => [$b[0], $a[1]] <=> [$a[0], $b[1]]);
            usort($byLot, static fn (array $a, array $b): int => $a[1] <=> $b[1]);
            $slow = array_column(array_slice($bySpeed, 0, 2), 1);
            $expected = array_unique([...$slow, ...array_column(array_slice($byLot, 0, 3), 1)]);
            sort($expected);
            foreach ([$offers, $random->shuffleArray($offers)] as $order) {
                /** @var SampleShelf<string> $shelf */
                $shelf = new SampleShelf();
                foreach ($order as [$durationUs, $lot]) {
                    $shelf->offer($durationUs, $lot, "sample {$lot}");
                }
                $kept = $shelf->kept();
                $lots = array_column($kept, 'lot');
                $sorted = $lots;
                sort($sorted);
                self::assertSame($expected, $sorted);
                self::assertSame($slow, array_column(array_filter($kept, static fn (array $one): bool => $one['slow']), 'lot'));
                self::assertSame(array_map(static fn (string $lot): string => "sample {$lot}", $lots), array_column($kept, 'sample'));
                $durations = array_column($kept, 'durationUs');
                $falling = $durations;
                rsort($falling);
                self::assertSame($falling, $durations);
            }
        }
    }

    /**
     * @return iterable<string, array{array<string, int>|null, array<string, int>, bool, bool, array<string, int>|null}>
     */
    public static function counters(): iterable
    {
        yield 'more than before' => [['count' => 5, 'us' => 50], ['count' => 8, 'us' => 90], false, false, ['count' => 3, 'us' => 40]];
        yield 'as before' => [['count' => 5, 'us' => 50], ['count' => 5, 'us' => 50], false, false, null];
        yield 'a counter that is new' => [['count' => 5], ['count' => 6, 'us' => 9], false, false, ['count' => 1, 'us' => 9]];
        yield 'a row that was not there' => [null, ['count' => 8, 'us' => 90], false, false, ['count' => 8, 'us' => 90]];
        yield 'the first reading of all' => [null, ['count' => 8, 'us' => 90], true, false, null];
        yield 'a row born since' => [['count' => 9, 'us' => 99], ['count' => 8, 'us' => 90], false, true, ['count' => 8, 'us' => 90]];
        yield 'a reset' => [['count' => 9, 'us' => 99], ['count' => 2, 'us' => 20], false, false, ['count' => 2, 'us' => 20]];
        yield 'a reset seen in one counter only' => [['count' => 3, 'us' => 99], ['count' => 4, 'us' => 20], false, false, [
            'count' => 4, 'us' => 20,
        ]];
        yield 'nothing since a reset' => [['count' => 9, 'us' => 99], ['count' => 0, 'us' => 0], false, false, null];
    }

    /**
     * @param  array<string, int>|null  $before
     * @param  array<string, int>  $now
     * @param  array<string, int>|null  $added
     */
    #[DataProvider('counters')]
    public function test_counters_tell_what_was_added_since(?array $before, array $now, bool $first, bool $born, ?array $added): void
    {
        self::assertSame($added, CounterDelta::of($before, $now, $first, $born));
    }

    public function test_a_step_is_found_on_the_day_it_was_planted(): void
    {
        $random = new Randomizer(new Mt19937(23));
        for ($round = 0; $round < 200; $round++) {
            $days = $random->getInt(10, 40);
            $at = $random->getInt(4, $days - 4);
            $factor = $random->getInt(0, 1) === 1 ? 3.0 : 1 / 3.0;
            $values = [];
            for ($day = 0; $day < $days; $day++) {
                $values[] = ($day < $at ? 100.0 : 100.0 * $factor) * (1 + $random->getInt(-8, 8) / 100);
            }
            $step = StepChange::find($values, 1.4);
            self::assertNotNull($step);
            self::assertSame($at, $step->at);
            self::assertEqualsWithDelta(log($factor), log($step->factor()), 0.12);
            // The unit does not matter, and backwards it goes the other way.
            $other = StepChange::find(array_map(static fn (float $value): float => 1e6 * $value, $values), 1.4);
            self::assertSame($step->at, $other?->at);
            $back = StepChange::find(array_reverse($values), 1.4);
            self::assertNotNull($back);
            self::assertSame($days - $at, $back->at);
            self::assertEqualsWithDelta(1 / $step->factor(), $back->factor(), 1e-9);
        }
    }

    public function test_a_step_needs_three_days_on_each_side_its_factor_and_nine_in_ten_values(): void
    {
        $level = static fn (int $before, int $after, float $factor = 2.0): array =>
            [...array_fill(0, $before, 10.0), ...array_fill(0, $after, 10.0 * $factor)];
        self::assertSame(3, StepChange::find($level(3, 3), 1.5)?->at);
        self::assertNull(StepChange::find($level(3, 2), 1.5));
        self::assertNull(StepChange::find($level(2, 3), 1.5));
        self::assertNotNull(StepChange::find($level(5, 5, 1.5), 1.499));
        self::assertNull(StepChange::find($level(5, 5, 1.5), 1.501));
        self::assertNotNull(StepChange::find($level(5, 5, 1 / 1.5), 1.499), 'down as well as up');
        self::assertNull(StepChange::find([...$level(5, 4), 0.0], 1.5), 'nothing has no logarithm');
        $stray = $level(10, 10);
        array_splice($stray, 2, 2, [20.0, 20.0]);
        self::assertNotNull(StepChange::find($stray, 1.5), 'two of twenty are astray');
        array_splice($stray, 7, 1, [20.0]);
        self::assertNull(StepChange::find($stray, 1.5), 'three are too many');
        self::assertNull(StepChange::find(array_fill(0, 20, 10.0), 1.1), 'no change');
    }

    public function test_the_rhythm_of_a_week_is_no_step_and_does_not_hide_one(): void
    {
        $weekdays = array_map(static fn (int $day): int => $day % 7 + 1, range(0, 27));
        $rhythm = array_map(static fn (int $weekday): float => $weekday > 5 ? 10.0 : 100.0, $weekdays);
        self::assertNull(StepChange::find($rhythm, 1.5, $weekdays));
        $stepped = array_map(static fn (float $value, int $day): float => $day < 14 ? $value : 3 * $value, $rhythm, range(0, 27));
        $step = StepChange::find($stepped, 1.5, $weekdays);
        self::assertSame(14, $step?->at);
    }

    public function test_a_change_is_what_more_runs_and_longer_runs_add_up_to(): void
    {
        $random = new Randomizer(new Mt19937(29));
        for ($round = 0; $round < 100; $round++) {
            $sums = static function () use ($random): array {
                $all = [];
                for ($i = 0; $i < 6; $i++) {
                    if ($random->getInt(0, 3) > 0) {
                        $executions = $random->getInt(1, 50);
                        $us = $executions * $random->getInt(1, 9_000_000);
                        $all["s{$i}"] = ['executions' => $executions, 'durationUs' => $us, 'loadUs' => $us];
                    }
                }

                return $all;
            };
            [$before, $after] = [$sums(), $sums()];
            $changes = Comparison::of($before, 600, $after, 1800);
            self::assertCount(count($before + $after), $changes);
            foreach ($changes as $change) {
                $old = ($before[$change->statement]['loadUs'] ?? 0) / 1e6 / 600;
                $new = ($after[$change->statement]['loadUs'] ?? 0) / 1e6 / 1800;
                self::assertEqualsWithDelta($new - $old, $change->change(), 1e-9);
                self::assertEqualsWithDelta($new - $old, $change->byCount + $change->byLatency, 1e-9);
                if (! isset($before[$change->statement]) || ! isset($after[$change->statement])) {
                    self::assertEqualsWithDelta(0.0, $change->byLatency, 1e-12, 'what comes or goes did not get slower');
                }
            }
            $sizes = array_map(static fn (StatementChange $change): float => abs($change->change()), $changes);
            $falling = $sizes;
            rsort($falling);
            self::assertSame($falling, $sizes);
        }
    }

    /**
     * @param  list<array{level: string, from: int, to: int, sign: int}>  $parts
     */
    private static function intervals(array $parts): int
    {
        return (int) array_sum(array_map(
            static fn (array $part): int => intdiv($part['to'] - $part['from'], WindowCover::LEVELS[$part['level']]),
            $parts,
        ));
    }
}
