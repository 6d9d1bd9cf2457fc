<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans;

/**
 * What a plan step read of what its table has. Null means not known.
 */
final readonly class StepReads
{
    public function __construct(
        public ?int $chunks = null,
        public ?int $chunksTotal = null,
        public ?int $partitions = null,
        public ?int $partitionsTotal = null,
        public ?int $bytes = null,
        public ?int $bytesTotal = null,
    ) {
    }
}
