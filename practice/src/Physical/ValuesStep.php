<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

use Fulcrion\Practice\Expression\SubqueryExpr;
use Fulcrion\Practice\Logical\Values;

final class ValuesStep extends Step
{
    /** @var list<\Closure(array<int, list<mixed>>, int, array<int, mixed>, Run): array<int, list<mixed>>> one a row */
    private readonly array $compiled;

    /**
     * @param  \Closure(SubqueryExpr): int  $subquery
     */
    public function __construct(private readonly Values $values, \Closure $subquery)
    {
        parent::__construct($values->fields, [], new Placement(Placement::SINGLE));
        $compiled = [];
        foreach ($values->rows as $row) {
            // Now, so that the planner knows of the subqueries before it hands them to a run.
            $compiled[] = Kernel::project(array_combine($this->ids(), $row), [], $subquery);
        }
        $this->compiled = $compiled;
    }

    public function kind(): string
    {
        return 'values';
    }

    public function detail(): string
    {
        $count = count($this->values->rows);

        return $count === 1 ? '1 row' : "{$count} rows";
    }

    protected function produce(Run $run, int $node): iterable
    {
        if ($node !== 0) {
            return;
        }
        $columns = array_fill_keys($this->ids(), []);
        foreach ($this->compiled as $row) {
            foreach ($row([], 1, $run->outer, $run) as $id => $one) {
                $columns[$id][] = $one[0];
            }
        }
        $this->counters(0)->rowsIn += count($this->values->rows);
        yield new Batch(count($this->values->rows), $columns);
    }
}
