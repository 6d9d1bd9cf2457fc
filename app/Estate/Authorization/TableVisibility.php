<?php

declare(strict_types=1);

namespace App\Estate\Authorization;

/**
 * What one person may be shown of what the system has read of a cluster.
 */
interface TableVisibility
{
    /**
     * Whether all values of all rows of a table are open.
     *
     * @param  string  $table schema.table
     */
    public function isPlain(string $table): bool;

    /** Whether all values of a column are open, in all rows. */
    public function seesColumn(string $table, string $column): bool;
}
