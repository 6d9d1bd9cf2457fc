<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rules;

use Fulcrion\Core\Storage\HouseRule;
use Fulcrion\Core\Storage\LayoutFinding;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\TableCase;
use Fulcrion\Core\Text\Quantity;

/**
 * The planner guesses where it does not know.
 */
final readonly class MissingStatistics implements HouseRule
{
    public function id(): string
    {
        return 'missing-statistics';
    }

    public function title(): string
    {
        return 'No statistics';
    }

    public function reason(): string
    {
        return 'The planner guesses where it does not know.';
    }

    public function guidance(): array
    {
        return [
            'How many rows pass a filter or match a join is estimated from statistics: distinct counts, histograms, common values. '
                .'Without them the planner takes fixed shares, and picks the wrong side to send or the wrong order to join.',
            'Collect them for the columns the workload filters, joins and groups by. The others are not needed.',
        ];
    }

    public function thresholds(): array
    {
        return ['executions' => [5, 'executions a week that filter, join or group by the column']];
    }

    public function check(TableCase $case, array $thresholds): array
    {
        $table = $case->table;
        $needed = [];
        foreach ($case->estate->workload->columns($table->name) as $name => $uses) {
            $used = $uses['filter'] + $uses['join'] + $uses['group'];
            if ($used >= $thresholds['executions'] && ! isset($table->statistics->columns[$name])) {
                $needed[] = $name;
            }
        }
        if ($needed === [] || $table->rows() === 0) {
            return [];
        }
        $miss = $case->estate->misestimates[$table->name] ?? null;
        $us = array_sum(
            array_map(
                static fn (StatementUse $s): float => $s->of($table->name) !== null && $s->of($table->name)->joins !== []
                    ? $s->durationUs
                    : 0.0,
                $case->estate->workload->statements,
            ),
        );

        return [
            new LayoutFinding(
                $this->id(),
                $table->name,
                true,
                $table->statistics->ageUs === null
                    ? "{$table->name} never had statistics collected"
                    : "{$table->name} lacks statistics of ".implode(', ', $needed),
                [
                    ['columns that need them', implode(', ', $needed)],
                    ...$miss === null
                        ? []
                        : [
                            [
                                'worst estimate in a plan that ran',
                                Quantity::factor($miss['factor']).' off, statement '.substr($miss['statement'], 0, 8),
                            ],
                        ],
                    ['at stake', Quantity::duration($us).' a week of joins planned without them'],
                ],
                0.0,
                0.0,
                'statistics',
                ['ANALYZE TABLE '.$table->path().' ('.implode(', ', $needed).')'],
            ),
        ];
    }
}
