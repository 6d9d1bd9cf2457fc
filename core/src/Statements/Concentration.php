<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statements;

/**
 * How few of many make the bulk of a sum.
 */
final class Concentration
{
    /**
     * @param  list<int>  $parts
     * @return array{few: int, share: float} smallest number of parts that reach $bulk of the sum, and what they reach
     */
    public static function of(array $parts, float $bulk): array
    {
        rsort($parts);
        $sum = array_sum($parts);
        $reached = 0;
        foreach ($parts as $i => $part) {
            $reached += $part;
            if ($sum > 0 && $reached >= $bulk * $sum) {
                return ['few' => $i + 1, 'share' => $reached / $sum];
            }
        }

        return ['few' => 0, 'share' => 0.0];
    }
}
