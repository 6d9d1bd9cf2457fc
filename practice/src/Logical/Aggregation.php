<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Logical;

use Fulcrion\Practice\Expression\Aggregate;
use Fulcrion\Practice\Expression\Expr;

/**
 * Groups and their aggregates; without aggregates, the distinct rows.
 */
final readonly class Aggregation extends RelationNode
{
    /**
     * @param  list<Field>  $groupFields
     * @param  list<Expr>  $groups one a group field
     * @param  list<Field>  $aggregateFields
     * @param  list<Aggregate>  $aggregates one an aggregate field
     */
    public function __construct(
        public RelationNode $input,
        public array $groupFields,
        public array $groups,
        public array $aggregateFields,
        public array $aggregates,
    ) {
    }

    public function fields(): array
    {
        return [...$this->groupFields, ...$this->aggregateFields];
    }

    public function inputs(): array
    {
        return [$this->input];
    }

    public function withInputs(array $inputs): self
    {
        return new self($inputs[0], $this->groupFields, $this->groups, $this->aggregateFields, $this->aggregates);
    }

    public function expressions(): array
    {
        return [
            ...$this->groups,
            ...array_merge([], ...array_map(static fn (Aggregate $aggregate): array => $aggregate->expressions(), $this->aggregates)),
        ];
    }

    protected function withOwn(callable $change): self
    {
        return new self(
            $this->input,
            $this->groupFields,
            array_map($change, $this->groups),
            $this->aggregateFields,
            array_map(static fn (Aggregate $a): Aggregate => $a->with($change), $this->aggregates),
        );
    }
}
