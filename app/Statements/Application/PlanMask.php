<?php

declare(strict_types=1);

namespace App\Statements\Application;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Plans\StepCost;
use Fulcrion\Core\Plans\StepReads;
use Fulcrion\Core\Plans\StepRows;
use Fulcrion\Core\Sql\Normaliser;

/**
 * A plan without the literals of its statement, for people who may not see them.
 */
final readonly class PlanMask
{
    private Normaliser $normaliser;

    public function __construct()
    {
        $this->normaliser = new Normaliser();
    }

    public function mask(Plan $plan): Plan
    {
        return new Plan(
            $this->step($plan->root),
            $plan->engine,
            $plan->modelled,
            $plan->actual,
            $plan->totalUs,
            $this->text($plan->statement),
            $plan->nodeCount,
            $plan->rowFactor,
        );
    }

    private function step(PlanStep $s): PlanStep
    {
        // Row counts in words carry no value of a statement; conditions and what computes them do.
        $detail =
            $s->conditions === [] &&
            ! $s->kind->isExchange() &&
            ! in_array($s->kind->value, ['filter', 'compute', 'aggregate', 'partial-aggregate', 'sort', 'top', 'window'], true)
                ? $s->detail
                : $this->text($s->detail);

        return new PlanStep(
            $s->kind,
            $detail,
            $s->table,
            array_map($this->text(...), $s->conditions),
            new StepRows($s->rows->estimated, $s->rows->actual, $s->rows->in, $s->rows->loops),
            new StepCost($s->cost->ownUs, $s->cost->bytesSent, $s->cost->memoryPeak, $s->cost->bytesSpilled),
            new StepReads(
                $s->reads->chunks,
                $s->reads->chunksTotal,
                $s->reads->partitions,
                $s->reads->partitionsTotal,
                $s->reads->bytes,
                $s->reads->bytesTotal,
            ),
            $s->nodes,
            array_map($this->step(...), $s->inputs),
            $s->notes,
            $s->onlyFilters,
        );
    }

    private function text(string $sql): string
    {
        return $sql === '' ? '' : $this->normaliser->normalise($sql);
    }
}
