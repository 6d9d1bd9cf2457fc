<?php

declare(strict_types=1);

namespace Fulcrion\Core\Telemetry;

/**
 * How a run of a statement ended.
 */
final readonly class ExecutionOutcome
{
    /**
     * @param  list<string>  $warnings texts
     */
    public function __construct(
        public Status $status = Status::Ok,
        public ?string $error = null,
        public ?int $warningCount = null,
        public array $warnings = [],
    ) {
    }
}
