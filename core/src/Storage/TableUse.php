<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * What one statement does with one table.
 */
final readonly class TableUse
{
    /**
     * @param  string  $table schema.table
     * @param  list<Predicate>  $predicates all of which a row has to meet
     * @param  array<string, string>  $wrapped column => the expression that hides it from bounds
     * @param  list<JoinUse>  $joins
     * @param  list<string>  $grouped columns
     * @param  list<string>  $columns all that are read
     */
    public function __construct(
        public string $table,
        public array $predicates,
        public array $wrapped,
        public array $joins,
        public array $grouped,
        public array $columns,
        public bool $writes = false,
    ) {
    }

    /**
     * @return list<string>
     */
    public function filtered(): array
    {
        return array_values(
            array_unique([...array_map(static fn (Predicate $p): string => $p->column, $this->predicates), ...array_keys($this->wrapped)]),
        );
    }
}
