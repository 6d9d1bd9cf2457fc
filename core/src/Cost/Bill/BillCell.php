<?php

declare(strict_types=1);

namespace Fulcrion\Core\Cost\Bill;

use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\PriceKind;

/**
 * What both sides say of one kind of cost of one cluster on one day, while it is gathered.
 */
final class BillCell
{
    public BigDecimal $billed;

    public BigDecimal $computed;

    public ?BigDecimal $billedQuantity;

    public BigDecimal $computedQuantity;

    private bool $isBilled = false;

    private bool $isComputed = false;

    public function __construct(
        public readonly string $cluster,
        public readonly ?PriceKind $kind,
        public readonly ?ChargeCategory $category,
        public readonly int $day,
    ) {
        $this->billed = $this->computed = $this->billedQuantity = $this->computedQuantity = BigDecimal::zero();
    }

    public function bill(BigDecimal $amount, ?BigDecimal $quantity): void
    {
        $this->isBilled = true;
        $this->billed = $this->billed->plus($amount);
        $this->billedQuantity = $quantity === null ? null : $this->billedQuantity?->plus($quantity);
    }

    public function compute(BigDecimal $amount, BigDecimal $quantity): void
    {
        $this->isComputed = true;
        $this->computed = $this->computed->plus($amount);
        $this->computedQuantity = $this->computedQuantity->plus($quantity);
    }

    public function agreement(BigDecimal $tolerance, float $sameQuantity): Agreement
    {
        $difference = $this->billed->minus($this->computed)->abs();

        return match (true) {
            $this->isBilled && $this->isComputed => match (true) {
                $difference->isLessThanOrEqualTo($tolerance) => Agreement::Agrees,
                $this->billedQuantity !== null && $this->isSameQuantity($sameQuantity) => Agreement::OtherPrice,
                default => Agreement::OtherQuantity,
            },
            $this->isBilled => Agreement::OnlyBilled,
            default => Agreement::OnlyComputed,
        };
    }

    private function isSameQuantity(float $within): bool
    {
        $computed = $this->computedQuantity->toFloat();

        return abs(($this->billedQuantity?->toFloat() ?? 0.0) - $computed) <= $within * abs($computed);
    }
}
