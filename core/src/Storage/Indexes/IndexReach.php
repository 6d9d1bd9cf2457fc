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
     */
    public function __construct(
        public string $table,
        public array $equal,
        public array $ranges,
        public array $order,
        public array $grouped,
        public array $read,
        public array $values = [],
    ) {
    }
}
