<?php

declare(strict_types=1);

namespace Tests\Core\Forecast;

use Fulcrion\Core\Forecast\DailySeries;
use Fulcrion\Core\Forecast\Forecast;
use Fulcrion\Core\Forecast\ForecastModel;
use Fulcrion\Core\Forecast\Jump;
use Fulcrion\Core\Forecast\MonthEdges;
use Fulcrion\Core\Forecast\PeriodForecast;
use Fulcrion\Core\Usage\Days;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Series as they really come: short, broken, empty, with a holiday where the month ends.
 */
final class BadDaysTest extends TestCase
{
    /** Monday, 1 January 2024. */
    private const FIRST = 1_704_067_200;

    private const WEEK = [100.0, 110.0, 120.0, 115.0, 105.0, 30.0, 20.0];

    /**
     * @param  callable(int): ?float  $value by place
     */
    private static function series(int $days, callable $value): DailySeries
    {
        return new DailySeries(self::FIRST, array_map($value, range(0, $days - 1)));
    }

    public function test_two_weeks_are_enough_to_say_the_same_again_and_no_range(): void
    {
        $series = self::series(14, static fn (int $i): float => self::WEEK[$i % 7]);
        $january = PeriodForecast::of($series, Days::month('2024-01'));
        self::assertSame(17, $january->ahead);
        $left = array_sum(array_map(static fn (int $i): float => self::WEEK[$i % 7], range(14, 30)));
        self::assertEqualsWithDelta(1_200.0 + $left, $january->expected(), 1e-6);
        self::assertNull($january->range(0.8), 'of what was never held against anything nothing is claimed');
        self::assertNull(Jump::atEnd($series));
    }

    public function test_a_single_day_and_none_are_no_error(): void
    {
        foreach ([[], [5.0], [null], [null, null, 3.0]] as $values) {
            $forecast = Forecast::of(new DailySeries(self::FIRST, $values), 10);
            self::assertCount(10, $forecast->days);
            foreach ($forecast->days as $day) {
                self::assertTrue(is_finite($day) && $day >= 0.0);
            }
            self::assertNull(Jump::atEnd(new DailySeries(self::FIRST, $values)));
        }
    }

    public function test_zeros_go_on_as_zeros_and_nobody_is_accused_of_them(): void
    {
        $series = self::series(120, static fn (): float => 0.0);
        $forecast = Forecast::of($series, 31);
        self::assertSame(0.0, $forecast->total(31));
        self::assertNull(Jump::atEnd($series));
        $range = $forecast->range(31, 0.95);
        self::assertTrue($range === null || $range === [0.0, 0.0]);
        // What begins after months of nothing is a jump as soon as it is more than a trace.
        $begun = self::series(120, static fn (int $i): float => $i > 117 ? 500.0 : 0.0);
        self::assertTrue(Jump::atEnd($begun) === null || Jump::atEnd($begun)->had === 1_000.0);
    }

    public function test_a_gap_anywhere_changes_little(): void
    {
        $random = new Randomizer(new Mt19937(4));
        $whole = self::series(150, static fn (int $i): float => self::WEEK[$i % 7] * (0.97 + $random->getInt(0, 60) / 1000));
        $said = Forecast::of($whole, 28)->total(28);
        for ($i = 0; $i < 30; $i++) {
            $from = $random->getInt(0, 145);
            $length = $random->getInt(1, 9);
            $broken = $whole->values;
            for ($at = $from; $at < min(150, $from + $length); $at++) {
                $broken[$at] = null;
            }
            $forecast = Forecast::of(new DailySeries(self::FIRST, array_values($broken)), 28);
            self::assertEqualsWithDelta($said, $forecast->total(28), 0.1 * $said, "{$length} days from {$from}");
            self::assertNull(Jump::atEnd(new DailySeries(self::FIRST, array_values($broken))), 'a gap is no jump');
        }
    }

