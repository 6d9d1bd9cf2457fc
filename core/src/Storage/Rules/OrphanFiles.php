<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rules;

use Fulcrion\Core\Storage\HouseRule;
use Fulcrion\Core\Storage\LayoutFinding;
use Fulcrion\Core\Storage\TableCase;
use Fulcrion\Core\Text\Quantity;

/**
 * Writers that were killed leave files behind.
 */
final readonly class OrphanFiles implements HouseRule
{
    public function id(): string
    {
        return 'orphan-files';
    }

    public function title(): string
    {
        return 'Files no version needs';
    }

    public function reason(): string
    {
        return 'Writers that were killed leave files behind.';
    }

    public function guidance(): array
    {
        return [
            'A writer makes its files first and publishes them last. One that dies in between leaves files that belong to nothing. They '
                .'are never read, but they are kept.',
            'Sweep them. Files younger than an hour may belong to a writer that is still at work and are left alone.',
        ];
    }

    public function thresholds(): array
    {
        return ['files' => [1, 'files']];
    }

    public function check(TableCase $case, array $thresholds): array
    {
        $table = $case->table;

        return $table->history->orphanFiles < $thresholds['files']
            ? []
            : [
                new LayoutFinding(
                    $this->id(),
                    $table->name,
                    false,
                    "{$table->history->orphanFiles} files of {$table->name} belong to no version",
                    [['they take', Quantity::bytes($table->history->orphanBytes * $table->rowFactor)]],
                    0.0,
                    (float) $table->history->orphanBytes * $table->rowFactor,
                    'sweep',
                    ["MAINTAIN TABLE {$table->path()} WITH (action = sweep)"],
                ),
            ];
    }
}
