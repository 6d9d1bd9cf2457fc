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
 * All rows are sorted and few of them kept.
 */
final readonly class SortForFew implements PlanRule
{
    private const LEAST_ROWS = 10_000;

    private const MOST_KEPT = 0.01;

    public function check(Plan $plan): array
    {
        $findings = [];
        foreach ($plan->steps() as $step) {
            $sort = $this->sortBelow($step);
            if (
                $sort === null ||
                ($sort->rows->actual ?? 0) < self::LEAST_ROWS ||
                ($step->rows->actual ?? 0) > self::MOST_KEPT * ($sort->rows->actual ?? 0)
            ) {
                continue;
            }
            $findings[] = new PlanFinding(
                'sort-for-few',
                Quantity::count((int) $sort->rows->actual).' rows are sorted to keep '.Quantity::count((int) $step->rows->actual),
                "\"{$sort->title()}\" {$sort->detail}; above it \"{$step->title()}\" {$step->detail} keeps ".
                    Quantity::percent(($step->rows->actual ?? 0) / ($sort->rows->actual ?? 1)),
                $sort->kind === StepKind::Window
                    ? 'Ask for the extreme of each group with min() or max() and join it back, instead of numbering all rows.'
                    : 'Put ORDER BY and LIMIT on the same query level, so that only the first rows need to be kept.',
                $sort,
                null,
                $sort->cost->ownUs,
            );
        }

        return $findings;
    }

    private function sortBelow(PlanStep $step): ?PlanStep
    {
        if ($step->kind !== StepKind::Limit && $step->kind !== StepKind::Filter) {
            return null;
        }
        $below = $step->inputs[0] ?? null;
        while ($below !== null && ($below->kind === StepKind::Compute || $below->kind === StepKind::Gather)) {
            $below = $below->inputs[0] ?? null;
        }

        return $below !== null && ($below->kind === StepKind::Sort || $below->kind === StepKind::Window) ? $below : null;
    }
}
