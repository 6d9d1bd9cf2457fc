<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Encodings;

/**
 * All rows of one node and partition of a table, or of a file.
 */
final readonly class Place
{
    /**
     * @param  array<string, list<int|float|string|bool|null>>  $columns
     */
    public function __construct(public array $columns)
    {
    }

    public function rows(): int
    {
        return $this->columns === [] ? 0 : count($this->columns[array_key_first($this->columns)]);
    }

    /**
     * @param  list<string>  $by
     */
    public function sorted(array $by): self
    {
        if ($by === []) {
            return $this;
        }
        $order = (new \Fulcrion\Core\Storage\Clustering($by))->order(array_map(fn (string $name): array => $this->columns[$name], $by));

        return new self(array_map(static fn (array $values): array => array_map(static fn (int $i) =>
            $values[$i], $order), $this->columns));
    }

    public function part(int $from, int $rows): self
    {
        return new self(array_map(static fn (array $values): array => array_slice($values, $from, $rows), $this->columns));
    }
}
