<?php

declare(strict_types=1);

namespace App\Metrics\Events;

use App\Estate\Models\Cluster;

/**
 * An agent sent what the hardware of its host can do.
 */
final readonly class HostBaselineSent
{
    /**
     * @param  array<mixed>  $result as the agent has it: id, at_ms, state, outputs and notes
     */
    public function __construct(public Cluster $cluster, public string $host, public array $result)
    {
    }
}
