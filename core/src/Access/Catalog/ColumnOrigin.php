<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Catalog;

/**
 * A table whose rows flowed into another one: what of it stands where. A table is as closed as all its origins.
 */
final readonly class ColumnOrigin
{
    /**
     * @param  string  $path cluster.schema.table the rows came from; the table's own path where columns flowed into each other
     * @param  array<string, array<string, bool>>  $columns own column => column of the origin => whether the value is the same
     * @param  list<string>  $conditions columns of the origin that decided which rows there are
     * @param  array<string, string>  $row own column => column of the origin: those by which the row is known, because all that
     *                                     came from the origin came from the one row that has these values
     * @param  bool  $former whether it is not another table but a name this one had
     */
    public function __construct(
        public string $path,
        public array $columns,
        public array $conditions = [],
        public array $row = [],
        public bool $former = false,
    ) {
    }

    /** The column that says what stands in a column of the origin, in the row everything came from; null where none does. */
    public function rowColumn(string $column): ?string
    {
        $own = array_search($column, $this->row, true);

        return $own === false ? null : (string) $own;
    }

    /**
     * @return list<string> columns of the origin that anything here depends on
     */
    public function sources(): array
    {
        $found = array_fill_keys($this->conditions, true);
        foreach ($this->columns as $sources) {
            $found += $sources;
        }

        return array_map(strval(...), array_keys($found));
    }
}
