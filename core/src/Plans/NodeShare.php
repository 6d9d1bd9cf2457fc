<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans;

/**
 * What one node did in one step.
 */
final readonly class NodeShare
{
    public function __construct(
        public int $rowsIn,
        public int $rowsOut,
        public int $bytesRead,
        public int $bytesSent,
        public int $memoryPeak,
        public int $ownUs,
    ) {
    }
}
