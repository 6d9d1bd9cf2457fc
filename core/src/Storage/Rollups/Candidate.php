<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rollups;

/**
 * A rollup that could be made.
 */
final readonly class Candidate
{
    /**
     * @param  list<Dimension>  $dimensions
     * @param  array<int, float>  $costs number of a use it can answer => modelled time of one execution
     */
    public function __construct(
        public array $dimensions,
        public float $rows,
        /** Stored bytes of one copy. */
        public float $bytes,
        public array $costs,
        /** Modelled time a week to keep it up to its table. */
        public float $keepUs = 0.0,
    ) {
    }

    public function key(): string
    {
        return implode(',', array_map(static fn (Dimension $d): string => $d->key(), $this->dimensions));
    }
}
