<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Expression;

final readonly class SortTerm
{
    public function __construct(public Expr $value, public bool $descending, public bool $nullsFirst)
    {
    }

    public function text(): string
    {
        return $this->value->text().
            ($this->descending ? ' DESC' : '').
            ($this->nullsFirst === $this->descending ? ($this->nullsFirst ? ' NULLS FIRST' : ' NULLS LAST') : '');
    }

    /**
     * @param  callable(Expr): Expr  $change
     */
    public function with(callable $change): self
    {
        return new self($change($this->value), $this->descending, $this->nullsFirst);
    }
}
