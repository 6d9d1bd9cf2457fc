<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * Where the time of a recorded run went.
 */
final readonly class RunTimes
{
    public function __construct(
        /** Worker time of all tasks. */
        public int $workUs,
        /** Length of the critical path. */
        public int $spanUs,
        public int $elapsedUs,
        /** Time ready tasks waited for a worker, summed. */
        public int $queueUs,
        public int $lostUs,
        public int $startUpUs,
        public int $overheadUs,
    ) {
    }
}
