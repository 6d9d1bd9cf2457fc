<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rules;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Sql\RangeRewrites;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Storage\HouseRule;
use Fulcrion\Core\Storage\LayoutFinding;
use Fulcrion\Core\Storage\TableCase;
use Fulcrion\Core\Storage\TableUse;
use Fulcrion\Core\Storage\UseReader;
use Fulcrion\Core\Text\Quantity;

/**
 * A function around a column keeps bounds of partitions and chunks from being held against the filter.
 */
final readonly class HiddenColumn implements HouseRule
{
    public function id(): string
    {
        return 'hidden-column';
    }

    public function title(): string
    {
        return 'A filter hides the column it filters';
    }

    public function reason(): string
    {
        return 'A function around a column keeps bounds of partitions and chunks from being held against the filter.';
    }

    public function guidance(): array
    {
        return [
            'CAST(read_at AS date) = DATE \'2026-11-20\' wants one day, but nothing can be skipped by it: the bounds of chunks are '
                .'those of read_at, not of what the function makes of it.',
            'Say the same as a span of the column itself: read_at from the beginning of the day to before the next. The change '
                .'registers that rewriting with the cluster for this one statement; whoever owns the statement should adopt it.',
            'Where the function cannot be undone (the hour of a moment, say), store its result as a column.',
        ];
    }

    public function thresholds(): array
    {
        return ['executions' => [5, 'executions a week from which a statement counts']];
    }

    public function check(TableCase $case, array $thresholds): array
    {
        $table = $case->table;
        $types = [];
        foreach ([$table->definition->partitioning?->column, $table->definition->clustering[0] ?? null] as $name) {
            $column = $name === null ? null : $table->definition->column($name);
            if ($column !== null) {
                $types[$column->name] = $column->type->kind->value;
            }
        }
        $reader = new UseReader([
            $table->name => array_map(
                static fn (Column $column) => $column->type,
                array_combine(
                    array_map(static fn (Column $column): string => $column->name, $table->definition->columns),
                    $table->definition->columns,
                ),
            ),
        ]);
        $findings = [];
        foreach ($types === [] ? [] : $case->estate->workload->statements as $statement) {
            $use = $statement->of($table->name);
            if (
                $use === null ||
                $statement->executions < $thresholds['executions'] ||
                in_array($statement->id, $table->uses->rewritten, true) ||
                array_intersect_key($use->wrapped, $types) === []
            ) {
                continue;
            }
            try {
                $bare = RangeRewrites::statement($statement->sql, $types);
            } catch (SyntaxError) {
                $bare = null;
            }
            $after =
                $bare === null
                    ? null
                    : array_values(
                        array_filter(
                            $reader->read($bare, $statement->schema) ?? [],
                            static fn (TableUse $u): bool => $u->table === $table->name,
                        ),
                    )[0] ?? null;
            if ($after === null) {
                continue;
            }
            $model = $case->model();
            [$shareBefore, $shareAfter] = [$model->share($use), $model->share($after)];
            $us = $statement->executions * ($model->us($use, $shareBefore) - $model->us($after, $shareAfter));
            $findings[] = new LayoutFinding(
                $this->id(),
                "{$table->name}#{$statement->id}",
                true,
                'A filter of statement '.
                    substr($statement->id, 0, 8).
                    ' hides '.
                    implode(', ', array_keys(array_intersect_key($use->wrapped, $types))).
                    ' of '.
                    $table->name.
                    ', so nothing is skipped',
                [
                    ['filter', implode('; ', array_intersect_key($use->wrapped, $types))],
                    ['reads', Quantity::percent($shareBefore).' of the table; as a span it would read '.Quantity::percent($shareAfter)],
                    ['said as a span', $bare],
                ],
                $us,
                $statement->executions * ($model->bytes($use, $shareBefore) - $model->bytes($after, $shareAfter)) * $table->rowFactor,
                'rewrite',
                ["MAINTAIN TABLE {$table->path()} WITH (action = rewrite, statement = '{$statement->id}')"],
                ["MAINTAIN TABLE {$table->path()} WITH (action = release, statement = '{$statement->id}')"],
                [$statement->id => $us],
            );
        }

        return $findings;
    }
}
