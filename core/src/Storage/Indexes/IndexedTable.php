<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Indexes;

/**
 * A table with its indexes and what is known of its columns.
 */
final readonly class IndexedTable
{
    /**
     * @param  string  $name schema.table, small letters
     * @param  array<string, array{bytes: float, distinct: float|null, long: bool}>  $columns bytes of a value in an index,
     *     distinct values where known, whether it is too long for one
     * @param  list<Index>  $indexes
     * @param  list<non-empty-list<string>>  $foreign columns of foreign keys of it or to it, which need an index that begins with them
     */
    public function __construct(
        public string $name,
        public int $rows,
        public array $columns,
        public array $indexes,
        public array $foreign = [],
    ) {
    }

    /**
     * @param  array<string, float>  $distinct values of columns
     */
    public function with(array $distinct): self
    {
        $columns = $this->columns;
        foreach ($distinct as $name => $count) {
            if (isset($columns[$name])) {
                $columns[$name]['distinct'] = $count;
            }
        }

        return new self($this->name, $this->rows, $columns, $this->indexes, $this->foreign);
    }

    public function distinct(string $column): float
    {
        return max(1.0, min((float) max(1, $this->rows), $this->columns[$column]['distinct'] ?? 10.0));
    }

    /**
     * @return list<string> columns of the primary key, which each entry of every index ends with
     */
    public function primary(): array
    {
        foreach ($this->indexes as $index) {
            if ($index->isPrimary()) {
                return $index->columns;
            }
        }

        return [];
    }

    /** Bytes of an index, a primary key of eight bytes in each entry. */
    public function indexBytes(ProposedIndex|Index $index): float
    {
        $width = 8.0 + 4.0;
        foreach ($index->columns as $column) {
            $width += $this->columns[$column]['bytes'] ?? 8.0;
        }

        return $this->rows * $width * 1.4;
    }
}
