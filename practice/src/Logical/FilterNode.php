<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Logical;

use Fulcrion\Practice\Expression\Expr;

final readonly class FilterNode extends RelationNode
{
    /**
     * @param  list<Expr>  $conditions all must be true
     */
    public function __construct(public RelationNode $input, public array $conditions)
    {
    }

    public function fields(): array
    {
        return $this->input->fields();
    }

    public function inputs(): array
    {
        return [$this->input];
    }

    public function withInputs(array $inputs): self
    {
        return new self($inputs[0], $this->conditions);
    }

    public function expressions(): array
    {
        return $this->conditions;
    }

    protected function withOwn(callable $change): self
    {
        return new self($this->input, array_map($change, $this->conditions));
    }
}
