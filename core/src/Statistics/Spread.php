<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statistics;

/**
 * Where the middle and the ends of some numbers lie.
 */
final readonly class Spread
{
    /**
     * Those that are known, each where it stood.
     *
     * @template TKey of array-key
     *
     * @param  array<TKey, float|null>  $values
     * @return array<TKey, float>
     */
    public static function known(array $values): array
    {
        return array_filter($values, static fn (?float $value): bool => $value !== null);
    }

    /**
     * Sums of several lists place by place, of what is known at each.
     *
     * @param  array<array-key, list<float|null>>  $lists of the same length
     * @return list<float|null> null where none is known
     */
    public static function sums(array $lists): array
    {
        $sums = array_shift($lists) ?? [];
        foreach ($lists as $list) {
            foreach ($list as $place => $value) {
                if ($value !== null) {
                    $sums[$place] = ($sums[$place] ?? 0.0) + $value;
                }
            }
        }

        return array_values($sums);
    }

    /**
     * @param  array<int|float>  $values
     */
    public static function median(array $values): float
    {
        return self::quantile($values, 0.5);
    }

    /**
     * Between the two nearest values (R-7 of Hyndman and Fan 1996); 0 of nothing.
     *
     * @param  array<int|float>  $values
     */
    public static function quantile(array $values, float $share): float
    {
        sort($values);

        return self::at($values, $share * (count($values) - 1));
    }

    /**
     * What a share of further values of the same kind stays within: the i-th of n lies above i / (n + 1) of them (R-6).
     *
     * @param  array<int|float>  $values
     */
    public static function further(array $values, float $share): float
    {
        sort($values);

        return self::at($values, $share * (count($values) + 1) - 1);
    }

    /**
     * @param  list<int|float>  $values sorted
     */
    private static function at(array $values, float $at): float
    {
        $count = count($values);
        if ($count === 0) {
            return 0.0;
        }
        $at = max(0.0, min($count - 1.0, $at));
        $low = (int) floor($at);
        $high = min($count - 1, $low + 1);

        return $values[$low] + ($at - $low) * ($values[$high] - $values[$low]);
    }
}
