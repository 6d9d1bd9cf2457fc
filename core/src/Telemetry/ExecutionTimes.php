<?php

declare(strict_types=1);

namespace Fulcrion\Core\Telemetry;

/**
 * Parts of the time a run of a statement took. Null means the source did not say.
 */
final readonly class ExecutionTimes
{
    public function __construct(public ?int $lockUs = null, public ?int $queuedUs = null, public ?int $cpuUs = null)
    {
    }
}
