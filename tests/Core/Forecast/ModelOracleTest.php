<?php

declare(strict_types=1);

namespace Tests\Core\Forecast;

use Fulcrion\Core\Forecast\Backtest;
use Fulcrion\Core\Forecast\Clipped;
use Fulcrion\Core\Forecast\DailySeries;
use Fulcrion\Core\Forecast\ForecastModel;
use Fulcrion\Core\Forecast\MonthEdges;
use Fulcrion\Core\Forecast\SeasonalNaive;
use Fulcrion\Core\Forecast\Smoothing;
use Fulcrion\Core\Usage\Days;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Each model beside another way to compute it: smoothing in its component form (the recursions of the textbook), medians by sorting, errors
 * one origin after the other.
 */
final class ModelOracleTest extends TestCase
{
    /** Monday, 1 January 2024. */
    private const FIRST = 1_704_067_200;

    /** Level, trend and season, as the model may choose them. */
    private const GRID = [
        [0.02, 0.0, 0.05], [0.05, 0.0, 0.05], [0.1, 0.0, 0.1], [0.25, 0.0, 0.1], [0.5, 0.0, 0.1],
        [0.05, 0.05, 0.05], [0.1, 0.1, 0.1], [0.25, 0.1, 0.1], [0.5, 0.1, 0.2],
    ];

    /**
     * @return iterable<string, array{list<float|null>}>
     */
    public static function series(): iterable
    {
        for ($seed = 1; $seed <= 8; $seed++) {
            $random = new Randomizer(new Mt19937($seed));
            $length = [31, 60, 95, 140, 200, 377, 420, 500][$seed - 1];
            $slope = [0.0, 0.4, -0.2, 1.5, 0.0, 0.3, 0.1, 0.0][$seed - 1];
            $values = [];
            for ($i = 0; $i < $length; $i++) {
                $week = [100, 110, 120, 115, 105, 30, 20][$i % 7];
                $spike = $random->getInt(0, 40) === 0 ? 4.0 : 1.0;
                $value = max(0.0, ($week + $slope * $i) * (0.8 + $random->getInt(0, 400) / 1000) * $spike);
                $values[] = $seed % 2 === 0 && $random->getInt(0, 14) === 0 ? null : $value;
            }
            yield "series {$seed} of {$length} days" => [$values];
        }
    }

    /**
     * The textbook's components: level l, trend b, season s of the weekday; forecast l + φb + ... + s.
     *
     * @param  list<float|null>  $values
     * @param  array{float, float, float}  $of
     * @return list<float>
     */
    private static function smoothed(array $values, array $of, int $begin, int $origin, int $horizon): array
    {
        [$alpha, $beta, $gamma] = $of;
        $weeks = [];
        foreach (array_slice($values, 0, min($begin, 28)) as $at => $value) {
            if ($value !== null) {
                $weeks[$at % 7][] = $value;
            }
        }
        $all = array_merge([], ...array_values($weeks));
        $level = $all === [] ? 0.0 : array_sum($all) / count($all);
        $season = [];
        for ($day = 0; $day < 7; $day++) {
            $season[$day] = isset($weeks[$day]) ? array_sum($weeks[$day]) / count($weeks[$day]) - $level : 0.0;
        }
        $trend = 0.0;
        for ($at = 0; $at < $origin; $at++) {
            $damped = 0.98 * $trend;
            $value = $values[$at];
            if ($value === null) {
                [$level, $trend] = [$level + $damped, $damped];

                continue;
            }
            $old = $level + $damped;
            $seasonal = $season[$at % 7];
            $level = $alpha * ($value - $seasonal) + (1 - $alpha) * $old;
            // The trend follows the level by β of what the level itself moved beyond what was expected of it.
            $trend = $damped + $beta * ($level - $old);
            $season[$at % 7] = $gamma * (1 - $alpha) * ($value - $old) + (1 - $gamma * (1 - $alpha)) * $seasonal;
        }
        $forecast = [];
        $sum = 0.0;
        for ($h = 1; $h <= $horizon; $h++) {
            $sum += 0.98 ** $h;
            $forecast[] = max(0.0, $level + $sum * $trend + $season[($origin + $h - 1) % 7]);
        }

        return $forecast;
    }

