<?php

declare(strict_types=1);

namespace Fulcrion\Core\Cost;

/**
 * What teams reserved of a cluster and did not use, in millionths of the whole cluster for the whole time.
 */
final class Reserve
{
    public const WHOLE = 1_000_000;

    /**
     * A team uses of the cluster its part of the use, of the time in which something ran.
     *
     * @template K of array-key
     *
     * @param  array<K, int>  $reserved millionths by team
     * @param  array<array-key, int>  $follows use by team
     * @param  float  $busy share of the time in which something ran, from 0 to 1
     * @return array<K, int> millionths by team, of those that left some of it
     */
    public static function unused(array $reserved, array $follows, float $busy): array
    {
        $all = array_sum($follows);
        $unused = [];
        foreach ($reserved as $team => $part) {
            $used = $all <= 0 ? 0 : (int) round(self::WHOLE * min(1.0, max(0.0, $busy)) * max(0, $follows[$team] ?? 0) / $all);
            if ($part > $used) {
                $unused[$team] = $part - $used;
            }
        }

        return $unused;
    }
}
