<?php

declare(strict_types=1);

namespace Fulcrion\Core\Cost;

use Brick\Math\BigDecimal;

/**
 * What one unit costs from a moment on, until the same is priced again.
 */
final readonly class Price
{
    /**
     * @param  string  $name of a kind of node, a tier of storage or a fee; empty where there is one only
     * @param  BigDecimal  $amount in the currency of its book; percent for a discount
     * @param  int  $from Unix seconds
     * @param  BigDecimal  $quantity how many are paid for all the time: nodes of this kind; 1 for what is counted by use
     * @param  BigDecimal  $above of a month; 0 for the first tier
     * @param  bool  $isReserved whether it is paid for whether it runs or not, by a contract
     */
    public function __construct(
        public PriceKind $kind,
        public string $name,
        public BigDecimal $amount,
        public int $from,
        public BigDecimal $quantity,
        public BigDecimal $above,
        public bool $isReserved = false,
    ) {
    }

    /** What is priced again by a later one of the same. */
    public function key(): string
    {
        return "{$this->kind->value}|{$this->name}|{$this->above->stripTrailingZeros()}";
    }
}
