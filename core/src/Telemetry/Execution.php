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
     * @param  list<string>  $warnings texts
     * @param  array<array-key, scalar|null>|null  $binds
     */
    public function __construct(
        public int $startedAtUs,
        public int $durationUs,
        public string $sql,
        public ?string $cluster = null,
        public string $database = '',
        public string $user = '',
        public string $application = '',
        public string $clientHost = '',
        public ?string $queue = null,
        public Status $status = Status::Ok,
        public ?string $error = null,
        public ?int $rowsReturned = null,
        public ?int $rowsExamined = null,
        public ?int $rowsAffected = null,
        public ?int $bytesScanned = null,
        public ?int $bytesSpilled = null,
        public ?int $lockUs = null,
        public ?int $queuedUs = null,
        public ?int $cpuUs = null,
        public ?int $tmpTablesMemory = null,
        public ?int $tmpTablesDisk = null,
        public ?int $sortMergePasses = null,
        public ?bool $fullScan = null,
        public ?bool $indexUsed = null,
        public ?int $warningCount = null,
        public array $warnings = [],
        public ?array $binds = null,
        public ?string $planRef = null,
    ) {
    }

    /**
     * Bits of Fact for what the source said.
     */
    public function facts(): int
    {
        return Fact::DURATIONS |
            ($this->lockUs === null ? 0 : Fact::LOCK) |
            ($this->cpuUs === null ? 0 : Fact::CPU) |
            ($this->queuedUs === null ? 0 : Fact::QUEUED) |
            ($this->rowsReturned === null ? 0 : Fact::ROWS_RETURNED) |
            ($this->rowsExamined === null ? 0 : Fact::ROWS_EXAMINED) |
            ($this->rowsAffected === null ? 0 : Fact::ROWS_AFFECTED) |
            ($this->bytesScanned === null ? 0 : Fact::BYTES_SCANNED) |
            ($this->bytesSpilled === null ? 0 : Fact::BYTES_SPILLED) |
            ($this->tmpTablesMemory === null ? 0 : Fact::TMP_MEMORY) |
            ($this->tmpTablesDisk === null ? 0 : Fact::TMP_DISK) |
            ($this->sortMergePasses === null ? 0 : Fact::SORT_PASSES) |
            ($this->fullScan === null ? 0 : Fact::FULL_SCAN) |
            ($this->indexUsed === null ? 0 : Fact::INDEX) |
            ($this->warningCount === null ? 0 : Fact::WARNINGS);
    }

    /**
     * Eight bytes that tell this record from others (xxh3 over what was measured), the same whatever the file format.
     */
    public function identity(): string
    {
        return hash(
            'xxh3',
            "{$this->startedAtUs}|{$this->durationUs}|{$this->rowsReturned}|{$this->rowsExamined}|{$this->bytesScanned}|".
                "{$this->status->value}|{$this->database}|{$this->user}|{$this->application}|{$this->clientHost}|{$this->sql}",
            true,
        );
    }
}
