<?php

declare(strict_types=1);

namespace Fulcrion\Core\Jobs;

/**
 * Where the middle and the ends of some numbers lie.
 */
final readonly class Spread
{
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
        $count = count($values);
        if ($count === 0) {
            return 0.0;
        }
        $at = $share * ($count - 1);
        $low = (int) floor($at);
        $high = min($count - 1, $low + 1);

        return $values[$low] + ($at - $low) * ($values[$high] - $values[$low]);
    }
}
