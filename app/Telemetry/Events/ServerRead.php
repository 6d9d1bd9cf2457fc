<?php

declare(strict_types=1);

namespace App\Telemetry\Events;

use App\Estate\Models\Cluster;

/**
 * A live server answered and was read. What a listener makes of it must not keep the next ones from being read.
 */
final readonly class ServerRead
{
    public function __construct(public Cluster $cluster)
    {
    }
}
