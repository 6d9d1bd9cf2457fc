<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

use Closure;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Expression\SubqueryExpr;

final class FilterStep extends Step
{
    /** @var Closure(array<int, list<mixed>>, int, array<int, mixed>, Run): list<int> */
    private readonly Closure $filter;

    /**
     * @param  list<Expr>  $conditions
     * @param  callable(SubqueryExpr): int  $subquery
     */
    public function __construct(Step $input, private readonly array $conditions, callable $subquery)
    {
        parent::__construct($input->fields, [$input], $input->placement);
        $this->filter = Kernel::filter($conditions, array_flip($input->ids()), $subquery);
    }

    public function kind(): string
    {
        return 'filter';
    }

    public function detail(): string
    {
        return implode(' AND ', array_map(static fn (Expr $e): string => $e->text(), $this->conditions));
    }

    protected function produce(Run $run, int $node): iterable
    {
        foreach ($this->from($run, $node) as $batch) {
            $rows = ($this->filter)($batch->columns, $batch->rows, $run->outer, $run);
            if (count($rows) === $batch->rows) {
                yield $batch;
            } elseif ($rows !== []) {
                yield $batch->take($rows);
            }
        }
    }
}
