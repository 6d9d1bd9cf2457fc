<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Catalog;

use Fulcrion\Core\Catalog\ColumnType;

/**
 * A table or view of the catalog.
 */
final readonly class TableEntry
{
    /**
     * @param  string  $path cluster.schema.table
     * @param  array<string, ColumnType>  $columns name in small letters => type, in their order
     * @param  string|null  $view text of its CREATE VIEW; null for a table
     * @param  list<ColumnOrigin>  $origins tables its rows came from
     * @param  list<string>  $keys columns of which nearly every row has a value of its own
     */
    public function __construct(
        public string $path,
        public array $columns,
        public ?string $view = null,
        public array $origins = [],
        public array $keys = [],
    ) {
    }
}
