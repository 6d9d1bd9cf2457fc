<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rules;

use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Core\Storage\HouseRule;
use Fulcrion\Core\Storage\LayoutFinding;
use Fulcrion\Core\Storage\TableCase;
use Fulcrion\Core\Storage\TableUse;
use Fulcrion\Core\Text\Quantity;

/**
 * A statement is as slow as its fullest node.
 */
final readonly class Skew implements HouseRule
{
    public function id(): string
    {
        return 'skew';
    }

    public function title(): string
    {
        return 'Rows lie unevenly over the nodes';
    }

    public function reason(): string
    {
        return 'A statement is as slow as its fullest node.';
    }

    public function guidance(): array
    {
        return [
            'Rows are put on nodes by the hash of the distribution column. Few distinct values, or one very frequent value, fill one '
                .'node and leave others idle: every read of the table waits for the full one.',
            'Choose a column with many values of about equal frequency, best one the table is joined by. The page of the table counts '
                .'how the rows would lie by each candidate and which values weigh most.',
            'Spreading rows evenly in turn has no skew at all but makes no join local.',
        ];
    }

    public function thresholds(): array
    {
        return [
            'skew' => [1.5, 'rows of the fullest node over the mean of all'],
            'rows' => [20000, 'stored rows below which skew does not matter'],
        ];
    }

    public function check(TableCase $case, array $thresholds): array
    {
        $table = $case->table;
        $skew = $table->skew();
        if (
            $table->nodes < 2 ||
            $table->definition->distribution->kind === Distribution::COPY ||
            $table->rows() < $thresholds['rows'] ||
            $skew < $thresholds['skew']
        ) {
            return [];
        }
        $model = $case->model();
        $us = $case->byStatement(static fn (TableUse $use): float => $model->us($use, $model->share($use)) * (1 - 1 / $skew));
        $rows = $table->rowsByNode();
        $fullest = (int) array_search(max([0, ...$rows]), $rows, true);

        return [
            new LayoutFinding(
                $this->id(),
                $table->name,
                true,
                "{$table->name} is placed {$table->definition->distribution->describe()}, and node ".
                    ($fullest + 1).
                    ' holds '.
                    Quantity::percent(max([0, ...$rows]) / max(1, $table->rows())).
                    ' of its rows',
                [
                    ['skew', Quantity::digits($skew).' times the mean'],
                    [
                        'idle nodes',
                        Quantity::count(count(array_filter($rows, static fn (int $count): bool => $count === 0))).
                        ' of '.
                        $table->nodes.
                        ' hold no row',
                    ],
                ],
                array_sum($us),
                0.0,
                'distribution',
                byStatementUs: $us,
            ),
        ];
    }
}
