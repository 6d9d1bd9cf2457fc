<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rules;

use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\HouseRule;
use Fulcrion\Core\Storage\LayoutFinding;
use Fulcrion\Core\Storage\TableCase;
use Fulcrion\Core\Text\Quantity;

/**
 * Columns that are never read are loaded and stored all the same.
 */
final readonly class UnusedColumns implements HouseRule
{
    public function id(): string
    {
        return 'unused-columns';
    }

    public function title(): string
    {
        return 'Columns nobody reads';
    }

    public function reason(): string
    {
        return 'Columns that are never read are loaded and stored all the same.';
    }

    public function guidance(): array
    {
        return [
            'No statement of the history read these columns. Column storage makes them cheap to skip but not to load, copy and keep.',
            'Ask the owner before dropping any: a yearly report may be the one that reads them.',
        ];
    }

    public function thresholds(): array
    {
        return ['share' => [0.05, 'share of the bytes of the table they take']];
    }

    public function check(TableCase $case, array $thresholds): array
    {
        $table = $case->table;
        $read = $case->estate->workload->columns($table->name);
        $definition = $table->definition;
        // What rows are found by is of use though nobody names it.
        $placed = [
            ...$definition->distribution->columns,
            ...$definition->clustering,
            ...$definition->partitioning === null ? [] : [$definition->partitioning->column],
        ];
        if ($read === [] || $table->bytes() === 0 || $case->estate->workload->mayRead($table->name)) {
            return [];
        }
        $evidence = [];
        $sum = 0;
        foreach ($table->definition->columns as $i => $column) {
            if (! isset($read[$column->name]) && ! in_array($column->name, $placed, true)) {
                $bytes = array_sum(array_map(static fn (Chunk $chunk): int => $chunk->zones[$i]->bytes, $table->chunks));
                $sum += $bytes;
                $evidence[] = [$column->name, Quantity::bytes($bytes * $table->rowFactor)];
            }
        }

        return $sum / $table->bytes() < $thresholds['share'] || $evidence === []
            ? []
            : [
                new LayoutFinding(
                    $this->id(),
                    $table->name,
                    false,
                    (count($evidence) === 1 ? 'A column' : count($evidence).' columns').
                        " of {$table->name} were read by no statement of the history",
                    $evidence,
                    0.0,
                    (float) $sum * $table->rowFactor,
                ),
            ];
    }
}
