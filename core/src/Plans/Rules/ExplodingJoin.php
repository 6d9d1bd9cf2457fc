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
 * A join gives many times the rows it takes.
 */
final readonly class ExplodingJoin implements PlanRule
{
    private const LEAST_FACTOR = 10;

    private const LEAST_ROWS = 10_000;

    public function check(Plan $plan): array
    {
        $findings = [];
        foreach ($plan->steps() as $step) {
            $out = $step->rows->actual ?? ($step->rows->estimated ?? 0);
            if (! $step->kind->isJoin() || count($step->inputs) < 2 || $out < self::LEAST_ROWS) {
                continue;
            }
            $in = array_map(static fn (PlanStep $input): float => $input->rows->actual ?? ($input->rows->estimated ?? 0), $step->inputs);
            $cross = $step->kind === StepKind::CrossJoin && min($in) > 1;
            if (! $cross && $out < self::LEAST_FACTOR * max(1, ...$in)) {
                continue;
            }
            $findings[] = new PlanFinding(
                $cross ? 'cross-join' : 'exploding-join',
                $cross
                    ? 'Two inputs are joined without a condition'
                    : 'A join gives '.Quantity::factor($out / max(1, ...$in)).' the rows of its larger input',
                implode(' and ', array_map(static fn (float $rows): string => Quantity::count((int) $rows), $in)).
                    ' rows in, '.
                    Quantity::count((int) $out).
                    ' out'.
                    ($step->conditions === [] ? '' : '; joined by '.implode(' AND ', $step->conditions)),
                $cross
                    ? 'Add the missing condition between the two, or write CROSS JOIN where it is meant.'
                    : 'The join key is not unique on either side: join by the whole key, or aggregate one side first.',
                $step,
                null,
                $plan->actual ? $step->cumulativeUs() : null,
            );
        }

        return $findings;
    }
}
