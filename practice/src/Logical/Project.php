<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Logical;

use Fulcrion\Practice\Expression\Expr;

/**
 * New columns computed from the input's; only these go on.
 */
final readonly class Project extends RelationNode
{
    /**
     * @param  list<Field>  $fields
     * @param  list<Expr>  $values one a field
     */
    public function __construct(public RelationNode $input, public array $fields, public array $values)
    {
    }

    public function fields(): array
    {
        return $this->fields;
    }

    public function inputs(): array
    {
        return [$this->input];
    }

    public function withInputs(array $inputs): self
    {
        return new self($inputs[0], $this->fields, $this->values);
    }

    public function expressions(): array
    {
        return $this->values;
    }

    protected function withOwn(callable $change): self
    {
        return new self($this->input, $this->fields, array_map($change, $this->values));
    }

    /** An expression over its fields as one over its input's. */
    public function below(Expr $e): Expr
    {
        $map = [];
        foreach ($this->fields as $i => $field) {
            $map[$field->id] = $this->values[$i];
        }

        return $e->substitute($map);
    }
}
