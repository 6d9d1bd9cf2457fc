<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Estate\Models\Cluster;

/**
 * Which connector serves a cluster, by ability. Null means the cluster lacks the ability.
 */
class Connectors
{
    public function statements(Cluster $cluster): ?StatementSource
    {
        return $cluster->connector === 'mariadb' ? new MariaDbSource($cluster) : null;
    }
}
