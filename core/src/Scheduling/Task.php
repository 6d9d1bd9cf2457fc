<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * One task as a record tells it. Times are microseconds since 1970 UTC; -1 where something is not known.
 */
final readonly class Task
{
    /** Figures of a task beside its times, as formats name them. */
    public const FIGURES = ['rows_read', 'rows_written', 'bytes_read', 'bytes_written', 'bytes_spilled', 'cpu_us', 'peak_bytes', 'lost_us'];

    /**
     * @param  list<string>|null  $after ids of tasks it waits for; null where the record names none, so that those of its stage hold
     * @param  list<string>|null  $afterStages
     * @param  array<string, int>  $figures those of FIGURES that are known
     */
    public function __construct(
        public string $id,
        public string $stage,
        public ?array $after,
        public ?array $afterStages,
        public int $queuedUs,
        public int $startedUs,
        public int $endedUs,
        public string $worker,
        public int $attempts,
        public TaskState $state,
        public array $figures,
    ) {
    }
}
