<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rules;

use Fulcrion\Core\Storage\HouseRule;
use Fulcrion\Core\Storage\LayoutFinding;
use Fulcrion\Core\Storage\TableCase;
use Fulcrion\Core\Text\Quantity;

/**
 * A join of different types casts every row and can be neither local nor skipped by.
 */
final readonly class JoinTypes implements HouseRule
{
    public function id(): string
    {
        return 'join-types';
    }

    public function title(): string
    {
        return 'Joined columns differ in type';
    }

    public function reason(): string
    {
        return 'A join of different types casts every row and can be neither local nor skipped by.';
    }

    public function guidance(): array
    {
        return [
            'Equal values of different types do not hash alike, so the join cannot stay on the node, and bounds of one side cannot be '
                .'held against the other. Every row is cast on the way.',
            'Store the key in the same type on both sides. For a moment joined to a day, store the day as a column.',
        ];
    }

    public function thresholds(): array
    {
        return ['executions' => [5, 'executions a week from which a join counts']];
    }

    public function check(TableCase $case, array $thresholds): array
    {
        $found = [];
        foreach ($case->estate->workload->statements as $statement) {
            foreach ($statement->tables as $use) {
                foreach ($use->table === $case->table->name ? $use->joins : [] as $join) {
                    if ($join->mismatch) {
                        $key = "{$join->column} with {$join->otherTable}.{$join->otherColumn}";
                        $found[$key] ??= [0.0, 0.0];
                        $found[$key][0] += $statement->executions;
                        $found[$key][1] += $statement->durationUs;
                    }
                }
            }
        }
        $found = array_filter($found, static fn (array $one): bool => $one[0] >= $thresholds['executions']);
        if ($found === [] || $case->table->rows() < 1000) {
            return [];
        }

        return [
            new LayoutFinding(
                $this->id(),
                $case->table->name,
                false,
                "{$case->table->name} is joined by columns of another type",
                array_map(
                    static fn (string $key, array $one): array => [
                        $key,
                        Quantity::count((int) $one[0]).' executions and '.Quantity::duration($one[1]).' a week',
                    ],
                    array_keys($found),
                    $found,
                ),
            ),
        ];
    }
}
