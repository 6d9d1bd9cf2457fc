<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * A number of workers, how long the job takes with it, and what is paid: all workers for all of the time.
 */
final readonly class CurvePoint
{
    public function __construct(public int $workers, public int $timeUs, public float $idleShare)
    {
    }

    public function workerHours(): float
    {
        return $this->workers * ($this->timeUs / 3.6e9);
    }
}
