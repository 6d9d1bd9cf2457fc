<?php

declare(strict_types=1);

namespace App\Estate\Pricing;

use App\Estate\Models\Cluster;
use Fulcrion\Core\Cost\PriceKind;
use Fulcrion\Core\Usage\Days;

/**
 * What somebody wrote down of what is not counted with each execution, as hours of burst clusters.
 */
interface WrittenFlows
{
    /**
     * @return array<int, float> by day; of what was written down for several an even part
     */
    public function daily(Cluster $cluster, PriceKind $kind, Days $days): array;
}
