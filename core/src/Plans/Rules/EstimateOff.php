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
 * An estimate is off by more than ten times; the step where that begins is named, those above only inherit it.
 */
final readonly class EstimateOff implements PlanRule
{
    private const MOST_FACTOR = 10.0;

    private const LEAST_ROWS = 1000;

    public function check(Plan $plan): array
    {
        $findings = [];
        $stopped = $this->stoppedEarly($plan->root, false);
        foreach ($plan->steps() as $step) {
            if (! $this->off($step) || $step->kind->isExchange() || in_array($step, $stopped, true)) {
                continue;
            }
            foreach ($step->inputs as $input) {
                if ($this->anyOff($input)) {
                    continue 2;
                }
            }
            $factor = (float) $step->errorFactor();
            $findings[] = new PlanFinding(
                'estimate-off',
                "At \"{$step->title()}\" the estimate is off by ".Quantity::factor($factor),
                Quantity::count((int) $step->rows->estimated).
                    ' rows expected, '.
                    Quantity::count((int) (($step->rows->actual ?? 0) / $step->rows->loops)).
                    ' came; steps above inherit the error',
                $step->table === null || ! $step->table->statisticsKnown
                    ? 'Look at the conditions of this step: columns that depend on each other, or values the statistics do not know, '
                    .'mislead the planner.'
                    : ($step->table->statisticsAgeUs === null
                        ? 'Collect statistics of the table.'
                        : 'Collect statistics again; if the error stays, the filtered columns depend on each other.'),
                $step,
                $step->table !== null && $step->table->statisticsKnown ? "ANALYZE {$step->table->name}" : null,
                $plan->actual ? $step->cumulativeUs() : null,
            );
        }

        return $findings;
    }

    /**
     * Steps below a LIMIT that were not asked for all their rows.
     *
     * @return list<PlanStep>
     */
    private function stoppedEarly(PlanStep $step, bool $stopped): array
    {
        $stops =
            $step->kind === StepKind::Limit ||
            ($stopped &&
                ! in_array(
                    $step->kind,
                    [
                        StepKind::Sort,
                        StepKind::Top,
                        StepKind::Aggregate,
                        StepKind::PartialAggregate,
                        StepKind::Distinct,
                        StepKind::Window,
                        StepKind::Repartition,
                        StepKind::Broadcast,
                    ],
                    true,
                ));

        return array_merge(
            $stopped ? [$step] : [],
            ...array_map(fn (PlanStep $input): array => $this->stoppedEarly($input, $stops), $step->inputs),
        );
    }

    private function anyOff(PlanStep $step): bool
    {
        foreach ($step->all() as $below) {
            if ($this->off($below)) {
                return true;
            }
        }

        return false;
    }

    private function off(PlanStep $step): bool
    {
        $factor = $step->errorFactor();

        return $factor !== null &&
            $factor > self::MOST_FACTOR &&
            max($step->rows->estimated ?? 0, ($step->rows->actual ?? 0) / $step->rows->loops) >= self::LEAST_ROWS;
    }
}
