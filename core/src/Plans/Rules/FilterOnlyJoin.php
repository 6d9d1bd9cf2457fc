<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans\Rules;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanFinding;
use Fulcrion\Core\Plans\PlanRule;
use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Core\Plans\TableFacts;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Text\Quantity;

/**
 * A small table is joined for nothing but to decide which rows of a large one are wanted, by the very column the
 * large one could skip chunks by.
 */
final readonly class FilterOnlyJoin implements PlanRule
{
    private const LEAST_RATIO = 10;

    private const LEAST_ROWS = 10_000;

    public function check(Plan $plan): array
    {
        $findings = [];
        foreach ($plan->steps() as $step) {
            if ($step->onlyFilters < 0 || count($step->inputs) !== 2) {
                continue;
            }
            $small = $this->scan($step->inputs[$step->onlyFilters]);
            $large = $this->scan($step->inputs[1 - $step->onlyFilters]);
            if (
                $small?->table === null ||
                $large?->table === null ||
                $small->conditions === [] ||
                ($large->rows->in ?? 0) < self::LEAST_ROWS ||
                ($large->rows->in ?? 0) < self::LEAST_RATIO * ($small->rows->in ?? 0) ||
                ! $this->byOrder($step, $large->table)
            ) {
                continue;
            }
            $read =
                $large->reads->chunksTotal === null
                    ? ''
                    : '; '.
                        Quantity::count((int) $large->reads->chunks).
                        ' of '.
                        Quantity::count($large->reads->chunksTotal).
                        ' chunks of the large table were read, because the join tells too late which rows are wanted';
            $findings[] = new PlanFinding(
                'filter-only-join',
                "{$small->table->name} is joined only to filter {$large->table->name}",
                'No column of it is used above the join but '.
                    implode(' AND ', $step->conditions).
                    '; '.
                    Quantity::count((int) ($large->rows->actual ?? 0)).
                    ' rows go in, '.
                    Quantity::count((int) ($step->rows->actual ?? 0)).
                    ' come out'.
                    $read,
                'Filter the large table by its own column: look up the wanted span of '.
                    $small->table->name.
                    ' first ('.
                    implode(' AND ', $small->conditions).
                    ') and compare the column itself with its bounds, so that chunks outside can be skipped.',
                $step,
                null,
                ($step->cost->ownUs ?? 0) + ($large->cost->ownUs ?? 0),
            );
        }

        return $findings;
    }

    private function byOrder(PlanStep $join, TableFacts $large): bool
    {
        $parser = new Parser();
        foreach ($join->conditions as $text) {
            try {
                $condition = $parser->expression($text);
            } catch (SyntaxError) {
                continue;
            }
            foreach ([$large->partitionColumn, $large->clustering[0] ?? null] as $column) {
                if ($column !== null && Mentions::column($condition, $column)) {
                    return true;
                }
            }
        }

        return false;
    }

    private function scan(PlanStep $step): ?PlanStep
    {
        while ($step->kind !== StepKind::Scan) {
            if (count($step->inputs) !== 1 || $step->kind === StepKind::Aggregate) {
                return null;
            }
            $step = $step->inputs[0];
        }

        return $step;
    }
}
