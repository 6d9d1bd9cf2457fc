<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

/**
 * Some rows, column by column.
 */
final readonly class Batch
{
    /**
     * @param  array<int, list<int|float|string|bool|null>>  $columns by id
     */
    public function __construct(public int $rows, public array $columns)
    {
    }

    /**
     * @param  list<int>  $rows numbers of the rows to take
     */
    public function take(array $rows): self
    {
        $columns = [];
        foreach ($this->columns as $id => $values) {
            $taken = [];
            foreach ($rows as $row) {
                $taken[] = $values[$row];
            }
            $columns[$id] = $taken;
        }

        return new self(count($rows), $columns);
    }

    /** Bytes the rows take on their way or in memory. */
    public function bytes(): int
    {
        $bytes = 0;
        foreach ($this->columns as $values) {
            $first = $values[0] ?? null;
            $bytes += is_string($first)
                ? strlen(implode('', $values)) + 4 * $this->rows
                : ($first === null && $this->rows > 0
                    ? self::mixed($values)
                    : 8 * $this->rows);
        }

        return $bytes;
    }

    /**
     * @param  iterable<self>  $batches
     * @param  list<int>  $ids
     */
    public static function all(iterable $batches, array $ids): self
    {
        $columns = array_fill_keys($ids, []);
        $rows = 0;
        foreach ($batches as $batch) {
            foreach ($ids as $id) {
                if ($rows === 0) {
                    $columns[$id] = $batch->columns[$id];
                } else {
                    foreach ($batch->columns[$id] as $value) {
                        $columns[$id][] = $value;
                    }
                }
            }
            $rows += $batch->rows;
        }

        return new self($rows, $columns);
    }

    /**
     * @param  list<int|float|string|bool|null>  $values
     */
    private static function mixed(array $values): int
    {
        $bytes = 0;
        foreach ($values as $value) {
            $bytes += is_string($value) ? strlen($value) + 4 : 8;
        }

        return $bytes;
    }
}
