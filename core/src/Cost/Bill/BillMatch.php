<?php

declare(strict_types=1);

namespace Fulcrion\Core\Cost\Bill;

use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\PriceKind;

/**
 * What a bill and our own computation say of one kind of cost of one cluster, on days that stand to each other in the same way.
 */
final readonly class BillMatch
{
    /**
     * @param  string  $cluster key of the cluster; of a resource that is none, its name behind Reconciliation::UNKNOWN
     * @param  non-empty-list<int>  $days first moments of days, in Unix seconds, ascending
     * @param  BigDecimal|null  $billedQuantity null where the bill does not say
     */
    public function __construct(
        public string $cluster,
        public ?PriceKind $kind,
        public ?ChargeCategory $category,
        public Agreement $agreement,
        public array $days,
        public BigDecimal $billed,
        public BigDecimal $computed,
        public ?BigDecimal $billedQuantity,
        public BigDecimal $computedQuantity,
        /** Whether nothing ran on any of the days; false where that is not known. */
        public bool $isUnused,
    ) {
    }

    public function difference(): BigDecimal
    {
        return $this->billed->minus($this->computed);
    }

    /** The resource as the bill names it, where it is no cluster. */
    public function unknownResource(): ?string
    {
        return str_starts_with($this->cluster, Reconciliation::UNKNOWN) ? substr($this->cluster, strlen(Reconciliation::UNKNOWN)) : null;
    }

    /** The likely cause, as a sentence. */
    public function cause(): string
    {
        $price = fn (BigDecimal $amount, ?BigDecimal $quantity): string => $quantity === null || $quantity->isZero() ? 'an unknown price'
            : (string) round($amount->toFloat() / $quantity->toFloat(), 4);
        $times = static fn (?BigDecimal $quantity): string => (string) round(($quantity ?? BigDecimal::zero())->toFloat(), 3);

        return match (true) {
            $this->agreement === Agreement::Agrees => 'The price book explains it.',
            $this->agreement === Agreement::OtherPrice => "The bill has {$price($this->billed, $this->billedQuantity)} for each"
                .(count($this->days) > 1 ? ' on average' : '')
                .", the price book {$price($this->computed, $this->computedQuantity)}: a price changed at another moment than the book "
                .'says.',
            $this->agreement === Agreement::OtherQuantity && $this->billedQuantity === null => 'The bill does not say how many it counted.',
            $this->agreement === Agreement::OtherQuantity => "The bill counts {$times($this->billedQuantity)}, the price book "
                ."{$times($this->computedQuantity)}.",
            $this->agreement === Agreement::OnlyComputed => 'The bill has no such line on these days: it may follow in a later '
                .'bill, or the price book counts what is not there.',
            $this->unknownResource() !== null => 'No cluster is known by this resource. Say below which it belongs '
                .'to.',
            $this->category === ChargeCategory::Credit => 'A credit, which no price book foresees.',
            $this->category === ChargeCategory::Tax => 'A tax, which is not part of the price book.',
            $this->kind === null => 'Its unit is none the price book has.',
            $this->isUnused => 'Nothing ran on these days, and the price book has none then: were the nodes left on?',
            default => 'The price book has no price for it on these days.',
        };
    }
}
