<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Expression;

use Fulcrion\Core\Catalog\ColumnType;

/**
 * A window function: ranking, lag and lead, or an aggregate that runs along the rows.
 */
final readonly class WindowCall
{
    /** Over the whole partition. */
    public const WHOLE = 'whole';

    /** From the first row up to the last peer of the current one. */
    public const PEERS = 'peers';

    /** From the first row up to the current one. */
    public const ROWS = 'rows';

    /**
     * @param  list<Expr>  $arguments
     * @param  list<Expr>  $partitionBy
     * @param  list<SortTerm>  $orderBy
     */
    public function __construct(
        public string $function,
        public array $arguments,
        public array $partitionBy,
        public array $orderBy,
        public string $frame,
        public ColumnType $type,
    ) {
    }

    public function key(): string
    {
        $keys = static fn (array $list): string => implode(',', array_map(static fn (Expr $e): string => $e->key(), $list));

        return "{$this->function}|{$keys($this->arguments)}|{$keys($this->partitionBy)}|".
            implode(
                ',',
                array_map(static fn (SortTerm $t): string => $t->value->key().(int) $t->descending.(int) $t->nullsFirst, $this->orderBy),
            ).
            "|{$this->frame}";
    }

    public function text(): string
    {
        $texts = static fn (array $list): string => implode(', ', array_map(static fn (Expr|SortTerm $e): string => $e->text(), $list));

        return "{$this->function}({$texts($this->arguments)}) OVER (".
            trim(
                ($this->partitionBy === [] ? '' : "PARTITION BY {$texts($this->partitionBy)} ").
                    ($this->orderBy === [] ? '' : "ORDER BY {$texts($this->orderBy)}"),
            ).
            ')';
    }

    /**
     * @param  callable(Expr): Expr  $change
     */
    public function with(callable $change): self
    {
        return new self(
            $this->function,
            array_map($change, $this->arguments),
            array_map($change, $this->partitionBy),
            array_map(static fn (SortTerm $t): SortTerm => $t->with($change), $this->orderBy),
            $this->frame,
            $this->type,
        );
    }

    /**
     * @return list<Expr>
     */
    public function expressions(): array
    {
        return [...$this->arguments, ...$this->partitionBy, ...array_map(static fn (SortTerm $t): Expr => $t->value, $this->orderBy)];
    }
}
