<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * Something wrong with how a job runs, with what shows it.
 */
final readonly class Diagnosis
{
    /**
     * @param  list<array{string, string}>  $evidence label and value
     */
    public function __construct(
        public string $rule,
        /** Number of the stage; -1 for all of the job. */
        public int $stage,
        public bool $act,
        public string $problem,
        public array $evidence,
        public string $remedy,
    ) {
    }
}
