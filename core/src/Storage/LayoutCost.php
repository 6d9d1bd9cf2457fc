<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * What a week of the workload takes of one table, modelled. Bytes are those stored, not those of the modelled cluster.
 */
final readonly class LayoutCost
{
    /**
     * @param  float  $us of reading the table, and of what goes between nodes for it
     * @param  float  $joins executions that join, and below how many of them find all on the node
     * @param  array<string, float>  $eachBytes bytes one execution of a statement reads, by statement
     * @param  float  $packing bytes a row takes over those it takes now
     */
    public function __construct(
        public float $us,
        public float $bytes,
        public float $sentBytes,
        public float $joins,
        public float $localJoins,
        public array $eachBytes,
        public float $packing,
    ) {
    }
}
