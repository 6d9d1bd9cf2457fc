<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans\Rules;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanFinding;
use Fulcrion\Core\Plans\PlanRule;
use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Core\Plans\TableFacts;
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

    /** A column that is equal to a value which is written there. */
    private const EQUAL = '~(?<![<>!=:])=\\s*(?:[\'"\\d?]|-\\d|_[a-z0-9]+\')~i';

    public function check(Plan $plan): array
    {
        $findings = [];
        foreach ($plan->steps() as $step) {
            if ($step->kind !== StepKind::Scan || $step->table === null || $step->conditions === []) {
                continue;
            }
            if (! $plan->actual && $plan->engine === 'mariadb') {
                array_push($findings, ...self::expected($step, $step->table));

                continue;
            }
            if (
                $step->rows->actual === null ||
                $step->rows->in === null ||
                $step->rows->in < self::LEAST_ROWS ||
                $step->rows->actual > self::MOST_KEPT * $step->rows->in
            ) {
                continue;
            }
            $chunked = $step->reads->chunksTotal !== null;
            if (
                $chunked &&
                ($step->reads->chunksTotal < self::LEAST_CHUNKS ||
                    ($step->reads->bytes ?? 0) < self::LEAST_READ * ($step->reads->bytesTotal ?? 0))
            ) {
                continue;
            }
            $kept = Quantity::percent($step->rows->actual / $step->rows->in);
            $findings[] = new PlanFinding(
                'full-read',
                "{$step->table->name} is read almost whole to keep {$kept} of its rows",
                Quantity::count((int) $step->rows->in).
                    ' rows read, '.
                    Quantity::count((int) $step->rows->actual).
                    ' kept by '.
                    implode(' AND ', $step->conditions).
                    ($chunked
                        ? '; '.
                            Quantity::count($step->reads->chunks).
                            ' of '.
                            Quantity::count($step->reads->chunksTotal).
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
                $step->cost->ownUs,
            );
        }

        return $findings;
    }

    /**
     * A plan that was not run tells what is expected only; without statistics of a column a server expects every row to be kept. So the
     * condition decides: what is held to one value is wanted of few rows.
     *
     * @return list<PlanFinding>
     */
    private static function expected(PlanStep $step, TableFacts $table): array
    {
        $equal = array_values(array_filter(
            $step->conditions,
            static fn (string $condition): bool => preg_match(self::EQUAL, $condition) === 1 && preg_match('~\bor\b~i', $condition) !== 1,
        ));

        return $equal === [] || ($table->rows ?? 0) < self::LEAST_ROWS ? [] : [
            new PlanFinding(
                'full-read',
                "{$table->name} is read as a whole for what is equal to one value",
                'About '.Quantity::count($table->rows).' rows are expected to be looked at for '.implode(' AND ', $equal),
                'Give the filtered columns an index.',
                $step,
                null,
                null,
            ),
        ];
    }
}
