<?php

declare(strict_types=1);

namespace Fulcrion\Core\Cost;

use Brick\Math\BigDecimal;

/**
 * A line of what was spent: so much of something, at its price.
 */
final readonly class CostLine
{
    public function __construct(
        public PriceKind $kind,
        public string $name,
        /** Hours, TiB, GiB, months. */
        public BigDecimal $quantity,
        public BigDecimal $price,
        /** Not rounded. */
        public BigDecimal $amount,
        /** The time it is for, in Unix seconds. */
        public int $from,
        public int $to,
    ) {
    }
}
