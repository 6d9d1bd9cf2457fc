<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

use Fulcrion\Core\Access\Catalog\TableEntry;
use Fulcrion\Core\Access\Policy\RowFilter;

/**
 * What somebody sees of a table.
 */
final readonly class TableAccess
{
    /**
     * @param  array<string, ColumnAccess>  $columns by name
     * @param  array<string, RowFilter>  $filters by the name of their rule
     * @param  int  $privileges bits of those held on the table
     * @param  list<Cause>  $errors of rules that cannot be evaluated; each has closed the table
     */
    public function __construct(
        public TableEntry $table,
        public array $columns,
        public array $filters,
        public int $privileges,
        public array $errors,
    ) {
    }

    public function isClosed(): bool
    {
        foreach ($this->columns as $access) {
            if ($access->sight !== Sight::Denied && $access->sight !== Sight::Hidden) {
                return false;
            }
        }

        return true;
    }
}
