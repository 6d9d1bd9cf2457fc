<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Jobs;

/**
 * What the tasks of a stage do, and how much each has to read.
 */
final readonly class StagePlan
{
    /**
     * @param  array<string, string>  $after by stage: "all" of its tasks, the "same" part, or the parts that "fold" into one
     * @param  array{int, int}  $lines of the script
     */
    public function __construct(
        public string $id,
        public string $name,
        public int $tasks,
        public array $after,
        public float $mibPerTask,
        public float $msPerMib,
        public float $fixedMs = 200.0,
        /** Standard deviation of the logarithm of what tasks read: 0.2 is even, 1 is uneven. */
        public float $uneven = 0.2,
        /** Share of all that is to be read which the first task has. */
        public float $giant = 0.0,
        public float $written = 0.3,
        public int $rowsPerMib = 9000,
        /** What does not fit is written aside. */
        public float $memoryMib = 4096.0,
        public string $input = '',
        public array $lines = [0, 0],
    ) {
    }

    /**
     * @param  array<string, mixed>  $plan
     */
    public static function fromArray(array $plan): self
    {
        return new self(...$plan);
    }

    /**
     * @return array<string, mixed>
     */
    public function toArray(): array
    {
        return get_object_vars($this);
    }
}
