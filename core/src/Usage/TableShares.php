<?php

declare(strict_types=1);

namespace Fulcrion\Core\Usage;

/**
 * The use of a statement, shared among the tables it names.
 */
final readonly class TableShares
{
    /**
     * Each part is within one unit of its exact share, and all are the amount: the sums from the first part on are rounded, not the
     * parts.
     *
     * @param  non-empty-array<string, int|float>  $weights by table, none below zero
     * @return array<string, int> by table
     */
    public static function split(int $amount, array $weights): array
    {
        $whole = array_sum($weights);
        $parts = [];
        $sum = $before = 0.0;
        $last = array_key_last($weights);
        foreach ($weights as $table => $weight) {
            $sum += $weight;
            // Where no weight is known all are alike.
            $share = $whole > 0 ? $sum / $whole : (count($parts) + 1) / count($weights);
            $upTo = $table === $last ? (float) $amount : round($amount * $share);
            $parts[$table] = (int) ($upTo - $before);
            $before = $upTo;
        }

        return $parts;
    }
}
