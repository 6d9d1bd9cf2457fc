<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rules;

use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\HouseRule;
use Fulcrion\Core\Storage\LayoutFinding;
use Fulcrion\Core\Storage\TableCase;
use Fulcrion\Core\Text\Quantity;

/**
 * NULL never joins; rows with it are carried along for nothing or lost without a word.
 */
final readonly class NullableJoinKey implements HouseRule
{
    public function id(): string
    {
        return 'nullable-join-key';
    }

    public function title(): string
    {
        return 'A join key may be null';
    }

    public function reason(): string
    {
        return 'NULL never joins; rows with it are carried along for nothing or lost without a word.';
    }

    public function guidance(): array
    {
        return [
            'A row without a key drops out of an inner join and stays unmatched in an outer one. All such rows hash alike and gather on '
                .'one node.',
            'Declare the column NOT NULL where every row has a key. Where some have none, say so in the statements: filter them out '
                .'before the join, or keep them apart.',
        ];
    }

    public function thresholds(): array
    {
        return ['executions' => [50, 'executions a week that join by the column']];
    }

    public function check(TableCase $case, array $thresholds): array
    {
        $evidence = [];
        foreach ($case->estate->workload->columns($case->table->name) as $name => $uses) {
            $column = $case->table->definition->column($name);
            if ($column === null || ! $column->nullable || $uses['join'] < $thresholds['executions']) {
                continue;
            }
            $number = $case->table->definition->index($column->name);
            $nulls = array_sum(array_map(static fn (Chunk $chunk): int => $chunk->zones[$number]->nullCount, $case->table->chunks));
            $evidence[] = [
                $column->name,
                ($nulls === 0 ? 'may be null though no row is' : Quantity::count($nulls).' rows are null').
                '; '.
                Quantity::count((int) $uses['join']).
                ' joins a week',
            ];
        }

        return $evidence === []
            ? []
            : [
                new LayoutFinding(
                    $this->id(),
                    $case->table->name,
                    false,
                    "{$case->table->name} is joined by ".
                        (count($evidence) === 1 ? 'a column' : count($evidence).' columns').
                        ' that may be null',
                    $evidence,
                ),
            ];
    }
}
