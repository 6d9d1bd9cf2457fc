<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Logical;

use Fulcrion\Practice\Expression\Expr;

/**
 * Rows written in the statement. One row without columns stands behind a SELECT without FROM.
 */
final readonly class Values extends RelationNode
{
    /**
     * @param  list<Field>  $fields
     * @param  list<list<Expr>>  $rows
     */
    public function __construct(public array $fields, public array $rows)
    {
    }

    public function fields(): array
    {
        return $this->fields;
    }

    public function withInputs(array $inputs): self
    {
        return $this;
    }

    public function expressions(): array
    {
        return array_merge([], ...$this->rows);
    }

    protected function withOwn(callable $change): self
    {
        return new self($this->fields, array_map(static fn (array $row): array => array_map($change, $row), $this->rows));
    }
}
