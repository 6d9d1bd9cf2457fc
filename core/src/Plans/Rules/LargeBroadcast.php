<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans\Rules;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanFinding;
use Fulcrion\Core\Plans\PlanRule;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Core\Text\Quantity;

/**
 * Much is sent to every node.
 */
final readonly class LargeBroadcast implements PlanRule
{
    /** On the modelled cluster. */
    private const LEAST_BYTES = 2_000_000_000;

    public function check(Plan $plan): array
    {
        $findings = [];
        foreach ($plan->steps() as $step) {
            if (
                $step->kind !== StepKind::Broadcast ||
                $step->cost->bytesSent === null ||
                $step->cost->bytesSent * $plan->rowFactor < self::LEAST_BYTES
            ) {
                continue;
            }
            $findings[] = new PlanFinding(
                'large-broadcast',
                Quantity::count((int) ($step->rows->in ?? 0)).' rows are copied to each of '.$plan->nodeCount.' nodes',
                Quantity::bytes($step->cost->bytesSent * $plan->rowFactor).' sent (modelled)',
                'Place both tables by the key of the join, filter this side earlier, or join by columns instead of expressions so that '
                    .'the rows can be dealt out instead of copied.',
                $step,
                null,
                $step->cost->ownUs,
            );
        }

        return $findings;
    }
}
