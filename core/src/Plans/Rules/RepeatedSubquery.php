<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans\Rules;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanFinding;
use Fulcrion\Core\Plans\PlanRule;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Core\Text\Quantity;

/**
 * A subquery is run again and again for the rows of the outer query.
 */
final readonly class RepeatedSubquery implements PlanRule
{
    private const LEAST_LOOPS = 50;

    public function check(Plan $plan): array
    {
        $findings = [];
        foreach ($plan->steps() as $step) {
            if ($step->kind !== StepKind::Subquery || $step->rows->loops < self::LEAST_LOOPS) {
                continue;
            }
            $findings[] = new PlanFinding(
                'repeated-subquery',
                'A subquery is run '.Quantity::count($step->rows->loops).' times',
                'Each run starts from the beginning'.
                    ($step->cumulativeUs() === null ? '' : '; all of them take '.Quantity::duration($step->cumulativeUs())),
                'Compute it once for all values: group the inner table by the column it is compared by, and join the result.',
                $step,
                null,
                $step->cumulativeUs(),
            );
        }

        return $findings;
    }
}
