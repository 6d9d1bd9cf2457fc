<?php

declare(strict_types=1);

namespace App\Cost\Application;

use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\CostBridge;

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
        /** What it reserved and did not use. */
        public BigDecimal $reserved,
        /** Null where the cluster had no price then, or its use is not known. */
        public ?BigDecimal $before,
        /** Why its part of the fixed cost is another one; null as above. */
        public ?CostBridge $why,
        /** Change of what its own use made; null as above. */
        public ?BigDecimal $ownChange,
        /** Change of what it reserved and did not use; null as above. */
        public ?BigDecimal $reservedChange,
    ) {
    }

    public function fixed(): BigDecimal
    {
        return $this->shared->plus($this->reserved);
    }

    public function all(): BigDecimal
    {
        return $this->fixed()->plus($this->own);
    }
}
