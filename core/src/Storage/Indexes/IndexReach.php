<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Indexes;

/**
 * How a statement reaches into one table: what an index has to begin with, and what it could give for nothing.
 */
final readonly class IndexReach
{
    /**
     * @param  list<string>  $equal columns held to single values or to values of another table
     * @param  list<string>  $ranges columns held to a span
     * @param  list<string>  $order columns the rows are wanted in the order of, all in one direction
     * @param  list<string>  $grouped
     * @param  list<string>  $read all columns that are looked at
     * @param  array<string, list<string>>  $values of the equal columns, where they are written in the statement
     * @param  string  $alias what its columns are named by
     * @param  array<string, list<string>>  $joins of the equal columns those held to values of other tables only: column => their aliases
     * @param  list<string>  $after aliases it can only be read after: it is on the inner side of an outer join
     * @param  array<string, string>  $spans column held to a span => all conditions on it, as SQL
     */
    public function __construct(
        public string $table,
        public array $equal,
        public array $ranges,
        public array $order,
        public array $grouped,
        public array $read,
        public array $values = [],
        public string $alias = '',
        public array $joins = [],
        public array $after = [],
        public array $spans = [],
    ) {
    }

    /**
     * @return list<string> columns held to values that are known before any table is read
     */
    public function constants(): array
    {
        return array_values(array_filter($this->equal, fn (string $column): bool => ! isset($this->joins[$column])));
    }
}
