<?php

declare(strict_types=1);

namespace Fulcrion\Core\Health;

/**
 * Executions of one statement from one origin in an interval: durations and bytes of those that began in it, times of all that were in
 * flight.
 */
final readonly class LoadRow
{
    public function __construct(
        public int $statement,
        public int $origin,
        public int $durationUs,
        public int $loadUs,
        public int $queuedUs,
        public int $cpuUs,
        public int $bytesRead,
        public int $bytesSpilled,
    ) {
    }

    public function key(): string
    {
        return "{$this->statement} {$this->origin}";
    }
}
