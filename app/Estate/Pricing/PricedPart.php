<?php

declare(strict_types=1);

namespace App\Estate\Pricing;

/**
 * A price, and the part it has of what was paid.
 */
final readonly class PricedPart
{
    /**
     * @param  float  $share of the cost of what is looked at, from 0 to 1; 0 where it was not used
     */
    public function __construct(
        public string $key,
        public string $label,
        public float $price,
        public string $currency,
        public float $share,
        /** Whether it is of an hour of a burst cluster. */
        public bool $isBurst = false,
    ) {
    }
}