    /**
     * @param  list<float|null>  $values
     */
    #[DataProvider('series')]
    public function test_smoothing_is_that_of_the_textbook_with_the_nearest_parameters(array $values): void
    {
        $count = count($values);
        // Learned from the last year, by whole weeks, judged four weeks ahead again and again.
        $from = max(0, $count - 364);
        $from -= $from % 7;
        $some = array_slice($values, $from);
        $origins = [];
        for ($at = count($some) - 28; $at >= 14; $at -= 28) {
            $origins[] = $at;
        }
        $origins = array_reverse($origins);
        $errors = [];
        foreach ($origins === [] ? [] : self::GRID as $number => $of) {
            $errors[$number] = 0.0;
            foreach ($origins as $origin) {
                foreach (self::smoothed($some, $of, $origins[0], $origin, 28) as $h => $one) {
                    $value = $some[$origin + $h] ?? null;
                    $errors[$number] += $value === null ? 0.0 : abs($value - $one);
                }
            }
        }
        asort($errors);
        $best = self::GRID[array_key_first($errors) ?? 2];
        $given = Smoothing::fitted($values, $count)->from($values, [$count - 10, $count], 35);
        foreach ([$count - 10, $count] as $origin) {
            self::assertEqualsWithDelta(self::smoothed($values, $best, $count - 10, $origin, 35), $given[$origin], 1e-7);
        }
    }

    /**
     * @param  list<float|null>  $values
     */
    #[DataProvider('series')]
    public function test_values_are_held_where_a_plain_reading_holds_them(array $values): void
    {
        $middle = static function (array $some): float {
            sort($some);
            $half = intdiv(count($some), 2);

            return count($some) % 2 === 1 ? $some[$half] : ($some[$half - 1] + $some[$half]) / 2;
        };
        $expected = $distances = [];
        foreach ($values as $at => $value) {
            $before = [];
            for ($back = $at - 7; $back >= 0 && count($before) < 5; $back -= 7) {
                if ($values[$back] !== null) {
                    $before[] = $values[$back];
                }
            }
            if ($value === null || count($before) < 3) {
                $expected[] = $value;

                continue;
            }
            $usual = $middle($before);
            $far = abs($value - $usual);
            $most = count($distances) < 14 ? INF : 3.0 * 1.4826 * $middle(array_slice($distances, -35));
            $expected[] = $far <= $most ? $value : max(0.0, $value > $usual ? $usual + $most : $usual - $most);
            $distances[] = $far;
        }
        self::assertEqualsWithDelta($expected, Clipped::of($values), 1e-9);
        self::assertSame(array_keys($values, null, true), array_keys(Clipped::of($values), null, true), 'a gap stays a gap');
    }

    /**
     * @param  list<float|null>  $values
     */
    #[DataProvider('series')]
    public function test_the_plainest_model_says_the_last_of_each_weekday(array $values): void
    {
        $count = count($values);
        $origins = [14, intdiv($count, 2), $count];
        foreach (SeasonalNaive::from($values, $origins, 20) as $origin => $forecast) {
            foreach ($forecast as $h => $one) {
                $expected = null;
                for ($back = $origin + $h - 7 * intdiv($h + 7, 7); $back >= 0 && $expected === null; $back -= 7) {
                    $expected = $back < $origin ? $values[$back] : null;
                }
                self::assertSame($expected ?? 0.0, $one, "{$h} days after {$origin}");
            }
        }
    }

