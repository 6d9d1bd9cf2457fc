<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Expression;

use Fulcrion\Core\Catalog\ColumnType;

/**
 * count, sum, avg, min, max or approx_count_distinct over the rows of a group. One that folds goes on from results of
 * parts: its argument is the sum, count, least, greatest or sketch of each part.
 */
final readonly class Aggregate
{
    public function __construct(
        public string $function,
        /** Null for count(*). */
        public ?Expr $argument,
        public bool $distinct,
        public ?Expr $filter,
        public ColumnType $type,
        public bool $nullable,
        public bool $folds = false,
        /** Of avg that folds: how many values each part's sum is of. */
        public ?Expr $counts = null,
    ) {
    }

    public function key(): string
    {
        return "{$this->function}|{$this->argument?->key()}|".
            (int) $this->distinct.
            "|{$this->filter?->key()}".
            ($this->folds ? "|{$this->counts?->key()}" : '');
    }

    public function text(): string
    {
        return $this->function.
            '('.
            ($this->distinct ? 'DISTINCT ' : '').
            ($this->argument === null ? '*' : $this->argument->text()).
            ')'.
            ($this->filter === null ? '' : " FILTER (WHERE {$this->filter->text()})");
    }

    /**
     * @param  callable(Expr): Expr  $change
     */
    public function with(callable $change): self
    {
        return new self(
            $this->function,
            $this->argument === null ? null : $change($this->argument),
            $this->distinct,
            $this->filter === null ? null : $change($this->filter),
            $this->type,
            $this->nullable,
            $this->folds,
            $this->counts === null ? null : $change($this->counts),
        );
    }

    /**
     * @return list<Expr>
     */
    public function expressions(): array
    {
        return array_values(array_filter([$this->argument, $this->filter, $this->counts]));
    }
}
