<?php

declare(strict_types=1);

namespace App\Cost\Application;

use App\Estate\Models\Cluster;
use App\Estate\Pricing\WrittenFlows;
use Fulcrion\Core\Cost\PriceKind;
use Fulcrion\Core\Usage\Days;

/**
 * Quantities that were written down for the price book, day by day.
 */
final readonly class QuantityFlows implements WrittenFlows
{
    public function daily(Cluster $cluster, PriceKind $kind, Days $days): array
    {
        $daily = array_fill_keys($days->starts(), 0.0);
        foreach (Quantities::rows($cluster) as $row) {
            if ($row->kind !== $kind->value || $row->to_at === null) {
                continue;
            }
            $part = (float) $row->quantity / max(1, intdiv((int) $row->to_at - (int) $row->from_at, Days::DAY));
            for ($day = max($days->from, (int) $row->from_at); $day < min($days->to, (int) $row->to_at); $day += Days::DAY) {
                $daily[$day] += $part;
            }
        }

        return $daily;
    }
}
