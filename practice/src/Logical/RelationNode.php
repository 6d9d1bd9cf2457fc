<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Logical;

use Fulcrion\Practice\Expression\Expr;

/**
 * A step of what is to be computed, without how.
 */
abstract readonly class RelationNode
{
    /**
     * @return list<Field>
     */
    abstract public function fields(): array;

    /**
     * @return list<RelationNode>
     */
    public function inputs(): array
    {
        return [];
    }

    /**
     * @param  list<RelationNode>  $inputs
     */
    abstract public function withInputs(array $inputs): self;

    /**
     * @return list<Expr> its own, not those of its inputs
     */
    public function expressions(): array
    {
        return [];
    }

    /**
     * @param  callable(Expr): Expr  $change
     */
    protected function withOwn(callable $change): self
    {
        return $this;
    }

    /**
     * The same with every expression changed, its inputs' too.
     *
     * @param  callable(Expr): Expr  $change
     */
    final public function withExpressions(callable $change): self
    {
        $inputs = array_map(static fn (self $input): self => $input->withExpressions($change), $this->inputs());

        return ($inputs === [] ? $this : $this->withInputs($inputs))->withOwn($change);
    }

    /**
     * @return array<int, true> ids of the columns it produces
     */
    final public function ids(): array
    {
        $ids = [];
        foreach ($this->fields() as $field) {
            $ids[$field->id] = true;
        }

        return $ids;
    }

    /**
     * @return array<int, true> ids it reads of an outer query
     */
    final public function free(): array
    {
        return array_diff_key($this->read(), $this->made());
    }

    /**
     * @return array<int, true>
     */
    private function read(): array
    {
        $ids = Expr::refsOf($this->expressions());
        foreach ($this->inputs() as $input) {
            $ids += $input->read();
        }

        return $ids;
    }

    /**
     * @return array<int, true>
     */
    private function made(): array
    {
        $ids = $this->ids();
        foreach ($this->inputs() as $input) {
            $ids += $input->made();
        }

        return $ids;
    }
}
