<?php

declare(strict_types=1);

namespace App\Statements\Application;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanStep;
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
            $s->estimatedRows,
            $s->actualRows,
            $s->rowsIn,
            $s->loops,
            $s->ownUs,
            $s->chunksRead,
            $s->chunksTotal,
            $s->partitionsRead,
            $s->partitionsTotal,
            $s->bytesRead,
            $s->bytesTotal,
            $s->bytesSent,
            $s->memoryPeak,
            $s->bytesSpilled,
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
