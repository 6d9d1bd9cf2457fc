<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

use Fulcrion\Practice\Logical\Field;

final class UnionStep extends Step
{
    /**
     * @param  list<Field>  $fields
     * @param  list<Step>  $branches
     */
    public function __construct(array $fields, array $branches)
    {
        parent::__construct($fields, $branches, new Placement(Placement::EVEN));
    }

    public function kind(): string
    {
        return 'append';
    }

    public function detail(): string
    {
        return count($this->inputs).' inputs';
    }

    public function rowWeight(): float
    {
        return 0.0;
    }

    protected function produce(Run $run, int $node): iterable
    {
        foreach ($this->inputs as $number => $branch) {
            foreach ($this->from($run, $node, $number) as $batch) {
                $columns = [];
                foreach ($branch->fields as $i => $field) {
                    $columns[$this->fields[$i]->id] = $batch->columns[$field->id];
                }
                yield new Batch($batch->rows, $columns);
            }
        }
    }
}
