<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans\Rules;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanFinding;
use Fulcrion\Core\Plans\PlanRule;
use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Core\Text\Quantity;

/**
 * Rows of a table are dealt out anew for a join that would find them in place if the table were distributed by its key.
 */
final readonly class AvoidableRepartition implements PlanRule
{
    /** On the modelled cluster. */
    private const LEAST_BYTES = 200_000_000;

    public function check(Plan $plan): array
    {
        $findings = [];
        foreach ($plan->steps() as $join) {
            if (! $join->kind->isJoin()) {
                continue;
            }
            foreach ($join->inputs as $step) {
                $table = $this->scan($step)?->table;
                if (
                    $step->kind !== StepKind::Repartition ||
                    $table === null ||
                    $step->cost->bytesSent === null ||
                    $step->cost->bytesSent * $plan->rowFactor < self::LEAST_BYTES
                ) {
                    continue;
                }
                $findings[] = new PlanFinding(
                    'avoidable-repartition',
                    "Rows of {$table->name} change nodes for a join",
                    Quantity::bytes($step->cost->bytesSent * $plan->rowFactor).
                        " sent (modelled); the table is placed {$table->distribution}, the join goes {$step->detail}",
                    'Place both tables by the column they are joined on most.',
                    $step,
                    null,
                    $step->cost->ownUs,
                );
            }
        }

        return $findings;
    }

    private function scan(PlanStep $step): ?PlanStep
    {
        while ($step->kind !== StepKind::Scan) {
            if (count($step->inputs) !== 1 || ! in_array($step->kind, [StepKind::Repartition, StepKind::Filter, StepKind::Compute], true)) {
                return null;
            }
            $step = $step->inputs[0];
        }

        return $step;
    }
}
