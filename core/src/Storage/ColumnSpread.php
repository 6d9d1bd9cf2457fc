<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * How the rows of a table would lie on the nodes by the hash of a column; counted on the data.
 */
final readonly class ColumnSpread
{
    /**
     * @param  list<array{int|float|string|bool|null, int}>  $heavy value, rows; most first
     * @param  list<int>  $nodeRows
     */
    public function __construct(
        public string $column,
        public int $rows,
        public int $distinct,
        public array $heavy,
        public array $nodeRows,
    ) {
    }

    /**
     * @param  array<int|string, int>  $counts value as a key => rows
     * @param  callable(int|string): (int|float|string|bool|null)  $value of a key
     */
    public static function of(string $column, array $counts, callable $value, int $nodes): self
    {
        $nodeRows = array_fill(0, max(1, $nodes), 0);
        foreach ($counts as $key => $count) {
            $nodeRows[Distribution::node([$value($key)], $nodes)] += $count;
        }
        arsort($counts);
        $heavy = [];
        foreach (array_slice($counts, 0, 5, true) as $key => $count) {
            $heavy[] = [$value($key), $count];
        }

        return new self($column, array_sum($counts), count($counts), $heavy, array_values($nodeRows));
    }

    public function skew(): float
    {
        return $this->rows === 0 ? 1.0 : max([0, ...$this->nodeRows]) / ($this->rows / count($this->nodeRows));
    }
}
