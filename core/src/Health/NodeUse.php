<?php

declare(strict_types=1);

namespace Fulcrion\Core\Health;

/**
 * What a node did in an interval.
 */
final readonly class NodeUse
{
    /**
     * @param  float  $userSeconds of all its processors together, like those below
     */
    public function __construct(
        public float $userSeconds,
        public float $systemSeconds,
        public float $waitSeconds,
        public float $idleSeconds,
        public float $bytesRead,
        public float $bytesWritten,
        public float $diskSeconds,
        public float $bytesIn,
        public float $bytesOut,
        public float $memoryBytes,
    ) {
    }
}
