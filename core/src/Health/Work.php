<?php

declare(strict_types=1);

namespace Fulcrion\Core\Health;

/**
 * What executions of one statement did in an interval.
 */
final readonly class Work
{
    /**
     * @param  int  $statement its number
     * @param  float  $runningUs time in flight without waiting in a queue
     */
    public function __construct(
        public int $statement,
        public float $runningUs,
        public float $processorUs,
        public float $bytesRead,
        public float $bytesSpilled,
    ) {
    }
}
