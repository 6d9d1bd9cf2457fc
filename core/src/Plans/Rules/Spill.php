<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans\Rules;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanFinding;
use Fulcrion\Core\Plans\PlanRule;
use Fulcrion\Core\Text\Quantity;

/**
 * A step needs more memory than a node has.
 */
final readonly class Spill implements PlanRule
{
    public function check(Plan $plan): array
    {
        $findings = [];
        foreach ($plan->steps() as $step) {
            if (($step->cost->bytesSpilled ?? 0) <= 0) {
                continue;
            }
            $findings[] = new PlanFinding(
                'spill',
                "\"{$step->title()}\" does not fit in the memory of a node",
                Quantity::bytes(($step->cost->bytesSpilled ?? 0) * $plan->rowFactor).
                    ' go to disk, of a peak of '.
                    Quantity::bytes(($step->cost->memoryPeak ?? 0) * $plan->rowFactor).
                    ' (modelled)',
                $step->kind->isJoin()
                    ? 'Filter the second input earlier, or let the smaller side be the one that is held.'
                    : 'Filter earlier, take fewer columns, or group by fewer values.',
                $step,
                null,
                $step->cost->ownUs,
            );
        }

        return $findings;
    }
}
