<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Logical;

/**
 * All rows of several inputs.
 */
final readonly class Union extends RelationNode
{
    /**
     * @param  list<Field>  $fields
     * @param  list<RelationNode>  $branches with as many fields of the same types
     */
    public function __construct(public array $fields, public array $branches)
    {
    }

    public function fields(): array
    {
        return $this->fields;
    }

    public function inputs(): array
    {
        return $this->branches;
    }

    public function withInputs(array $inputs): self
    {
        return new self($this->fields, $inputs);
    }
}
