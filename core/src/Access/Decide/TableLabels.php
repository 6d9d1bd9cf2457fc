<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

/**
 * The labels in force on a table and its columns. Columns with the same labels share a number.
 */
final readonly class TableLabels
{
    /**
     * @param  array<string, string>  $table key => value
     * @param  int  $ownShape the same for tables with the same labels on themselves, and for columns with these labels
     * @param  int  $tableShape the same for tables with the same labels on themselves and on any column
     * @param  array<string, array<string, string>>  $columns only those that differ from the table
     * @param  array<string, int>  $shapes of these columns
     * @param  array<string, true>  $columnKeys keys on any column
     */
    public function __construct(
        public array $table,
        public int $ownShape,
        public int $tableShape,
        public array $columns,
        public array $shapes,
        public array $columnKeys,
    ) {
    }

    /** Whether the labels are the same; the numbers of shapes are those of one policy and say nothing here. */
    public function same(self $other): bool
    {
        return $this->table === $other->table && $this->columns === $other->columns;
    }
}
