<?php

declare(strict_types=1);

namespace App\Telemetry\Events;

use App\Estate\Models\Cluster;
use Fulcrion\Core\Sql\Fingerprint;
use Fulcrion\Core\Telemetry\Execution;

/**
 * Single runs of a live server were read, those of our own left out. What a listener makes of them must not keep the next ones from
 * being read.
 */
final readonly class RunsRead
{
    /**
     * @param  list<array{Execution, Fingerprint}>  $runs
     */
    public function __construct(public Cluster $cluster, public array $runs)
    {
    }
}
