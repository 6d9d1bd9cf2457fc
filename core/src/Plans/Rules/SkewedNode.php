<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans\Rules;

use Fulcrion\Core\Plans\NodeShare;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanFinding;
use Fulcrion\Core\Plans\PlanRule;
use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Core\Text\Quantity;

/**
 * One node has far more to do than the others, which then wait for it.
 */
final readonly class SkewedNode implements PlanRule
{
    private const LEAST_SPREAD = 2.5;

    private const LEAST_ROWS = 10_000;

    /** A read of a small part of a table may well lie on one node. */
    private const LEAST_SHARE = 0.3;

    public function check(Plan $plan): array
    {
        $findings = [];
        foreach ($plan->steps() as $step) {
            if (! $this->skewed($step)) {
                continue;
            }
            foreach ($step->inputs as $input) {
                foreach ($input->all() as $below) {
                    if ($this->skewed($below)) {
                        continue 3;
                    }
                }
            }
            $rows = array_map(static fn (NodeShare $node): int => max($node->rowsIn, $node->rowsOut), $step->nodes);
            $most = max([0, ...$rows]);
            $node = (int) array_search($most, $rows, true);
            $share = Quantity::percent($most / max(1, array_sum($rows)));
            $table = $step->table;
            $findings[] = new PlanFinding(
                'skewed-node',
                $table === null
                    ? 'Node '.($node + 1)." does {$share} of \"{$step->title()}\""
                    : 'Node '.($node + 1)." holds {$share} of the rows read from {$table->name}",
                'Rows of the fullest node over the mean: '.
                    Quantity::factor((float) $step->spread()).
                    '; '.
                    count(array_filter($rows, static fn (int $count): bool => $count > 0)).
                    ' of '.
                    count($rows).
                    ' nodes have any',
                $table === null
                    ? 'Group or join by a column with more values, or by more columns.'
                    : 'Place the table by a column with many values'.
                        ($table->distribution === '' ? '.' : "; it is placed {$table->distribution}."),
                $step,
                null,
                $step->cost->ownUs,
            );
        }

        return $findings;
    }

    private function skewed(PlanStep $step): bool
    {
        $rows = max($step->rows->in ?? 0, $step->rows->actual ?? 0);

        return ! $step->kind->isExchange() &&
            ($step->spread() ?? 0) >= self::LEAST_SPREAD &&
            $rows >= self::LEAST_ROWS &&
            ($step->table === null
                ? $this->dealtByKey($step)
                : $step->table->distribution !== 'everywhere' && $rows >= self::LEAST_SHARE * ($step->table->rows ?? 0));
    }

    /** Only rows that were dealt out by a key can be uneven because of it. */
    private function dealtByKey(PlanStep $step): bool
    {
        return ($step->inputs[0] ?? null)?->kind === StepKind::Repartition;
    }
}
