<?php

declare(strict_types=1);

namespace Fulcrion\Core\Health;

/**
 * What a node can do.
 */
final readonly class NodeShape
{
    public function __construct(
        public int $cores,
        public int $diskBytesPerSecond,
        public int $networkBytesPerSecond,
        public int $memoryBytes,
    ) {
    }
}
