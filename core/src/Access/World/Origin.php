<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\World;

/**
 * A table whose rows flowed into another one: what of it stands where. A table is as closed as all its origins.
 */
final readonly class Origin
{
    /**
     * @param  string  $path cluster.schema.table the rows came from; the table's own path where columns flowed into each other
     * @param  array<string, array<string, bool>>  $columns own column => column of the origin => whether the value is the same
     * @param  list<string>  $conditions columns of the origin that decided which rows there are
     * @param  bool  $former whether it is not another table but a name this one had
     */
    public function __construct(
        public string $path,
        public array $columns,
        public array $conditions = [],
        public bool $former = false,
    ) {
    }

    /** The column that holds a column of the origin unchanged; null where none does. */
    public function copyOf(string $column): ?string
    {
        foreach ($this->columns as $own => $sources) {
            if (($sources[$column] ?? false) && count($sources) === 1) {
                return (string) $own;
            }
        }

        return null;
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
