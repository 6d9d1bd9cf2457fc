<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * A number of workers that changes while the job runs.
 */
final readonly class ElasticPlan
{
    /**
     * @param  non-empty-list<array{int, int}>  $levels times from the start and how many workers from then on
     */
    public function __construct(
        public array $levels,
        public int $timeUs,
        /** Worker microseconds paid, with what is paid while workers come and until those that are to go have ended. */
        public int $paidUs,
        public int $tried,
    ) {
    }

    public function workerHours(): float
    {
        return $this->paidUs / 3.6e9;
    }
}
