<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans\Rules;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanFinding;
use Fulcrion\Core\Plans\PlanRule;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Core\Plans\TableFacts;
use Fulcrion\Core\Sql\Ast\Binary;
use Fulcrion\Core\Sql\Ast\ColumnName;
use Fulcrion\Core\Sql\Ast\Expression;
use Fulcrion\Core\Sql\Ast\InList;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\RangeRewrites;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Text\Quantity;

/**
 * A filter hides the partition or clustering column inside a function or cast, so nothing can be skipped by it.
 */
final readonly class WrappedColumn implements PlanRule
{
    public function check(Plan $plan): array
    {
        $findings = [];
        $parser = new Parser();
        foreach ($plan->steps() as $step) {
            $table = $step->table;
            if ($step->kind !== StepKind::Scan || $table === null || ($step->reads->chunksTotal ?? 2) < 2) {
                continue;
            }
            foreach ($step->conditions as $text) {
                try {
                    $condition = $parser->expression($text);
                } catch (SyntaxError) {
                    continue;
                }
                $wrapped = $this->wrapped($condition, $table);
                if ($wrapped === null) {
                    continue;
                }
                [$column, $role] = $wrapped;
                $replacement = RangeRewrites::bare($condition, $column, $table->types[$column] ?? '');
                $read =
                    $role === 'partition' && $step->reads->partitionsTotal !== null
                        ? Quantity::count((int) $step->reads->partitions).
                            ' of '.
                            Quantity::count($step->reads->partitionsTotal).
                            ' partitions'
                        : ($step->reads->chunksTotal === null
                            ? 'all of the table'
                            : Quantity::count((int) $step->reads->chunks).' of '.Quantity::count($step->reads->chunksTotal).' chunks');
                $findings[] = new PlanFinding(
                    'wrapped-column',
                    "A filter wraps the {$role} column {$column} of {$table->name} in an expression",
                    "{$text} tells nothing about {$column} itself".($step->rows->actual === null ? '' : ": {$read} were read"),
                    $replacement === null
                        ? "Compare {$column} itself with constants."
                        : 'Compare the column itself with the bounds of what is wanted.',
                    $step,
                    $replacement,
                    $step->cost->ownUs,
                );
            }
        }

        return $findings;
    }

    /**
     * @return array{string, string}|null column, role
     */
    private function wrapped(Expression $condition, TableFacts $table): ?array
    {
        $sides = match (true) {
            $condition instanceof Binary && (RangeRewrites::compares($condition->operator) || $condition->operator === '<>') => [
                $condition->left,
                $condition->right,
            ],
            $condition instanceof InList => [$condition->value],
            default => [],
        };
        foreach ($sides as $side) {
            if ($side instanceof ColumnName) {
                continue;
            }
            foreach (['partition' => $table->partitionColumn, 'clustering' => $table->clustering[0] ?? null] as $role => $column) {
                if ($column !== null && Mentions::column($side, $column)) {
                    return [$column, $role];
                }
            }
        }

        return null;
    }
}
