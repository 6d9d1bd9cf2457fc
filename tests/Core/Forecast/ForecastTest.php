<?php

declare(strict_types=1);

namespace Tests\Core\Forecast;

use Fulcrion\Core\Forecast\Clipped;
use Fulcrion\Core\Forecast\DailySeries;
use Fulcrion\Core\Forecast\Forecast;
use Fulcrion\Core\Forecast\ForecastModel;
use Fulcrion\Core\Forecast\MonthEdges;
use Fulcrion\Core\Forecast\PeriodForecast;
use Fulcrion\Core\Usage\Days;
use InvalidArgumentException;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class ForecastTest extends TestCase
{
    /** Monday, 1 January 2024. */
    private const FIRST = 1_704_067_200;

    private const WEEK = [100.0, 110.0, 120.0, 115.0, 105.0, 30.0, 20.0];

    /**
     * @param  callable(int): ?float  $value by place
     */
    private static function series(int $days, callable $value): DailySeries
    {
        return new DailySeries(self::FIRST, $days === 0 ? [] : array_map($value, range(0, $days - 1)));
    }

    public function test_what_is_the_same_every_week_goes_on_so(): void
    {
        $series = self::series(200, static fn (int $i): float => self::WEEK[$i % 7]);
        $forecast = Forecast::of($series, 31);
        self::assertSame(ForecastModel::SeasonalNaive, $forecast->model, 'what is no better is not chosen');
        for ($h = 0; $h < 31; $h++) {
            self::assertEqualsWithDelta(self::WEEK[(200 + $h) % 7], $forecast->days[$h], 1e-9);
        }
        self::assertSame(0.0, $forecast->backtest->error);
        $range = $forecast->range(7, 0.8);
        self::assertEqualsWithDelta([600.0, 600.0], $range, 1e-9);
    }

    public function test_what_grows_every_week_is_seen_growing(): void
    {
        $series = self::series(300, static fn (int $i): float => self::WEEK[$i % 7] + 2.0 * $i);
        $forecast = Forecast::of($series, 28);
        self::assertNotSame(ForecastModel::SeasonalNaive, $forecast->model);
        $true = array_sum(array_map(static fn (int $i): float => self::WEEK[$i % 7] + 2.0 * $i, range(300, 327)));
        self::assertEqualsWithDelta($true, $forecast->total(28), 0.03 * $true);
        self::assertLessThan(0.6 * (float) $forecast->naive->error, (float) $forecast->backtest->error);
    }

    public function test_a_gap_is_no_zero(): void
    {
        foreach (ForecastModel::cases() as $model) {
            $whole = self::series(200, static fn (int $i): float => self::WEEK[$i % 7]);
            $gaps = self::series(200, static fn (int $i): ?float => $i % 11 === 3 || ($i > 150 && $i < 160) ? null : self::WEEK[$i % 7]);
            $of = static fn (DailySeries $series): array => $model->forecasts($series, [200], 14, 200)[200];
            self::assertEqualsWithDelta($of($whole), $of($gaps), 1.5, $model->value);
        }
        // Nothing but zeros stays so, and has no error.
        $zeros = Forecast::of(self::series(120, static fn (): float => 0.0), 31);
        self::assertSame([0.0, ForecastModel::SeasonalNaive, null], [$zeros->total(31), $zeros->model, $zeros->backtest->error]);
        self::assertNull($zeros->range(31, 0.8), 'what never had anything has no usual error');
        $none = Forecast::of(self::series(60, static fn (): ?float => null), 7);
        self::assertSame([0.0, null], [$none->total(7), $none->range(7, 0.8)]);
    }

    public function test_of_two_weeks_nothing_is_said_but_the_same_again(): void
    {
        $forecast = Forecast::of(self::series(14, static fn (int $i): float => self::WEEK[$i % 7] + $i), 31);
        self::assertSame(ForecastModel::SeasonalNaive, $forecast->model);
        self::assertNull($forecast->range(7, 0.8));
        self::assertNull($forecast->backtest->error);
        self::assertSame(self::WEEK[0] + 7, $forecast->days[0]);
        self::assertSame([0, 0], $forecast->backtest->held(7, 0.8));
        // One hour, one day, none at all.
        self::assertSame(5.0, Forecast::of(new DailySeries(self::FIRST, [5.0]), 3)->days[2]);
        self::assertSame(0.0, Forecast::of(new DailySeries(self::FIRST, []), 3)->total(3));
    }

    public function test_series_of_every_length_go_on(): void
    {
        for ($days = 0; $days < 150; $days++) {
            $forecast = Forecast::of(self::series($days, static fn (int $i): float => self::WEEK[$i % 7] * (1 + $i % 5)), 31);
            self::assertCount(31, $forecast->days);
            self::assertSame($days < 24, $forecast->range(1, 0.8) === null, "{$days} days");
            self::assertSame($days < 15, $forecast->backtest->error === null, "{$days} days");
        }
    }

    public function test_a_spike_does_not_carry_on(): void
    {
        $series = self::series(200, static fn (int $i): float => $i === 196 ? 5_000.0 : self::WEEK[$i % 7] + $i % 3);
        $robust = ForecastModel::Robust->forecasts($series, [200], 7, 200)[200];
        self::assertLessThan(40.0, abs(array_sum($robust) - array_sum(self::WEEK) - 7));
        self::assertGreaterThan(300.0, array_sum(ForecastModel::Smoothed->forecasts($series, [200], 7, 200)[200]) - array_sum($robust));
        // What stays is followed after some weeks.
        $shifted = self::series(260, static fn (int $i): float => (self::WEEK[$i % 7] + $i % 3) * ($i < 200 ? 1 : 2));
        self::assertSame($shifted->values[259], Clipped::of($shifted->values)[259]);
        self::assertLessThan($shifted->values[200], Clipped::of($shifted->values)[200]);
    }

    public function test_a_period_ends_with_what_was_and_what_is_expected(): void
    {
        // Ten a day; of January 2024 ten days are over.
        $of = PeriodForecast::of(self::series(10, static fn (): float => 10.0), Days::month('2024-01'));
        self::assertSame([21, 100.0, 310.0], [$of->ahead, $of->used(), $of->expected()]);
        self::assertSame((int) strtotime('2024-01-06 UTC'), $of->passes(55.0));
        self::assertSame((int) strtotime('2024-01-26 UTC'), $of->passes(250.0));
        self::assertNull($of->passes(310.0));
        self::assertSame((int) strtotime('2024-01-31 UTC'), $of->passes(309.9));
        self::assertNull($of->range(0.8));
        self::assertSame([24, 70.0], [$of->earlier(3)?->ahead, $of->earlier(3)?->used()]);
        self::assertNull($of->earlier(10));
        // Nothing of February is over at the end of January, and a gap is not counted as used.
        $all = PeriodForecast::of(self::series(31, static fn (int $i): ?float => $i === 4 ? null : 10.0), Days::month('2024-02'));
        self::assertSame([29, 0.0, 290.0], [$all->ahead, $all->used(), $all->expected()]);
        $gap = PeriodForecast::of(self::series(10, static fn (int $i): ?float => $i === 4 ? null : 10.0), Days::month('2024-01'));
        self::assertSame(90.0, $gap->used());
        // A series that begins within the month.
        $late = PeriodForecast::of(new DailySeries((int) strtotime('2024-01-08 UTC'), [10.0, 10.0]), Days::month('2024-01'));
        self::assertSame([22, 20.0, 240.0], [$late->ahead, $late->used(), $late->expected()]);
        self::assertSame((int) strtotime('2024-01-10 UTC'), $late->passes(20.0));
    }

    public function test_ends_of_months_are_learned(): void
    {
        $series = self::series(400, static fn (int $i): float => self::WEEK[$i % 7] *
            (abs(MonthEdges::edge(self::FIRST + $i * 86_400)) === 0 ? 1 : 2));
        $forecast = Forecast::of($series, 31);
        self::assertSame(ForecastModel::Calendar, $forecast->model);
        // The end of January 2025 is behind; of February the last three days have twice as much.
        $place = (int) ((strtotime('2025-02-27 UTC') - self::FIRST) / 86_400) - 400;
        self::assertEqualsWithDelta(2 * self::WEEK[($place + 400) % 7], $forecast->days[$place], 25.0);
        self::assertEqualsWithDelta(self::WEEK[($place + 396) % 7], $forecast->days[$place - 4], 12.0);
    }

    #[TestWith(['2026-02-26', -3])]
    #[TestWith(['2026-02-28', -1])]
    #[TestWith(['2026-03-01', 1])]
    #[TestWith(['2026-03-03', 3])]
    #[TestWith(['2026-03-04', 0])]
    #[TestWith(['2028-02-26', 0])]
    public function test_days_at_the_ends_of_months(string $date, int $edge): void
    {
        self::assertSame($edge, MonthEdges::edge((int) strtotime("{$date} UTC")));
    }

    public function test_what_was_said_of_the_past_knew_nothing_of_what_came(): void
    {
        // Whatever comes after an origin changes nothing of what is said there.
        $random = new Randomizer(new Mt19937(9));
        $values = array_map(static fn (int $i): float => self::WEEK[$i % 7] * $random->getInt(50, 150) / 100, range(0, 299));
        $other = $values;
        for ($i = 250; $i < 300; $i++) {
            $other[$i] = 9_999.0 - $i;
        }
        foreach (ForecastModel::cases() as $model) {
            $of = static fn (DailySeries $series): array => $model->forecasts($series, range(200, 250), 20, 200);
            self::assertEquals(
                $of(new DailySeries(self::FIRST, $values)),
                $of(new DailySeries(self::FIRST, array_values($other))),
                $model->value,
            );
        }
    }

    public function test_ranges_hold_as_often_as_they_say(): void
    {
        $random = new Randomizer(new Mt19937(4));
        $held = ['0.8' => 0, '0.95' => 0];
        $of = 0;
        for ($round = 0; $round < 120; $round++) {
            // Of three even draws, so that most are small.
            $draw = static fn (): float => $random->getInt(-500, 500) / 1_500;
            $noise = static fn (): float => $draw() + $draw() + $draw();
            $all = self::series(330, static fn (int $i): float => max(0.0, self::WEEK[$i % 7] * (1 + 0.4 * $noise())))->values;
            $forecast = Forecast::of(new DailySeries(self::FIRST, array_slice($all, 0, 300)), 30);
            foreach ([1, 7, 30] as $days) {
                $true = array_sum(array_slice($all, 300, $days));
                $of++;
                foreach (array_keys($held) as $part) {
                    [$low, $high] = $forecast->range($days, (float) $part) ?? [INF, -INF];
                    $held[$part] += $true >= $low && $true <= $high ? 1 : 0;
                }
            }
        }
        self::assertEqualsWithDelta(0.8, $held['0.8'] / $of, 0.07);
        self::assertEqualsWithDelta(0.95, $held['0.95'] / $of, 0.05);
    }

    public function test_longer_sums_have_wider_ranges(): void
    {
        $random = new Randomizer(new Mt19937(1));
        $forecast = Forecast::of(self::series(300, static fn (int $i): float => self::WEEK[$i % 7] * $random->getInt(60, 140) / 100), 92);
        $wide = static function (int $days, float $part) use ($forecast): float {
            [$low, $high] = $forecast->range($days, $part) ?? [0.0, 0.0];

            return $high - $low;
        };
        self::assertGreaterThan($wide(1, 0.8), $wide(31, 0.8));
        self::assertGreaterThan($wide(31, 0.8), $wide(31, 0.95));
        // Further ahead than is compared the error is the same part of what is said.
        self::assertEqualsWithDelta(2.0, $wide(62, 0.8) / $wide(31, 0.8), 0.1);
        self::assertGreaterThan(0.5, $forecast->backtest->held(7, 0.8)[0] / max(1, $forecast->backtest->held(7, 0.8)[1]));
    }

    #[TestWith([-1.0])]
    #[TestWith([INF])]
    #[TestWith([NAN])]
    public function test_amounts_are_of_zero_and_more(float $value): void
    {
        $this->expectException(InvalidArgumentException::class);
        new DailySeries(self::FIRST, [1.0, $value]);
    }
}
