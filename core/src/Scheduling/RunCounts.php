<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * Tasks of a recorded run by how they ended.
 */
final readonly class RunCounts
{
    public function __construct(
        public int $tasks,
        public int $done,
        public int $failed,
        public int $retries,
    ) {
    }
}
