<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rules;

use Fulcrion\Core\Storage\HouseRule;
use Fulcrion\Core\Storage\LayoutFinding;
use Fulcrion\Core\Storage\StatementUse;
use Fulcrion\Core\Storage\TableCase;
use Fulcrion\Core\Storage\TableUse;
use Fulcrion\Core\Text\Quantity;

/**
 * What is never read still costs storage, loads and maintenance.
 */
final readonly class UnusedTable implements HouseRule
{
    public function id(): string
    {
        return 'unused-table';
    }

    public function title(): string
    {
        return 'A table nobody reads';
    }

    public function reason(): string
    {
        return 'What is never read still costs storage, loads and maintenance.';
    }

    public function guidance(): array
    {
        return [
            'No statement of the history read this table. It may be left over from work that ended, or be read by something that is not '
                .'watched.',
            'Ask its owner. Drop it, or dismiss this finding with the reason it is kept.',
        ];
    }

    public function thresholds(): array
    {
        return ['rows' => [1, 'stored rows from which a table counts']];
    }

    public function check(TableCase $case, array $thresholds): array
    {
        $table = $case->table;
        if (
            $case->estate->workload->statements === [] ||
            $table->rows() < $thresholds['rows'] ||
            $case->sum(static fn (TableUse $use): float => $use->writes ? 0.0 : 1.0) > 0 ||
            $case->estate->workload->mayRead($table->name)
        ) {
            return [];
        }
        $writes = count(
            array_filter($case->estate->workload->statements, static fn (StatementUse $s): bool => $s->of($table->name)?->writes === true),
        );

        return [
            new LayoutFinding(
                $this->id(),
                $table->name,
                false,
                "No statement of the history read {$table->name}",
                [
                    ['stored', Quantity::bytes($table->storedBytes() * $table->rowFactor)],
                    [
                        'written by',
                        $writes === 0 ? 'nothing either' : Quantity::count($writes).($writes === 1 ? ' statement' : ' statements'),
                    ],
                ],
                0.0,
                (float) $table->storedBytes() * $table->rowFactor,
            ),
        ];
    }
}
