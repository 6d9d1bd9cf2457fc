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
 * A copy on every node stores the table once a node, and joins read it whole on each.
 */
final readonly class CopiedLarge implements HouseRule
{
    /** Rows of the modelled cluster from which a copied table is large. */
    public const ROWS = 20_000_000;

    public function id(): string
    {
        return 'copied-large';
    }

    public function title(): string
    {
        return 'Large table copied to every node';
    }

    public function reason(): string
    {
        return 'A copy on every node stores the table once a node, and joins read it whole on each.';
    }

    public function guidance(): array
    {
        return [
            'Copies on every node are meant for small tables that many others are joined with: they make those joins local. A large '
                .'table pays for that with its size times the nodes on disk, with loads that write everywhere, and with reads that one '
                .'node does alone while the others wait.',
            'Place it by the column it is joined by most. Joins with tables placed by the same column stay local; other joins send rows '
                .'between nodes, which the advice of the table counts against the gain.',
            'Keep the copy where the table is joined with many others by different columns and hardly ever read alone.',
        ];
    }

    public function thresholds(): array
    {
        return ['rows' => [self::ROWS, 'rows of the modelled cluster from which a copied table is large']];
    }

    public function check(TableCase $case, array $thresholds): array
    {
        $table = $case->table;
        if ($table->definition->distribution->kind !== Distribution::COPY || $case->modelledRows() < $thresholds['rows']) {
            return [];
        }
        $model = $case->model();
        $spread = (float) $table->nodes;
        $us = $case->byStatement(
            static fn (TableUse $use): float => $model->us($use, $model->share($use)) - $model->us($use, $model->share($use), $spread),
        );
        $waste = $table->bytes() * ($table->nodes - 1) * $table->rowFactor;

        return [
            new LayoutFinding(
                $this->id(),
                $table->name,
                true,
                "{$table->name} is copied to all {$table->nodes} nodes although it holds ".
                    Quantity::short($case->modelledRows()).
                    ' rows',
                [
                    [
                        'stored',
                        Quantity::bytes($table->storedBytes() * $table->rowFactor).
                        ' instead of '.
                        Quantity::bytes($table->bytes() * $table->rowFactor),
                    ],
                    ['joins read', 'all of it on every node instead of a part on each'],
                ],
                array_sum($us),
                (float) $waste,
                'distribution',
                byStatementUs: $us,
            ),
        ];
    }
}
