<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * Something odd in a record of a job: where, what, and what was done about it or should be.
 */
final readonly class JobProblem
{
    public function __construct(
        /** Line of the file or "record 17"; empty where it is about the whole. */
        public string $where,
        /** Task or stage. */
        public string $about,
        public string $field,
        public string $what,
        /** What was done about it, or what to do. */
        public string $remedy,
        /** Whether the job cannot be taken with it. */
        public bool $refuses,
    ) {
    }

    public function sentence(): string
    {
        return implode(
            ': ',
            array_filter(
                [$this->where, $this->about === '' ? '' : $this->about, trim("{$this->field} {$this->what}")],
                static fn (string $part): bool => $part !== '',
            ),
        ).
            '. '.
            $this->remedy;
    }
}
