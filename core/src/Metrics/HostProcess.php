<?php

declare(strict_types=1);

namespace Fulcrion\Core\Metrics;

/**
 * A process of a host.
 */
final readonly class HostProcess
{
    /**
     * @param  float  $cpuSeconds it has had so far, in itself and in the system for it
     */
    public function __construct(public int $pid, public string $name, public float $cpuSeconds, public int $residentBytes)
    {
    }
}
