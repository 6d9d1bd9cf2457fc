<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Models\Cluster;

/**
 * Whether a live server can be watched.
 */
final readonly class Connection
{
    public function __construct(private Clusters $clusters)
    {
    }

    /**
     * @return array<array-key, mixed> what was looked at and what came of it, as the connector tells
     */
    public function check(Cluster $cluster): array
    {
        return $this->clusters->as(Actor::system(SystemActor::Collector, 'a check of the connection'))->statements($cluster)?->check() ??
            [];
    }
}
