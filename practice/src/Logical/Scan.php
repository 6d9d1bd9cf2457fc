<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Logical;

use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Storage\Manifest;
use Fulcrion\Practice\Storage\TableStore;

/**
 * The rows of a table that meet conditions.
 */
final readonly class Scan extends RelationNode
{
    /**
     * @param  array<int, Field>  $columns number of the column in the table => field
     * @param  list<Expr>  $conditions
     */
    public function __construct(
        public TableStore $table,
        public Manifest $manifest,
        public string $alias,
        public array $columns,
        public array $conditions = [],
    ) {
    }

    public function fields(): array
    {
        return array_values($this->columns);
    }

    public function withInputs(array $inputs): self
    {
        return $this;
    }

    public function expressions(): array
    {
        return $this->conditions;
    }

    /**
     * @param  list<Expr>  $conditions
     */
    public function where(array $conditions): self
    {
        return new self($this->table, $this->manifest, $this->alias, $this->columns, [...$this->conditions, ...$conditions]);
    }

    protected function withOwn(callable $change): self
    {
        return new self($this->table, $this->manifest, $this->alias, $this->columns, array_map($change, $this->conditions));
    }
}
