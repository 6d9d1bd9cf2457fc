<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

use Closure;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Expression\Ref;
use Fulcrion\Practice\Expression\SubqueryExpr;
use Fulcrion\Practice\Logical\Field;

final class ProjectStep extends Step
{
    /** @var array<int, int> id of the result => id of the input it is a copy of */
    private array $copies = [];

    /** @var Closure(array<int, list<mixed>>, int, array<int, mixed>, Run): array<int, list<mixed>> */
    private readonly Closure $project;

    private readonly bool $computes;

    /**
     * @param  list<Field>  $fields
     * @param  list<Expr>  $values
     * @param  callable(SubqueryExpr): int  $subquery
     */
    public function __construct(Step $input, array $fields, private readonly array $values, callable $subquery)
    {
        $inputs = array_flip($input->ids());
        $computed = [];
        $names = [];
        foreach ($fields as $i => $field) {
            $value = $values[$i];
            if ($value instanceof Ref && isset($inputs[$value->id])) {
                $this->copies[$field->id] = $value->id;
                $names[$value->id][] = $field->id;
            } else {
                $computed[$field->id] = $value;
            }
        }
        parent::__construct($fields, [$input], $input->placement->renamed($names));
        $this->computes = $computed !== [];
        $this->project = Kernel::project($computed, $inputs, $subquery);
    }

    public function kind(): string
    {
        return 'compute';
    }

    public function detail(): string
    {
        return implode(', ', array_map(static fn (Expr $e): string => $e->text(), $this->values));
    }

    /** Whether it does more than rename. */
    public function works(): bool
    {
        return $this->computes;
    }

    public function rowWeight(): float
    {
        return $this->computes ? 0.5 : 0.0;
    }

    protected function produce(Run $run, int $node): iterable
    {
        foreach ($this->from($run, $node) as $batch) {
            $computed = $this->computes ? ($this->project)($batch->columns, $batch->rows, $run->outer, $run) : [];
            $columns = [];
            foreach ($this->fields as $field) {
                $columns[$field->id] = isset($this->copies[$field->id])
                    ? $batch->columns[$this->copies[$field->id]]
                    : $computed[$field->id];
            }
            yield new Batch($batch->rows, $columns);
        }
    }
}
