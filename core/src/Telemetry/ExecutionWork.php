<?php

declare(strict_types=1);

namespace Fulcrion\Core\Telemetry;

/**
 * What a run of a statement had to do. Null means the source did not say.
 */
final readonly class ExecutionWork
{
    public function __construct(
        public ?int $rowsReturned = null,
        public ?int $rowsExamined = null,
        public ?int $rowsAffected = null,
        public ?int $bytesScanned = null,
        public ?int $bytesSpilled = null,
        public ?int $tmpTablesMemory = null,
        public ?int $tmpTablesDisk = null,
        public ?int $sortMergePasses = null,
        public ?bool $fullScan = null,
        public ?bool $indexUsed = null,
    ) {
    }
}
