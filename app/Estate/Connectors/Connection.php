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
     * @return list<array<string, string>> what is missing, what would help and what keeps it so
     */
    public function check(Cluster $cluster): array
    {
        $source = $this->clusters->as(Actor::system(SystemActor::Collector, 'a check of the connection'))->statements($cluster);

        // For the session of whoever asked, which keeps no objects.
        return array_map(
            static fn (Missing $one): array => ['problem' => $one->problem, 'remedy' => $one->remedy, 'keeps' => $one->keeps],
            $source?->check() ?? [],
        );
    }
}
