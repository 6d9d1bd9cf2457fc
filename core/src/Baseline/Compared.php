<?php

declare(strict_types=1);

namespace Fulcrion\Core\Baseline;

use Fulcrion\Core\Statistics\Spread;

/**
 * Baselines held against each other.
 */
final class Compared
{
    /** Less than this part of the middle of the others is odd; hosts of one kind differ by a few percent. */
    private const LOW = 0.85;

    private const LEAST_OTHERS = 3;

    /**
     * Hosts whose hardware does less than that of the others.
     *
     * @param  array<string, array<string, float>>  $byHost values by resource
     * @return array<string, array<string, float>> part of the middle of the others, by host and resource
     */
    public static function low(array $byHost): array
    {
        $low = [];
        foreach ($byHost as $host => $values) {
            foreach ($values as $resource => $value) {
                $others = array_column(array_diff_key($byHost, [$host => true]), $resource);
                if (count($others) >= self::LEAST_OTHERS && $value < self::LOW * Spread::median($others)) {
                    $low[$host][$resource] = $value / Spread::median($others);
                }
            }
        }

        return $low;
    }
}
