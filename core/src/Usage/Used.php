<?php

declare(strict_types=1);

namespace Fulcrion\Core\Usage;

/**
 * Use of one subject in a period.
 */
final readonly class Used
{
    /**
     * @param  int  $amount in the unit of its measure: microseconds, bytes, rows or times
     */
    public function __construct(public int $executions, public int $amount)
    {
    }

    public function isNothing(): bool
    {
        return $this->executions === 0 && $this->amount === 0;
    }

    public function plus(self $other): self
    {
        return new self($this->executions + $other->executions, $this->amount + $other->amount);
    }
}
