<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * What a record says of a whole run of a job. Times are microseconds since 1970 UTC; -1 where not known.
 */
final readonly class JobHead
{
    public function __construct(
        /** Tells runs apart. */
        public string $id,
        public string $name,
        public string $owner,
        public string $cluster,
        public int $submittedUs,
        public int $startedUs,
        public int $endedUs,
        public JobState $state,
        public string $script,
        /** Workers reserved; 0 where not known. */
        public int $workers,
        /** Of one worker for an hour; null where not known. */
        public ?float $workerPrice,
        public string $currency,
        /** When it should have ended; -1 for whenever. */
        public int $deadlineUs,
        /** Whether its times come of a model. */
        public bool $modelled,
    ) {
    }
}
