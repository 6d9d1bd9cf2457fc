<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

/**
 * Where the rows of a step are.
 */
final readonly class Placement
{
    public const HASH = 'hash';

    public const EVEN = 'even';

    public const SINGLE = 'single';

    public const EVERYWHERE = 'everywhere';

    /**
     * @param  list<list<int>>  $keys of HASH: for each part of the key the columns that hold it, by id
     */
    public function __construct(public string $kind, public array $keys = [])
    {
    }

    /**
     * Whether all rows that agree in these columns are on one node.
     *
     * @param  array<int, mixed>  $ids
     */
    public function gathers(array $ids): bool
    {
        if ($this->kind === self::SINGLE) {
            return true;
        }
        if ($this->kind !== self::HASH) {
            return false;
        }
        foreach ($this->keys as $part) {
            if (array_intersect_key(array_flip($part), $ids) === []) {
                return false;
            }
        }

        return true;
    }

    /**
     * The same after columns were renamed or dropped.
     *
     * @param  array<int, list<int>>  $names id before => ids after
     */
    public function renamed(array $names): self
    {
        if ($this->kind !== self::HASH) {
            return $this;
        }
        $keys = [];
        foreach ($this->keys as $part) {
            $after = array_merge([], ...array_map(static fn (int $id): array => $names[$id] ?? [], $part));
            if ($after === []) {
                return new self(self::EVEN);
            }
            $keys[] = $after;
        }

        return new self(self::HASH, $keys);
    }
}
