<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rules;

use Fulcrion\Core\Storage\HouseRule;
use Fulcrion\Core\Storage\LayoutFinding;
use Fulcrion\Core\Storage\Lookups\LookupAdvisor;
use Fulcrion\Core\Storage\TableCase;
use Fulcrion\Core\Text\Quantity;

/**
 * A dimension joined by its key for a column or two could be looked up instead.
 */
final readonly class JoinedToFilter implements HouseRule
{
    public function id(): string
    {
        return 'joined-to-filter';
    }

    public function title(): string
    {
        return 'Joined only to filter or to fetch a column';
    }

    public function reason(): string
    {
        return 'A join with a dimension hides its filter from the larger table, which is read whole.';
    }

    public function guidance(): array
    {
        return [
            'Statements that filter by the week of a calendar join it and read all days, because only the join tells which days the '
                .'week has.',
            'A lookup keeps key and columns of the dimension in the memory of every node. The planner answers the filter from it '
                .'beforehand and asks the larger table for the keys that are left, so chunks of other keys are not opened; columns that '
                .'are only fetched are looked up row by row.',
            'The key has to be unique; that is checked on all rows when the lookup is made, and again whenever the table changes.',
        ];
    }

    public function thresholds(): array
    {
        return ['executions' => [20, 'executions a week from which a join counts'], 'hours' => [0.001, 'modelled hours a week it saves']];
    }

    public function check(TableCase $case, array $thresholds): array
    {
        $proposal = (new LookupAdvisor($case->estate))->of($case->table, $case->sample);
        if (
            $proposal === null ||
            $proposal->executions < $thresholds['executions'] ||
            $proposal->savedUs < $thresholds['hours'] * 3.6e9 ||
            $proposal->filtering === 0
        ) {
            return [];
        }

        return [
            new LayoutFinding(
                $this->id(),
                $case->table->name,
                true,
                Quantity::count($proposal->executions).
                    " executions a week join {$case->table->name} by {$proposal->key} to filter by or fetch ".
                    implode(', ', array_diff($proposal->columns, [$proposal->key])),
                [
                    ['statements', count($proposal->served).', '.$proposal->filtering.' of them filter by it'],
                    [
                        'keys',
                        Quantity::count($case->table->rows()).' rows; that '.$proposal->key.' is unique is checked when it is made',
                    ],
                    ['memory', Quantity::bytes($proposal->bytes * $case->table->rowFactor).' on every node (modelled)'],
                ],
                $proposal->savedUs,
                $proposal->savedBytes * $case->table->rowFactor,
                'lookup',
                [$proposal->create()],
                [$proposal->drop()],
            ),
        ];
    }
}
