<?php

declare(strict_types=1);

namespace Fulcrion\Core\Alerts;

/**
 * On which side of a threshold a value is bad.
 */
enum ThresholdSide: string
{
    case Above = 'above';
    case Below = 'below';

    /** The threshold itself is reached. */
    public function isReached(float $value, float $threshold): bool
    {
        return $this === self::Above ? $value >= $threshold : $value <= $threshold;
    }

    public function worse(float $a, float $b): float
    {
        return $this === self::Above ? max($a, $b) : min($a, $b);
    }
}
