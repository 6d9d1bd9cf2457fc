<?php

declare(strict_types=1);

namespace Fulcrion\Core\Forecast;

/**
 * How a series goes on, by the model that was nearest in the past, and how sure that is.
 */
final readonly class Forecast
{
    /**
     * @param  list<float>  $days expected amounts from the first day on that is not known
     */
    private function __construct(
        public DailySeries $series,
        public ForecastModel $model,
        public array $days,
        public Backtest $backtest,
        /** The same of the plainest model. */
        public Backtest $naive,
    ) {
    }

    public static function of(DailySeries $series, int $horizon): self
    {
        $model = Backtest::choose($series);
        $origins = Backtest::origins($series);
        $count = $series->count();
        $backtest = Backtest::of($series, $model, $origins);

        return new self(
            $series,
            $model,
            $model->forecasts($series, [$count], $horizon, $count)[$count],
            $backtest,
            $model === ForecastModel::SeasonalNaive ? $backtest : Backtest::of($series, ForecastModel::SeasonalNaive, $origins),
        );
    }

    /** What the first of the days ahead have together. */
    public function total(int $days): float
    {
        return array_sum(array_slice($this->days, 0, $days));
    }

    /**
     * Between what a part of such sums lay; none below zero.
     *
     * @param  int  $days one at least
     * @return array{float, float}|null null where too little of the past is known
     */
    public function range(int $days, float $part): ?array
    {
        $spread = $this->backtest->spread($days, $part);
        $total = $this->total($days);
        $unit = Backtest::unit($total, Backtest::scale($this->series->values, $this->series->count()), $days);

        return $spread === null ? null : [max(0.0, $total + $spread[0] * $unit), max(0.0, $total + $spread[1] * $unit)];
    }
}
