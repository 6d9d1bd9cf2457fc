<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Storage;

use Fulcrion\Core\Catalog\ColumnStatistics;

/**
 * What was known of a table when its statistics were collected.
 */
final readonly class TableStatistics
{
    /**
     * @param  array<string, ColumnStatistics>  $columns
     */
    public function __construct(
        public int $collectedUs,
        public int $rows,
        /** Manifest::$rowsChanged at that moment. */
        public int $rowsChanged,
        public array $columns,
    ) {
    }
}
