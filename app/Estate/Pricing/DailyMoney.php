<?php

declare(strict_types=1);

namespace App\Estate\Pricing;

use App\Estate\Models\Cluster;
use Fulcrion\Core\Forecast\DailySeries;

/**
 * What clusters cost day by day, for capabilities that say how it goes on.
 */
interface DailyMoney
{
    /** What amounts of a cluster are in; of all of them where none is given. */
    public function currency(?Cluster $cluster): string;

    /**
     * Up to yesterday.
     *
     * @return array{DailySeries|null, array<string, DailySeries>} of all, idle time included, null where nothing is known; and by team
     */
    public function series(?Cluster $cluster, int $now): array;

    /**
     * What was paid for in the last four weeks at the prices now in force, those that make up most first.
     *
     * @return list<PricedPart>
     */
    public function parts(?Cluster $cluster, int $now): array;
}
