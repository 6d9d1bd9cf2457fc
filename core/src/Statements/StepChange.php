<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statements;

use Fulcrion\Core\Statistics\Spread;

/**
 * The day on which a daily figure changed its level, if it did: the split of the series (in logarithms, so that factors
 * count alike up and down) with the smallest summed distance to the medians of its two sides, kept only when the sides
 * hardly overlap.
 */
final readonly class StepChange
{
    private const SIDE = 3;

    public function __construct(
        /** Index of the first day of the new level. */
        public int $at,
        /** Median before. */
        public float $before,
        /** Median after. */
        public float $after,
    ) {
    }

    public function factor(): float
    {
        return $this->after / $this->before;
    }

    /**
     * @param  list<float>  $values one a day in order, days without a value left out
     * @param  list<int>|null  $weekdays 1 to 7 for each value: the weekly rhythm is taken out first (needs three weeks)
     * @param  float  $least smallest factor, up or down, that counts
     */
    public static function find(array $values, float $least, ?array $weekdays = null): ?self
    {
        $n = count($values);
        if ($n < 2 * self::SIDE || min($values) <= 0) {
            return null;
        }
        $logs = array_map(log(...), $values);
        if ($weekdays !== null && $n >= 21) {
            $byDay = [];
            foreach ($weekdays as $i => $weekday) {
                $byDay[$weekday][] = $logs[$i];
            }
            $level = Spread::median($logs);
            foreach ($weekdays as $i => $weekday) {
                $logs[$i] -= Spread::median($byDay[$weekday]) - $level;
            }
        }
        $best = null;
        $bestCost = INF;
        for ($split = self::SIDE; $split <= $n - self::SIDE; $split++) {
            $old = array_slice($logs, 0, $split);
            $new = array_slice($logs, $split);
            $cost = self::spread($old) + self::spread($new);
            if ($cost < $bestCost) {
                $bestCost = $cost;
                $best = [$split, $old, $new];
            }
        }
        assert($best !== null);
        [$split, $old, $new] = $best;
        $before = Spread::median($old);
        $after = Spread::median($new);
        $step = $after - $before;
        if (abs($step) < log($least)) {
            return null;
        }
        // Nine in ten values must lie on their own side of the middle.
        $middle = ($before + $after) / 2;
        $astray = 0;
        foreach ($logs as $i => $log) {
            $astray += $i < $split === ($log - $middle) * $step > 0 ? 1 : 0;
        }

        return $astray > $n * 0.1 ? null : new self($split, exp($before), exp($after));
    }

    /**
     * @param  list<float>  $values
     */
    private static function spread(array $values): float
    {
        $median = Spread::median($values);

        return array_sum(array_map(static fn (float $value): float => abs($value - $median), $values));
    }
}
