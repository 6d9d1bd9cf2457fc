<?php

declare(strict_types=1);

namespace App\Estate\Pricing;

use App\Estate\Models\Cluster;
use Fulcrion\Core\Cost\Rates;

/**
 * What units of a cluster cost, for capabilities that tell time and bytes in money.
 */
interface MoneyRates
{
    /** @return Rates|null null where it has no price in force */
    public function of(Cluster $cluster): ?Rates;

    /** What amounts are in where no cluster says otherwise. */
    public function currency(): string;
}
