<?php

declare(strict_types=1);

namespace Fulcrion\Core\Alerts;

/**
 * The quietest threshold that still catches what was marked.
 */
final readonly class QuietThreshold
{
    /** Thresholds that are tried; values between two of them are not told apart. */
    private const TRIED = 200;

    /**
     * Where a threshold moves away from usual values, a ring can only become later or go; so what is caught at a threshold is caught at
     * every one before it, and the last one is found by halving. It is the value itself that just was reached, rounded to the calm side
     * to three digits.
     *
     * @param  array<array-key, list<float|null>>  $values one a step, by host
     * @param  non-empty-list<MarkedSpan>  $marked
     * @return float|null null where no threshold catches all of them
     */
    public static function find(AlertCondition $condition, array $values, int $from, int $step, array $marked): ?float
    {
        $catches = static fn (float $threshold): bool => AlertScore::of(
            AlertCourse::rings($condition->at($threshold), $values, $from, $step), $marked)->missed === [];
        $tried = self::tried($values, $condition->side);
        if ($tried === [] || ! $catches($tried[0])) {
            return null;
        }
        [$low, $high] = [0, count($tried) - 1];
        while ($low < $high) {
            $middle = intdiv($low + $high + 1, 2);
            if ($catches($tried[$middle])) {
                $low = $middle;
            } else {
                $high = $middle - 1;
            }
        }

        return self::rounded($tried[$low], $condition->side);
    }

    /**
     * @param  array<array-key, list<float|null>>  $values
     * @return list<float> from usual values to the worst
     */
    private static function tried(array $values, ThresholdSide $side): array
    {
        $all = [];
        foreach ($values as $list) {
            foreach ($list as $value) {
                if ($value !== null) {
                    $all[] = $value;
                }
            }
        }
        if ($all === []) {
            return [];
        }
        sort($all);
        if ($side === ThresholdSide::Below) {
            $all = array_reverse($all);
        }
        $last = count($all) - 1;
        $tried = [];
        // Closer together where values are rare: that is where thresholds are.
        for ($i = 0; $i <= self::TRIED; $i++) {
            $tried[] = $all[$last - (int) floor($last * (1 - $i / self::TRIED) ** 3)];
        }

        return array_values(array_unique($tried));
    }

    private static function rounded(float $value, ThresholdSide $side): float
    {
        if ($value === 0.0) {
            return 0.0;
        }
        $digits = 2 - (int) floor(log10(abs($value)));
        $parts = $value * 10.0 ** $digits;

        return round(($side === ThresholdSide::Above ? floor($parts + 1e-9) : ceil($parts - 1e-9)) / 10.0 ** $digits, $digits);
    }
}
