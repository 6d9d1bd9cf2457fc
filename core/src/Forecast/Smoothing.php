<?php

declare(strict_types=1);

namespace Fulcrion\Core\Forecast;

/**
 * Exponential smoothing with an additive season of seven days and an additive, damped trend, in its error-correction form (Hyndman et al.,
 * Forecasting with Exponential Smoothing, 2008: ETS(A,Ad,A)). A day that is not known corrects nothing.
 */
final readonly class Smoothing
{
    private const WEEK = 7;

    private const DAMPING = 0.98;

    /** Days further back are not learned from. */
    private const MEMORY = 364;

    /** How far ahead parameters are judged. */
    private const AHEAD = 28;

    /** Level, trend and season: how much of an error each takes up. */
    private const GRID = [
        [0.02, 0.0, 0.05], [0.05, 0.0, 0.05], [0.1, 0.0, 0.1], [0.25, 0.0, 0.1], [0.5, 0.0, 0.1],
        [0.05, 0.05, 0.05], [0.1, 0.1, 0.1], [0.25, 0.1, 0.1], [0.5, 0.1, 0.2],
    ];

    private function __construct(private float $level, private float $trend, private float $season)
    {
    }

    /**
     * Those parameters that would have been nearest four weeks ahead.
     *
     * @param  list<float|null>  $values
     * @param  int  $until place up to which values are looked at
     */
    public static function fitted(array $values, int $until): self
    {
        $from = max(0, $until - self::MEMORY);
        $from -= $from % self::WEEK;
        $some = array_slice($values, $from, $until - $from);
        $origins = [];
        for ($at = count($some) - self::AHEAD; $at >= 2 * self::WEEK; $at -= self::AHEAD) {
            array_unshift($origins, $at);
        }
        $best = new self(...self::GRID[2]);
        $least = INF;
        foreach ($origins === [] ? [] : self::GRID as $one) {
            $model = new self(...$one);
            $error = self::error($some, $model->from($some, $origins, self::AHEAD));
            if ($error < $least) {
                [$best, $least] = [$model, $error];
            }
        }

        return $best;
    }

    /**
     * @param  list<float|null>  $values
     * @param  list<int>  $origins ascending
     * @return array<int, list<float>>
     */
    public function from(array $values, array $origins, int $horizon): array
    {
        [$level, $season] = self::begin($values, $origins[0] ?? 0);
        $trend = 0.0;
        [$a, $ab, $g] = [$this->level, $this->level * $this->trend, $this->season * (1 - $this->level)];
        $forecasts = [];
        $at = 0;
        foreach ($origins as $origin) {
            for (; $at < $origin; $at++) {
                $trend *= self::DAMPING;
                $level += $trend;
                $value = $values[$at];
                if ($value !== null) {
                    $weekday = $at % self::WEEK;
                    $error = $value - $level - $season[$weekday];
                    $level += $a * $error;
                    $trend += $ab * $error;
                    $season[$weekday] += $g * $error;
                }
            }
            $forecast = [];
            [$ahead, $step] = [$level, $trend];
            for ($h = 0; $h < $horizon; $h++) {
                $step *= self::DAMPING;
                $ahead += $step;
                $forecast[] = max(0.0, $ahead + $season[($origin + $h) % self::WEEK]);
            }
            $forecasts[$origin] = $forecast;
        }

        return $forecasts;
    }

    /**
     * Level and season of the first weeks.
     *
     * @param  list<float|null>  $values
     * @param  int  $until place that is not known at first
     * @return array{float, array<int, float>}
     */
    private static function begin(array $values, int $until): array
    {
        $sums = $counts = array_fill(0, self::WEEK, 0.0);
        $most = min($until, 4 * self::WEEK);
        for ($at = 0; $at < $most; $at++) {
            if ($values[$at] !== null) {
                $sums[$at % self::WEEK] += $values[$at];
                $counts[$at % self::WEEK]++;
            }
        }
        $known = array_sum($counts);
        $level = $known > 0 ? array_sum($sums) / $known : 0.0;
        $season = [];
        foreach ($sums as $weekday => $sum) {
            $season[$weekday] = $counts[$weekday] > 0 ? $sum / $counts[$weekday] - $level : 0.0;
        }

        return [$level, $season];
    }

    /**
     * @param  list<float|null>  $values
     * @param  array<int, list<float>>  $forecasts
     */
    private static function error(array $values, array $forecasts): float
    {
        $sum = 0.0;
        foreach ($forecasts as $origin => $forecast) {
            foreach ($forecast as $h => $one) {
                $value = $values[$origin + $h] ?? null;
                $sum += $value === null ? 0.0 : abs($value - $one);
            }
        }

        return $sum;
    }
}
