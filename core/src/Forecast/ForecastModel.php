<?php

declare(strict_types=1);

namespace Fulcrion\Core\Forecast;

/**
 * Ways to continue a series of days.
 */
enum ForecastModel: string
{
    /** As on the same day of the week before. */
    case SeasonalNaive = 'seasonal_naive';

    /** Exponential smoothing with a week's season and a damped trend. */
    case Smoothed = 'smoothed';

    /** The same on values held near the medians of their weekdays, so that spikes do not carry on. */
    case Robust = 'robust';

    /** The same beside what the first and last days of months usually have more or less. */
    case Calendar = 'calendar';

    public function label(): string
    {
        return match ($this) {
            self::SeasonalNaive => 'as on the same day of the week before',
            self::Smoothed => 'smoothed, with a season of the week and a damped trend',
            self::Robust => 'smoothed, spikes held near the medians of their weekdays',
            self::Calendar => 'smoothed, with what first and last days of months have',
        };
    }

    /**
     * What it would have said at some days of the past, each from what was known by then.
     *
     * @param  list<int>  $origins places of the first days that are not known, ascending
     * @param  int  $horizon days
     * @param  int  $learned place up to which parameters may be learned from
     * @return array<int, list<float>> amounts of the days from each origin on, none below zero
     */
    public function forecasts(DailySeries $series, array $origins, int $horizon, int $learned): array
    {
        return match ($this) {
            self::SeasonalNaive => SeasonalNaive::from($series->values, $origins, $horizon),
            self::Smoothed => self::smoothed($series->values, $origins, $horizon, $learned),
            self::Robust => self::smoothed(Clipped::of($series->values), $origins, $horizon, $learned),
            self::Calendar => MonthEdges::learn($series, $learned)->from(
                $series,
                $origins,
                $horizon,
                static fn (array $values): array => self::smoothed($values, $origins, $horizon, $learned),
            ),
        };
    }

    /**
     * @param  list<float|null>  $values
     * @param  list<int>  $origins
     * @return array<int, list<float>>
     */
    private static function smoothed(array $values, array $origins, int $horizon, int $learned): array
    {
        return Smoothing::fitted($values, $learned)->from($values, $origins, $horizon);
    }
}
