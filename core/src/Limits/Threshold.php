<?php

declare(strict_types=1);

namespace Fulcrion\Core\Limits;

/**
 * A share of a limit, and what is done where it is reached.
 */
final readonly class Threshold
{
    /**
     * @param  int  $percent of the amount, above zero
     */
    public function __construct(public int $percent, public Act $act)
    {
    }

    /** The least whole amount that reaches it. */
    public function of(int $amount): int
    {
        return intdiv($amount, 100) * $this->percent + intdiv($amount % 100 * $this->percent + 99, 100);
    }
}
