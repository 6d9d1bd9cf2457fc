<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans\Rules;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanFinding;
use Fulcrion\Core\Plans\PlanRule;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Core\Text\Quantity;

/**
 * Nearly all of a table is read although few rows are wanted.
 */
final readonly class FullRead implements PlanRule
{
    private const MOST_KEPT = 0.05;

    private const LEAST_READ = 0.8;

    private const LEAST_CHUNKS = 8;

    private const LEAST_ROWS = 10_000;

    public function check(Plan $plan): array
    {
        $findings = [];
        foreach ($plan->steps() as $step) {
            if (
                $step->kind !== StepKind::Scan ||
                $step->table === null ||
                $step->conditions === [] ||
                $step->actualRows === null ||
                $step->rowsIn === null ||
                $step->rowsIn < self::LEAST_ROWS ||
                $step->actualRows > self::MOST_KEPT * $step->rowsIn
            ) {
                continue;
            }
            $chunked = $step->chunksTotal !== null;
            if (
                $chunked &&
                ($step->chunksTotal < self::LEAST_CHUNKS || ($step->bytesRead ?? 0) < self::LEAST_READ * ($step->bytesTotal ?? 0))
            ) {
                continue;
            }
            $kept = Quantity::percent($step->actualRows / $step->rowsIn);
            $findings[] = new PlanFinding(
                'full-read',
                "{$step->table->name} is read almost whole to keep {$kept} of its rows",
                Quantity::count((int) $step->rowsIn).
                    ' rows read, '.
                    Quantity::count((int) $step->actualRows).
                    ' kept by '.
                    implode(' AND ', $step->conditions).
                    ($chunked
                        ? '; '.
                            Quantity::count($step->chunksRead).
                            ' of '.
                            Quantity::count($step->chunksTotal).
                            ' chunks could not be skipped'
                        : ''),
                $chunked
                    ? 'Sort or cut the table by the filtered column, so that whole chunks can be skipped'.
                        ($step->table->clustering === []
                            ? '; it has no clustering key.'
                            : '; it is clustered by '.implode(', ', $step->table->clustering).'.')
                    : 'Give the filtered columns an index.',
                $step,
                null,
                $step->ownUs,
            );
        }

        return $findings;
    }
}
