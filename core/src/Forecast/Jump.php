<?php

declare(strict_types=1);

namespace Fulcrion\Core\Forecast;

use Fulcrion\Core\Statistics\Spread;

/**
 * The last days of a series had far more than the same days of the week usually have: one day a spike, two days a step. What is usual is
 * the median of the weeks before; how far is far follows from how far days usually lie from it, on a scale of ratios.
 */
final readonly class Jump
{
    private const WEEK = 7;

    /** Weeks a day is held against, and how many of them must be known: of a day that is told, and of those that say how far is usual. */
    private const WEEKS = 6;

    private const LEAST_WEEKS = 3;

    private const LEAST_WEEKS_BEFORE = 2;

    /** Days whose usual distance is looked at, and how many must be known. */
    private const MEMORY = 42;

    private const LEAST_DAYS = 10;

    /** Makes the median distance that of a normal spread (1 / 0.6745). */
    private const NORMAL = 1.4826;

    /** Nothing is more regular than this: 4%. */
    private const LEAST_SPREAD = 0.04;

    /** Usual distances both days of a step have at least on their mean, and a spike has alone. */
    private const STEP = 3.7;

    /** What is far from regular is accused later: so many distances more for each spread above the first. */
    private const MORE = 8.0;

    private const REGULAR = 0.1;

    private const SPIKE = 7.0;

    /** Times as much either day of a step has at least, and a spike. */
    private const STEP_TIMES = 1.2;

    private const SPIKE_TIMES = 2.0;

    /** Part of what a day has that is added to both sides of a ratio, so that little beside nothing is no jump. */
    private const BASE = 0.02;

    /**
     * @param  float  $usual what the days that jumped usually have together
     * @param  float  $had what they had
     * @param  int  $days one for a spike, two for a step
     */
    private function __construct(public float $usual, public float $had, public int $days)
    {
    }

    /** Null where the last day is as usual, or what is usual is not known. */
    public static function atEnd(DailySeries $series): ?self
    {
        $last = $series->count() - 1;
        $base = self::BASE * Backtest::scale($series->values, max(0, $last - 1));
        $spread = self::spread($series->values, $last - 1, $base);
        $today = self::ratio($series->values, $last, $base);
        if ($spread === null || $today === null) {
            return null;
        }
        $before = self::ratio($series->values, $last - 1, $base);
        $least = log(self::STEP_TIMES);
        $far = self::STEP + self::MORE * max(0.0, $spread - self::REGULAR);
        if ($before !== null && min($before, $today) > $least && ($before + $today) / M_SQRT2 > $far * $spread) {
            return self::of($series->values, [$last - 1, $last]);
        }

        return $today > max(log(self::SPIKE_TIMES), self::SPIKE * $spread) ? self::of($series->values, [$last]) : null;
    }

    public function times(): ?float
    {
        return $this->usual > 0 ? $this->had / $this->usual : null;
    }

    /**
     * @param  list<float|null>  $values
     * @param  non-empty-list<int>  $places
     */
    private static function of(array $values, array $places): self
    {
        return new self(
            array_sum(array_map(static fn (int $at): float => self::usual($values, $at) ?? 0.0, $places)),
            array_sum(array_map(static fn (int $at): float => $values[$at] ?? 0.0, $places)),
            count($places),
        );
    }

    /**
     * How far days before a place usually lie from what is usual, as logarithms.
     *
     * @param  list<float|null>  $values
     */
    private static function spread(array $values, int $until, float $base): ?float
    {
        $distances = [];
        for ($at = max(0, $until - self::MEMORY); $at < $until; $at++) {
            $ratio = self::ratio($values, $at, $base, self::LEAST_WEEKS_BEFORE);
            if ($ratio !== null) {
                $distances[] = abs($ratio);
            }
        }

        return count($distances) < self::LEAST_DAYS ? null
            : max(self::LEAST_SPREAD, self::NORMAL * Spread::median($distances));
    }

    /**
     * Logarithm of what a day had against what is usual.
     *
     * @param  list<float|null>  $values
     */
    private static function ratio(array $values, int $at, float $base, int $least = self::LEAST_WEEKS): ?float
    {
        $value = $values[$at] ?? null;
        $usual = self::usual($values, $at, $least);

        return $value === null || $usual === null || $usual + $base <= 0 ? null : log(max(1e-9, $value + $base) / ($usual + $base));
    }

    /**
     * @param  list<float|null>  $values
     */
    private static function usual(array $values, int $at, int $least = self::LEAST_WEEKS): ?float
    {
        $known = [];
        for ($week = 1; $week <= self::WEEKS; $week++) {
            $value = $values[$at - $week * self::WEEK] ?? null;
            if ($value !== null) {
                $known[] = $value;
            }
        }

        return count($known) < $least ? null : Spread::median($known);
    }
}
