<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * Moments of a recorded run that cannot all be right.
 */
final readonly class ClockFaults
{
    public function __construct(
        /** Tasks that began before what they wait for had ended: clocks of workers differ. */
        public int $early,
        public int $earliestUs,
        public string $earliestTask,
        /** Tasks that ran beside another of the same worker. */
        public int $overlapping,
        public string $overlapTask,
    ) {
    }
}
