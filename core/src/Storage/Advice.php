<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * A better way to lay a table out, and what that is worth. Bytes are those of the modelled cluster.
 */
final readonly class Advice
{
    /**
     * @param  list<array{string, string}>  $figures what it rests on, label and value
     * @param  list<string>  $worse what gets worse, in sentences
     * @param  list<string>  $statements to be run in order
     */
    public function __construct(
        /** compaction, clustering, partitions, distribution or statistics */
        public string $kind,
        /** Sentence: what to do. */
        public string $advice,
        public array $figures,
        /** Expected a week, modelled. */
        public float $savedBytes,
        public float $savedUs,
        /** Rewritten once. */
        public float $costBytes,
        public float $costUs,
        public array $worse,
        public ?TableDefinition $definition = null,
        public array $statements = [],
        /** False where the table is well as it is. */
        public bool $worthIt = true,
    ) {
    }
}
