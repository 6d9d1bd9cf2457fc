<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * What work costs on one node of a cluster, in microseconds; for models of time. Rows and bytes are those stored.
 */
final readonly class ClusterRates
{
    public function __construct(
        public float $usPerRow,
        public float $usPerByteRead,
        public float $usPerByteSent,
        public float $usPerChunk = 0.0,
    ) {
    }
}
