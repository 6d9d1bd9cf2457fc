<?php

declare(strict_types=1);

namespace Fulcrion\Core\Cost\Bill;

use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\PriceKind;

/**
 * A line of a provider's bill.
 */
final readonly class BillLine
{
    /**
     * @param  string  $resource as the provider names it
     * @param  PriceKind|null  $kind null where it is nothing a price book prices: taxes, credits, unknown units
     * @param  int  $from Unix seconds
     * @param  int  $to end
     * @param  BigDecimal  $amount below zero for a credit
     * @param  BigDecimal|null  $quantity in the unit of its kind
     */
    public function __construct(
        public string $account,
        public string $resource,
        public ChargeCategory $category,
        public ?PriceKind $kind,
        public int $from,
        public int $to,
        public BigDecimal $amount,
        public string $currency,
        public ?BigDecimal $quantity = null,
        public string $description = '',
    ) {
    }
}
