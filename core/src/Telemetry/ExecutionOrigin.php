<?php

declare(strict_types=1);

namespace Fulcrion\Core\Telemetry;

/**
 * Where a run of a statement came from. Null means the source did not say; an empty text, that it named none.
 */
final readonly class ExecutionOrigin
{
    public function __construct(
        public ?string $cluster = null,
        public string $database = '',
        public string $user = '',
        public string $application = '',
        public string $clientHost = '',
        public ?string $queue = null,
    ) {
    }

    /** The same for all executions that came from the same place. */
    public function key(): string
    {
        return "{$this->database}\0{$this->user}\0{$this->application}\0{$this->clientHost}";
    }
}
