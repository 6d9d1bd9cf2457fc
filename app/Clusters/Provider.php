<?php

declare(strict_types=1);

namespace App\Clusters;

use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;

/**
 * Pages on which clusters are connected, looked at and removed.
 */
final class Provider extends Capability
{
    protected function pages(): array
    {
        return [new Page(Bench::Tend, '', 'Clusters', 'cluster.index')];
    }
}
