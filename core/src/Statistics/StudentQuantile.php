<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statistics;

use InvalidArgumentException;

/**
 * Quantiles of Student's distribution, found by halving on its distribution function, which is a sum for whole degrees of freedom
 * (Abramowitz and Stegun, Handbook of Mathematical Functions, 26.7.3 and 26.7.4).
 */
final readonly class StudentQuantile
{
    private const STEPS = 80;

    private const MOST = 1e4;

    /**
     * @param  float  $share above a half, below 1
     * @param  int  $freedom at least 1
     */
    public static function of(float $share, int $freedom): float
    {
        if ($share <= 0.5 || $share >= 1.0 || $freedom < 1) {
            throw new InvalidArgumentException('A quantile above the middle and at least one degree of freedom are asked for.');
        }
        [$low, $high] = [0.0, self::MOST];
        for ($i = 0; $i < self::STEPS; $i++) {
            $middle = ($low + $high) / 2;
            if (0.5 + self::between($middle, $freedom) / 2 < $share) {
                $low = $middle;
            } else {
                $high = $middle;
            }
        }

        return $high;
    }

    /** The chance of a value between minus and plus t. */
    private static function between(float $t, int $freedom): float
    {
        $angle = atan($t / sqrt($freedom));
        $square = cos($angle) ** 2;
        $isOdd = $freedom % 2 === 1;
        $term = $isOdd ? cos($angle) : 1.0;
        $sum = 0.0;
        for ($k = $isOdd ? 1 : 0; $k <= $freedom - 2; $k += 2) {
            $sum += $term;
            $term *= $square * ($k + 1) / ($k + 2);
        }

        return $isOdd ? 2 / M_PI * ($angle + sin($angle) * $sum) : sin($angle) * $sum;
    }
}