    /**
     * @param  list<float|null>  $values
     */
    #[DataProvider('series')]
    public function test_errors_are_those_of_each_origin_by_itself(array $values): void
    {
        $series = new DailySeries(self::FIRST, $values);
        $origins = Backtest::origins($series);
        $places = array_keys(array_filter($values, static fn (?float $one): bool => $one !== null));
        $first = ($places[13] ?? count($values)) + 1;
        self::assertSame(range(max($first, count($values) - 112), count($values) - 1), $origins);
        foreach ([ForecastModel::SeasonalNaive, ForecastModel::Smoothed] as $model) {
            $wrong = $had = 0.0;
            $sums = [];
            foreach ($model->forecasts($series, $origins, 31, $origins[0]) as $origin => $forecast) {
                $recent = array_slice($values, max(0, $origin - 28), min(28, $origin));
                $scale = array_filter($recent, static fn (?float $one): bool => $one !== null);
                $sum = $said = 0.0;
                $gaps = 0;
                for ($h = 1; $h <= 31 && $origin + $h <= count($values); $h++) {
                    $value = $values[$origin + $h - 1];
                    $said += $forecast[$h - 1];
                    $gaps += $value === null ? 1 : 0;
                    $sum += $value === null ? 0.0 : $value - $forecast[$h - 1];
                    $wrong += $value === null ? 0.0 : abs($value - $forecast[$h - 1]);
                    $had += $value ?? 0.0;
                    if ($h === 7 && $gaps <= 1) {
                        $sums[$origin] = $sum / max($said, 0.2 * 7 * array_sum($scale) / count($scale));
                    }
                }
            }
            $backtest = Backtest::of($series, $model, $origins);
            self::assertEqualsWithDelta($wrong / $had, $backtest->error, 1e-9);
            self::assertSame(count($sums) >= 10, $backtest->spread(7, 0.8) !== null);
            if (count($sums) >= 10) {
                $this->assertRange(array_values($sums), $backtest, 7);
            }
        }
    }

    /**
     * The 80% range lies around the middle of the outer tenths, wider the fewer errors there are; the 95% range at least as far as that
     * of a normal spread would.
     *
     * @param  list<float>  $errors
     */
    private function assertRange(array $errors, Backtest $backtest, int $days): void
    {
        sort($errors);
        $quantile = static function (float $part) use ($errors): float {
            $place = $part * (count($errors) - 1);
            $low = (int) floor($place);

            return $errors[$low] + ($place - $low) * ($errors[min($low + 1, count($errors) - 1)] - $errors[$low]);
        };
        $wider = 1 + ($days + 2) / count($errors);
        $around = static function (float $part) use ($quantile, $wider): array {
            [$low, $high] = [$quantile((1 - $part) / 2), $quantile((1 + $part) / 2)];
            $middle = ($low + $high) / 2;

            return [$middle - ($middle - $low) * $wider, $middle + ($high - $middle) * $wider];
        };
        $four = $around(0.8);
        self::assertEqualsWithDelta($four, $backtest->spread($days, 0.8), 1e-9);
        [$low, $high] = $around(0.95);
        $further = ($four[1] - $four[0]) / 2 * 1.96 / 1.2816;
        $middle = ($four[0] + $four[1]) / 2;
        $nineteen = [min($low, $middle - $further), max($high, $middle + $further)];
        self::assertEqualsWithDelta($nineteen, $backtest->spread($days, 0.95), 1e-9);
    }

    public function test_edges_of_months_are_medians_drawn_towards_nothing(): void
    {
        // Four Januaries' worth of months: the last day has three times as much, in one month ten times.
        $values = [];
        for ($i = 0; $i < 400; $i++) {
            $day = self::FIRST + $i * Days::DAY;
            $values[] = 100.0 * (MonthEdges::edge($day) === -1 ? (gmdate('Y-m', $day) === '2024-05' ? 10.0 : 3.0) : 1.0);
        }
        $series = new DailySeries(self::FIRST, $values);
        $goesOn = static fn (array $plain): array => [
            400 => array_values(array_map(static fn (mixed $one): float => is_float($one) ? $one : 0.0, array_slice($plain, -40))),
        ];
        $said = MonthEdges::learn($series, 400)->from($series, [400], 40, $goesOn);
        $place = (int) ((strtotime('2025-02-28 UTC') - self::FIRST) / Days::DAY) - 400;
        // Thirteen ends were seen, one of which has a week around it only before the end of what is known: 1 + 13/15 of two more.
        $seen = count(array_filter(range(7, 392), static fn (int $at): bool => MonthEdges::edge(self::FIRST + $at * Days::DAY) === -1));
        self::assertEqualsWithDelta(100.0 * (1 + $seen / ($seen + 2) * 2), $said[400][$place], 12.0);
    }
}
