<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rules;

use Fulcrion\Core\Storage\HouseRule;
use Fulcrion\Core\Storage\LayoutFinding;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\TableCase;
use Fulcrion\Core\Text\Quantity;

/**
 * What was true of the table no longer is.
 */
final readonly class StaleStatistics implements HouseRule
{
    public function id(): string
    {
        return 'stale-statistics';
    }

    public function title(): string
    {
        return 'Statistics are old';
    }

    public function reason(): string
    {
        return 'What was true of the table no longer is.';
    }

    public function guidance(): array
    {
        return [
            'Statistics describe the rows there were. When a good part of them is new, estimates of recent values are most wrong, since '
                .'a histogram ends where the data ended then: a filter on the last days finds nothing in it.',
            'Collect those of the columns that are filtered and joined, and put the table on a maintenance schedule by share of rows '
                .'changed.',
        ];
    }

    public function thresholds(): array
    {
        return ['days' => [7, 'age in days'], 'changed' => [0.2, 'share of rows changed since']];
    }

    public function check(TableCase $case, array $thresholds): array
    {
        $table = $case->table;
        $ageUs = $table->statistics->ageUs;
        if ($ageUs === null || $ageUs < $thresholds['days'] * 86_400e6 || $table->statistics->changedShare < $thresholds['changed']) {
            return [];
        }
        $needed = array_keys(
            array_filter(
                $case->estate->workload->columns($table->name),
                static fn (array $uses): bool => $uses['filter'] + $uses['join'] + $uses['group'] > 0,
            ),
        );
        $needed = array_values(array_intersect(array_map(strval(...), $needed), array_keys($table->statistics->columns)));
        $miss = $case->estate->misestimates[$table->name] ?? null;
        $us = array_sum(
            array_map(
                static fn (StatementUse $s): float => $s->of($table->name) !== null ? $s->durationUs : 0.0,
                $case->estate->workload->statements,
            ),
        );

        return [
            new LayoutFinding(
                $this->id(),
                $table->name,
                true,
                "Statistics of {$table->name} are ".
                    Quantity::duration($ageUs).
                    ' old; '.
                    Quantity::percent($table->statistics->changedShare).
                    ' of its rows changed since',
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
                    ['at stake', Quantity::duration($us).' a week of statements planned by them'],
                ],
                0.0,
                0.0,
                'statistics',
                ['ANALYZE TABLE '.$table->path().($needed === [] ? '' : ' ('.implode(', ', $needed).')')],
            ),
        ];
    }
}