    public function test_a_series_that_ends_with_a_gap_goes_on_from_what_was(): void
    {
        $series = self::series(150, static fn (int $i): ?float => $i >= 143 ? null : self::WEEK[$i % 7]);
        $forecast = Forecast::of($series, 7);
        for ($h = 0; $h < 7; $h++) {
            self::assertEqualsWithDelta(self::WEEK[(150 + $h) % 7], $forecast->days[$h], 1.0);
        }
    }

    public function test_one_end_of_a_month_on_a_holiday_does_not_unlearn_the_others(): void
    {
        // Twice as much at each end of a month, and nothing at all at one of them.
        $last = (int) ((strtotime('2024-12-31 UTC') - self::FIRST) / 86_400);
        $holiday = [$last - 1, $last];
        $value = static fn (int $i): float => in_array($i, $holiday, true) ? 0.0 : self::WEEK[$i % 7]
            * (MonthEdges::edge(self::FIRST + $i * 86_400) === 0 ? 1.0 : 2.0);
        $learned = Forecast::of(self::series(420, $value), 10);
        self::assertSame(ForecastModel::Calendar, $learned->model);
        $place = (int) ((strtotime('2025-02-27 UTC') - self::FIRST) / 86_400) - 420;
        self::assertGreaterThan(1.6 * self::WEEK[($place + 420) % 7], $learned->days[$place]);
        self::assertLessThan(2.2 * self::WEEK[($place + 420) % 7], $learned->days[$place]);
    }

    /**
     * The same rule, written another way: both days above, and together so far that days of this series seldom are.
     */
    public function test_jumps_are_those_a_plain_reading_of_the_rule_finds(): void
    {
        $random = new Randomizer(new Mt19937(77));
        $found = 0;
        for ($i = 0; $i < 400; $i++) {
            $noise = [2, 5, 9][$i % 3] / 100;
            $factor = [1.0, 1.0, 1.3, 1.6, 2.5][$i % 5];
            $values = [];
            for ($day = 0; $day < 91; $day++) {
                $draw = array_sum(array_map(static fn (): float => $random->getInt(-1000, 1000) / 1000, range(1, 4))) / 2 * 0.866;
                $values[] = self::WEEK[$day % 7] * exp($noise * $draw) * ($day >= 89 ? $factor : 1.0);
            }
            $jump = Jump::atEnd(new DailySeries(self::FIRST, $values));
            self::assertSame(self::plainly($values), $jump === null ? 0 : $jump->days, "series {$i}");
            $found += $jump === null ? 0 : 1;
        }
        self::assertGreaterThan(100, $found);
        self::assertLessThan(260, $found);
    }

    /**
     * @param  list<float>  $values
     * @return int 0, 1 for a spike, 2 for a step
     */
    private static function plainly(array $values): int
    {
        $middle = static function (array $some): float {
            sort($some);
            $half = intdiv(count($some), 2);

            return count($some) % 2 === 1 ? $some[$half] : ($some[$half - 1] + $some[$half]) / 2;
        };
        $last = count($values) - 1;
        $recent = array_slice($values, max(0, $last - 1 - 28), min($last - 1, 28));
        $scale = array_sum($recent) / count($recent);
        $ratio = static function (int $at, int $least) use ($values, $middle, $scale): ?float {
            $before = [];
            for ($week = 1; $week <= 6 && $at - 7 * $week >= 0; $week++) {
                $before[] = $values[$at - 7 * $week];
            }

            return count($before) < $least ? null : log(($values[$at] + 0.02 * $scale) / ($middle($before) + 0.02 * $scale));
        };
        $far = [];
        for ($at = $last - 1 - 42; $at < $last - 1; $at++) {
            $one = $ratio($at, 2);
            if ($one !== null) {
                $far[] = abs($one);
            }
        }
        $spread = max(0.04, 1.4826 * $middle($far));
        [$yesterday, $today] = [$ratio($last - 1, 3) ?? 0.0, $ratio($last, 3) ?? 0.0];
        $limit = (3.7 + 8.0 * max(0.0, $spread - 0.1)) * $spread;

        return match (true) {
            min($yesterday, $today) > log(1.2) && ($yesterday + $today) / sqrt(2) > $limit => 2,
            $today > max(log(2.0), 7.0 * $spread) => 1,
            default => 0,
        };
    }
}
