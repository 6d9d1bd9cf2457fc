<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * Rows drawn from a table, by column.
 */
final readonly class Sample
{
    /**
     * @param  array<string, list<int|float|string|bool|null>>  $columns all of the same length
     */
    public function __construct(
        public array $columns,
        /** Rows of the table it was drawn from. */
        public int $of,
    ) {
    }

    /** Every so manieth row, so that about as many are left. */
    public function thinned(int $rows): self
    {
        $step = (int) ceil($this->rows() / max(1, $rows));
        if ($step < 2) {
            return $this;
        }
        $columns = [];
        foreach ($this->columns as $name => $values) {
            $kept = [];
            for ($i = 0; $i < count($values); $i += $step) {
                $kept[] = $values[$i];
            }
            $columns[$name] = $kept;
        }

        return new self($columns, $this->of);
    }

    public function rows(): int
    {
        return $this->columns === [] ? 0 : count($this->columns[array_key_first($this->columns)]);
    }

    /**
     * @return list<int|float|string|bool|null>
     */
    public function column(string $name): array
    {
        return $this->columns[$name] ?? array_fill(0, $this->rows(), null);
    }
}
