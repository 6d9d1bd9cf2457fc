<?php

declare(strict_types=1);

namespace Fulcrion\Core\Forecast;

use Closure;
use Fulcrion\Core\Statistics\Spread;

/**
 * What the first and last three days of months have more or less than days around them: the median of months that were seen, drawn towards
 * nothing where they are few.
 */
final readonly class MonthEdges
{
    /** Days at either end of a month. */
    private const DAYS = 3;

    private const WEEK = 7;

    /** So many months without an effect are added to what was seen. */
    private const DOUBT = 2;

    private const LEAST = 0.2;

    /**
     * @param  array<int, float>  $factors by place in the month: 1 to 3 from its start, -1 to -3 from its end
     */
    private function __construct(private array $factors)
    {
    }

    /**
     * @param  int  $until place up to which values are looked at
     */
    public static function learn(DailySeries $series, int $until): self
    {
        $seen = [];
        for ($at = self::WEEK; $at < $until - self::WEEK; $at++) {
            $edge = self::edge($series->day($at));
            $around = $edge === 0 ? null : self::around($series->values, $at);
            $value = $series->values[$at];
            if ($edge !== 0 && $value !== null && $around !== null && $around > 0) {
                $seen[$edge][] = $value / $around;
            }
        }
        $factors = [];
        foreach ($seen as $edge => $ratios) {
            $weight = count($ratios) / (count($ratios) + self::DOUBT);
            $factors[$edge] = max(self::LEAST, 1 + $weight * (Spread::median($ratios) - 1));
        }

        return new self($factors);
    }

    /**
     * @param  list<int>  $origins
     * @param  Closure(list<float|null>): array<int, list<float>>  $forecast of values without the effect
     * @return array<int, list<float>>
     */
    public function from(DailySeries $series, array $origins, int $horizon, Closure $forecast): array
    {
        $factors = [];
        $last = ($origins[count($origins) - 1] ?? 0) + $horizon;
        for ($at = 0; $at < max($last, $series->count()); $at++) {
            $factors[$at] = $this->factors[self::edge($series->day($at))] ?? 1.0;
        }
        $plain = [];
        foreach ($series->values as $at => $value) {
            $plain[] = $value === null ? null : $value / $factors[$at];
        }
        $with = [];
        foreach ($forecast($plain) as $origin => $values) {
            foreach ($values as $h => $value) {
                $with[$origin][] = $value * $factors[$origin + $h];
            }
        }

        return $with;
    }

    /** The place of a day at an end of its month; 0 for all others. */
    public static function edge(int $day): int
    {
        [$of, $all] = array_map(intval(...), explode(' ', gmdate('j t', $day)));

        return match (true) {
            $of <= self::DAYS => $of,
            $all - $of < self::DAYS => $of - $all - 1,
            default => 0,
        };
    }

    /**
     * The mean of the same weekday one week before and after.
     *
     * @param  list<float|null>  $values
     */
    private static function around(array $values, int $at): ?float
    {
        $before = $values[$at - self::WEEK] ?? null;
        $after = $values[$at + self::WEEK] ?? null;

        return $before === null || $after === null ? null : ($before + $after) / 2;
    }
}
