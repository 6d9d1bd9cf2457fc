<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans\Rules;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanFinding;
use Fulcrion\Core\Plans\PlanRule;
use Fulcrion\Core\Text\Quantity;

/**
 * The planner guesses because statistics of a table are missing, or describe rows that have changed since.
 */
final readonly class PoorStatistics implements PlanRule
{
    private const LEAST_ROWS = 1000;

    private const MOST_CHANGED = 0.2;

    public function check(Plan $plan): array
    {
        $findings = [];
        foreach ($plan->steps() as $step) {
            $table = $step->table;
            if ($table === null || ! $table->statisticsKnown || ($table->rows ?? 0) < self::LEAST_ROWS || isset($findings[$table->name])) {
                continue;
            }
            $missing = $table->statisticsAgeUs === null;
            if (! $missing && ($table->changedShare ?? 0.0) <= self::MOST_CHANGED) {
                continue;
            }
            $findings[$table->name] = new PlanFinding(
                $missing ? 'no-statistics' : 'stale-statistics',
                $missing
                    ? "{$table->name} has no statistics, so the planner guesses"
                    : "The statistics of {$table->name} describe an older table",
                $missing
                    ? 'It has '.
                        Quantity::count($table->rows).
                        ' rows; the planner takes 1 000'.
                        ($step->rows->actual === null
                            ? ''
                            : ', expected '.
                                Quantity::count((int) ($step->rows->estimated ?? 0)).
                                ' rows here and got '.
                                Quantity::count((int) $step->rows->actual))
                    : 'Collected '.
                        Quantity::duration($table->statisticsAgeUs).
                        ' ago; rows changed since: '.
                        Quantity::percent($table->changedShare).
                        ' of what there was',
                'Collect statistics, and do so after every large load.',
                $step,
                "ANALYZE {$table->name}",
                $plan->actual ? $plan->sumUs() : null,
            );
        }

        return array_values($findings);
    }
}
