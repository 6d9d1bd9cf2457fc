<?php

declare(strict_types=1);

namespace Fulcrion\StandIn\Physical;

use Fulcrion\StandIn\Expression\SubqueryExpr;
use Fulcrion\StandIn\Logical\Values;

final class ValuesStep extends Step
{
    /**
     * @param  \Closure(SubqueryExpr): int  $subquery
     */
    public function __construct(private readonly Values $values, private readonly \Closure $subquery)
    {
        parent::__construct($values->fields, [], new Placement(Placement::SINGLE));
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
        foreach ($this->values->rows as $row) {
            $values = [];
            foreach ($this->fields as $i => $field) {
                $values[$field->id] = $row[$i];
            }
            foreach (Kernel::project($values, [], $this->subquery)([], 1, $run->outer, $run) as $id => $one) {
                $columns[$id][] = $one[0];
            }
        }
        $this->counters(0)->rowsIn += count($this->values->rows);
        yield new Batch(count($this->values->rows), $columns);
    }
}
