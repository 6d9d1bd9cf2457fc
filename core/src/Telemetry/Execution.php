<?php

declare(strict_types=1);

namespace Fulcrion\Core\Telemetry;

/**
 * One run of a statement, as docs/formats/execution.md describes it. Null means the source did not say.
 */
final readonly class Execution
{
    /**
     * @param  int  $startedAtUs when it was submitted, microseconds since 1970-01-01 UTC
     * @param  int  $durationUs from submission to the last row; time queued and locked is part of it
     * @param  array<array-key, scalar|null>|null  $binds
     */
    public function __construct(
        public int $startedAtUs,
        public int $durationUs,
        public string $sql,
        public ExecutionOrigin $origin = new ExecutionOrigin(),
        public ExecutionOutcome $outcome = new ExecutionOutcome(),
        public ExecutionTimes $times = new ExecutionTimes(),
        public ExecutionWork $work = new ExecutionWork(),
        public ?array $binds = null,
        public ?string $planRef = null,
    ) {
    }

    /**
     * Bits of Fact for what the source said.
     */
    public function facts(): int
    {
        [$work, $times] = [$this->work, $this->times];

        return Fact::DURATIONS |
            ($times->lockUs === null ? 0 : Fact::LOCK) |
            ($times->cpuUs === null ? 0 : Fact::CPU) |
            ($times->queuedUs === null ? 0 : Fact::QUEUED) |
            ($work->rowsReturned === null ? 0 : Fact::ROWS_RETURNED) |
            ($work->rowsExamined === null ? 0 : Fact::ROWS_EXAMINED) |
            ($work->rowsAffected === null ? 0 : Fact::ROWS_AFFECTED) |
            ($work->bytesScanned === null ? 0 : Fact::BYTES_SCANNED) |
            ($work->bytesSpilled === null ? 0 : Fact::BYTES_SPILLED) |
            ($work->tmpTablesMemory === null ? 0 : Fact::TMP_MEMORY) |
            ($work->tmpTablesDisk === null ? 0 : Fact::TMP_DISK) |
            ($work->sortMergePasses === null ? 0 : Fact::SORT_PASSES) |
            ($work->fullScan === null ? 0 : Fact::FULL_SCAN) |
            ($work->indexUsed === null ? 0 : Fact::INDEX) |
            ($this->outcome->warningCount === null ? 0 : Fact::WARNINGS);
    }

    /**
     * Eight bytes that tell this record from others (xxh3 over what was measured), the same whatever the file format.
     */
    public function identity(): string
    {
        [$origin, $work] = [$this->origin, $this->work];

        return hash(
            'xxh3',
            "{$this->startedAtUs}|{$this->durationUs}|{$work->rowsReturned}|{$work->rowsExamined}|{$work->bytesScanned}|".
                "{$this->outcome->status->value}|{$origin->database}|{$origin->user}|{$origin->application}|{$origin->clientHost}|".
                $this->sql,
            true,
        );
    }
}
