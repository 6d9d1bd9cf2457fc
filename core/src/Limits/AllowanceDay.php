<?php

declare(strict_types=1);

namespace Fulcrion\Core\Limits;

/**
 * An allowance on one day.
 */
final readonly class AllowanceDay
{
    public function __construct(
        public float $added,
        /** What the day would have added above the cap. */
        public float $lost,
        public float $used,
        /** At the end of the day. */
        public float $balance,
        /** Used beyond it; that is what costs. */
        public float $beyond,
    ) {
    }
}
