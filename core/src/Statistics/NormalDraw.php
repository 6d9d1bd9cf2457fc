<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statistics;

/**
 * A number of the standard normal distribution from two that are spread evenly (Box and Muller 1958).
 */
final readonly class NormalDraw
{
    /**
     * @param  float  $first above 0, up to 1
     * @param  float  $second from 0 to 1
     */
    public static function of(float $first, float $second): float
    {
        return sqrt(-2 * log($first)) * cos(2 * M_PI * $second);
    }
}
