<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * How much sooner a job would end if something about it were otherwise.
 */
final readonly class WhatIf
{
    public function __construct(
        /** less, stragglers, even or retries. */
        public string $kind,
        /** Number of the stage; -1 for all of the job. */
        public int $stage,
        public int $timeUs,
        public int $savedUs,
        /** Worker time the tasks would take less. */
        public int $workSavedUs,
    ) {
    }
}
