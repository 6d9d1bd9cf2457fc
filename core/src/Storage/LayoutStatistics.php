<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * What is known of the values of a table.
 */
final readonly class LayoutStatistics
{
    /**
     * @param  array<string, array{distinct: int, nullShare: float}>  $columns by column that has them
     */
    public function __construct(
        public array $columns = [],
        /** Null when never collected. */
        public ?int $ageUs = null,
        /** Rows changed since, as a share of those there were. */
        public float $changedShare = 0.0,
    ) {
    }
}
