<?php

declare(strict_types=1);

namespace App\Cost\Application;

use Brick\Math\BigDecimal;

/**
 * What a team cost on one cluster, and in the days it is held against.
 */
final readonly class TeamCost
{
    public function __construct(
        public string $cluster,
        public string $currency,
        public BigDecimal $shared,
        public BigDecimal $own,
        /** Null where the cluster had no price then. */
        public ?BigDecimal $before,
    ) {
    }

    public function all(): BigDecimal
    {
        return $this->shared->plus($this->own);
    }
}
