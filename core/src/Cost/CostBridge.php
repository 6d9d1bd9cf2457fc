<?php

declare(strict_types=1);

namespace Fulcrion\Core\Cost;

use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Fulcrion\Core\Usage\UsageBridge;

/**
 * Why a cost that follows use differs between two periods: use that is new, gone, more often or more each time, at what a unit cost
 * before; and the price of a unit, which is the rest. To the cent the parts are the difference.
 */
final readonly class CostBridge
{
    private function __construct(
        public BigDecimal $new,
        public BigDecimal $gone,
        public BigDecimal $moreExecutions,
        public BigDecimal $moreEach,
        /** That a unit costs more or less than before. */
        public BigDecimal $price,
    ) {
    }

    public static function none(): self
    {
        $zero = BigDecimal::zero()->toScale(2);

        return new self($zero, $zero, $zero, $zero, $zero);
    }

    /**
     * @param  BigDecimal  $before cost of the use before
     * @param  BigDecimal  $after cost of the use after
     * @param  UsageBridge  $use that the cost follows
     */
    public static function of(BigDecimal $before, BigDecimal $after, UsageBridge $use): self
    {
        $zero = BigDecimal::zero()->toScale(2);
        [$before, $after] = [$before->toScale(2, RoundingMode::HALF_UP), $after->toScale(2, RoundingMode::HALF_UP)];
        $change = $after->minus($before);
        if ($use->before->amount <= 0) {
            // What a unit cost before is not known where there was none.
            return new self($change, $zero, $zero, $zero, $zero);
        }
        $at = static fn (int $amount): BigDecimal => $before->multipliedBy($amount)
            ->dividedBy($use->before->amount, 2, RoundingMode::HALF_UP);
        $parts = array_map($at, $use->parts());
        $rest = $change->minus(BigDecimal::sum($zero, ...array_values($parts)));

        return new self($parts['new'], $parts['gone'], $parts['moreExecutions'], $parts['moreEach'], $rest);
    }

    public function plus(self $other): self
    {
        return new self(
            $this->new->plus($other->new),
            $this->gone->plus($other->gone),
            $this->moreExecutions->plus($other->moreExecutions),
            $this->moreEach->plus($other->moreEach),
            $this->price->plus($other->price),
        );
    }

    /**
     * @return array{new: BigDecimal, gone: BigDecimal, moreExecutions: BigDecimal, moreEach: BigDecimal, price: BigDecimal} together they
     *     are the change
     */
    public function parts(): array
    {
        return [
            'new' => $this->new, 'gone' => $this->gone, 'moreExecutions' => $this->moreExecutions, 'moreEach' => $this->moreEach,
            'price' => $this->price,
        ];
    }

    public function change(): BigDecimal
    {
        return BigDecimal::sum(...array_values($this->parts()));
    }
}
