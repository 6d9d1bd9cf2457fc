<?php

declare(strict_types=1);

namespace Fulcrion\Core\Forecast;

use Fulcrion\Core\Statistics\Spread;

/**
 * What a model would have said on each of the last days, from what was known by then, beside what came: rolling origins (Tashman, 2000).
 * Errors are told as a part of what was said, so that they fit a series that grew and days that have more than others.
 */
final readonly class Backtest
{
    /** Origins at most, one a day. */
    private const ORIGINS = 112;

    /** Days ahead that are compared. */
    public const AHEAD = 31;

    /** Before the first origin so much must be known. */
    private const LEAST_KNOWN = 14;

    /** Models are chosen by one origin a week, which is quicker and says the same. */
    private const CHOICE_STEP = 7;

    /** What a day had is the mean of so many. */
    private const SCALE_DAYS = 28;

    /** Ranges from fewer errors are none. */
    private const LEAST_ERRORS = 10;

    private const LEAST_UNIT = 0.2;

    /** As if the range were of so many days more, so that those of few errors hold as often. */
    private const FEW = 2;

    /** Of more than this the errors themselves say too little. */
    private const SEEN_PART = 0.8;

    /** Standard deviations on either side that hold 80% and 95% of a normal spread. */
    private const NORMAL_80 = 1.2816;

    private const NORMAL_95 = 1.96;

    /** A day that is not known takes this part of the days ahead at most from a sum, else the sum is not compared. */
    private const MOST_GAPS = 0.2;

    /**
     * @param  array<int, array<int, float>>  $errors of the sum of the first days from an origin on: days => origin => error, by unit();
     *     above zero where more came than was said
     * @param  float|null  $error sum of what days were wrong by, by the sum of what they had; null where nothing could be compared
     */
    private function __construct(private array $errors, public ?float $error)
    {
    }

    /**
     * @return list<int> places of the last days, each once the first that is not known
     */
    public static function origins(DailySeries $series, int $step = 1): array
    {
        $first = 0;
        for ($known = 0; $first < $series->count() && $known < self::LEAST_KNOWN; $first++) {
            $known += $series->values[$first] === null ? 0 : 1;
        }
        $origins = [];
        for ($at = max($first, $series->count() - self::ORIGINS); $at < $series->count(); $at += $step) {
            $origins[] = $at;
        }

        return $origins;
    }

    /** The model that was nearest; what is not clearly better than the plainest one is not chosen. */
    public static function choose(DailySeries $series): ForecastModel
    {
        $origins = self::origins($series, self::CHOICE_STEP);
        $best = ForecastModel::SeasonalNaive;
        if ($origins === []) {
            return $best;
        }
        $least = self::of($series, $best, $origins)->error ?? 0.0;
        // One part in fifty is chance.
        $bound = $least * 0.98;
        foreach ([ForecastModel::Smoothed, ForecastModel::Robust, ForecastModel::Calendar] as $model) {
            $error = self::of($series, $model, $origins)->error ?? INF;
            if ($error < $bound) {
                [$best, $bound] = [$model, $error];
            }
        }

        return $best;
    }

    /**
     * @param  list<int>  $origins
     */
    public static function of(DailySeries $series, ForecastModel $model, array $origins): self
    {
        if ($origins === []) {
            return new self([], null);
        }
        $values = $series->values;
        $count = $series->count();
        $errors = [];
        $wrong = $had = 0.0;
        foreach ($model->forecasts($series, $origins, self::AHEAD, $origins[0]) as $origin => $forecast) {
            $scale = self::scale($values, $origin);
            $sum = $said = 0.0;
            $gaps = 0;
            for ($h = 1; $h <= self::AHEAD && $origin + $h <= $count; $h++) {
                $value = $values[$origin + $h - 1];
                $said += $forecast[$h - 1];
                if ($value === null) {
                    $gaps++;
                } else {
                    $sum += $value - $forecast[$h - 1];
                    $wrong += abs($value - $forecast[$h - 1]);
                    $had += $value;
                }
                if ($scale > 0 && $gaps <= self::MOST_GAPS * $h) {
                    $errors[$h][$origin] = $sum / self::unit($said, $scale, $h);
                }
            }
        }

        return new self($errors, $had > 0 ? $wrong / $had : ($wrong > 0 ? INF : null));
    }

    /**
     * What a day has at a place.
     *
     * @param  list<float|null>  $values
     */
    public static function scale(array $values, int $origin): float
    {
        $sum = 0.0;
        $known = 0;
        for ($at = max(0, $origin - self::SCALE_DAYS); $at < $origin; $at++) {
            if (isset($values[$at])) {
                $sum += $values[$at];
                $known++;
            }
        }

        return $known === 0 ? 0.0 : $sum / $known;
    }

    /**
     * Between which errors of a sum of days a part of them lay, by unit().
     *
     * @param  int  $days from the first one on; above AHEAD it is drawn out from there
     * @param  float  $part 0.8 for four of five
     * @return array{float, float}|null null where too few are known
     */
    public function spread(int $days, float $part): ?array
    {
        $at = min($days, self::AHEAD);

        return self::between(array_values($this->errors[$at] ?? []), $at, $part);
    }

    /**
     * What errors of a sum are a part of: what was said, or where that is very little a part of what so many days had before.
     *
     * @param  float  $scale what a day had
     */
    public static function unit(float $said, float $scale, int $days): float
    {
        return max($said, self::LEAST_UNIT * $scale * $days);
    }

    /**
     * How often such a range held what came, each made from what was known by then only.
     *
     * @return array{int, int} times it held, of how many
     */
    public function held(int $days, float $part): array
    {
        $errors = $this->errors[min($days, self::AHEAD)] ?? [];
        $held = $of = 0;
        foreach ($errors as $origin => $error) {
            $known = array_filter($errors, static fn (int $one): bool => $one + $days <= $origin, ARRAY_FILTER_USE_KEY);
            $range = self::between(array_values($known), $days, $part);
            if ($range !== null) {
                $of++;
                $held += $error >= $range[0] && $error <= $range[1] ? 1 : 0;
            }
        }

        return [$held, $of];
    }

    /**
     * Errors of days that lie in each other say less than as many single ones, so that the range is made wider by how few there are.
     *
     * @param  list<float>  $errors
     * @return array{float, float}|null
     */
    private static function between(array $errors, int $days, float $part): ?array
    {
        if (count($errors) < self::LEAST_ERRORS) {
            return null;
        }
        $wider = 1 + ($days + self::FEW) / count($errors);
        [$low, $high] = self::around($errors, min($part, self::SEEN_PART), $wider);
        if ($part > self::SEEN_PART) {
            // So few errors say little of their ends: at least as far as those of a normal spread would lie.
            $middle = ($low + $high) / 2;
            $further = ($high - $low) / 2 * self::NORMAL_95 / self::NORMAL_80;
            [$least, $most] = self::around($errors, $part, $wider);
            [$low, $high] = [min($least, $middle - $further), max($most, $middle + $further)];
        }

        return [$low, $high];
    }

    /**
     * @param  non-empty-list<float>  $errors
     * @return array{float, float}
     */
    private static function around(array $errors, float $part, float $wider): array
    {
        $low = Spread::quantile($errors, (1 - $part) / 2);
        $high = Spread::quantile($errors, (1 + $part) / 2);
        $middle = ($low + $high) / 2;

        return [$middle - ($middle - $low) * $wider, $middle + ($high - $middle) * $wider];
    }
}
