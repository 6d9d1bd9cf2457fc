<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * The workers of a recorded run.
 */
final readonly class RunWorkers
{
    public function __construct(
        /** Most tasks that could have run at once. */
        public int $width,
        public int $reserved,
        public int $mostUsed,
        /** Worker time paid and not used, as a share. */
        public float $idleShare,
    ) {
    }
}
