<?php

declare(strict_types=1);

namespace Fulcrion\Core\Cost;

use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;

/**
 * A budget beside what was spent of it so far.
 */
final readonly class BudgetUse
{
    /** Less than this ahead of the time is no haste. */
    private const TOLERANCE = 0.05;

    /**
     * @param  BigDecimal  $amount above zero
     * @param  float  $gone part of the period that is over, from 0 to 1
     */
    public function __construct(public BigDecimal $amount, public BigDecimal $used, public float $gone)
    {
    }

    /** The part of the budget that is spent; above 1 where it is passed. */
    public function share(): float
    {
        return $this->used->dividedBy($this->amount, 6, RoundingMode::HALF_UP)->toFloat();
    }

    public function isPassed(): bool
    {
        return $this->used->isGreaterThan($this->amount);
    }

    /** Whether it is spent faster than the time goes by. */
    public function isFast(): bool
    {
        return $this->share() > $this->gone + self::TOLERANCE;
    }

    public function left(): BigDecimal
    {
        return $this->amount->minus($this->used);
    }
}
