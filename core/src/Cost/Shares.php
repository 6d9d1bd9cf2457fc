<?php

declare(strict_types=1);

namespace Fulcrion\Core\Cost;

use Brick\Math\BigDecimal;
use Brick\Math\BigInteger;
use Brick\Math\RoundingMode;

/**
 * Divides an amount so that the parts are of whole smallest units and add up to it: the largest remainders get what is left (Hamilton's
 * method of apportionment).
 */
final class Shares
{
    /**
     * @param  BigDecimal  $amount may be below zero
     * @template K of array-key
     *
     * @param  array<K, int|BigDecimal>  $weights none below zero
     * @param  int  $scale digits behind the point of the parts; the amount is rounded to it first
     * @return array<K, BigDecimal> by the same keys; nothing where no weight is above zero
     */
    public static function split(BigDecimal $amount, array $weights, int $scale = 2): array
    {
        // By whole numbers of one scale, which is what is exact and fast.
        $scales = array_map(static fn (int|BigDecimal $one): int => is_int($one) ? 0 : $one->getScale(), array_values($weights));
        $digits = max([0, ...$scales]);
        $weights = array_map(
            static fn (int|BigDecimal $one): BigInteger => is_int($one) && $digits === 0 ? BigInteger::of($one)
                : BigDecimal::of($one)->toScale($digits)->getUnscaledValue(),
            $weights,
        );
        $whole = BigInteger::sum(BigInteger::zero(), ...array_values($weights));
        if ($whole->isZero()) {
            return [];
        }
        $units = $amount->toScale($scale, RoundingMode::HALF_UP)->getUnscaledValue();
        $isBelow = $units->isNegative();
        $units = $units->abs();
        $parts = $remainders = [];
        $left = $units;
        foreach ($weights as $key => $weight) {
            [$parts[$key], $remainders[$key]] = $weight->multipliedBy($units)->quotientAndRemainder($whole);
            $left = $left->minus($parts[$key]);
        }
        // The largest remainder first; those alike in the order they came.
        $order = array_keys($remainders);
        $place = array_flip($order);
        usort(
            $order,
            static fn (int|string $a, int|string $b): int => [$remainders[$b]->compareTo($remainders[$a]), $place[$a]] <=> [0, $place[$b]],
        );
        foreach ($order as $key) {
            if ($left->isZero()) {
                break;
            }
            $parts[$key] = $parts[$key]->plus(1);
            $left = $left->minus(1);
        }

        return array_map(
            static fn ($part): BigDecimal => BigDecimal::ofUnscaledValue($isBelow ? $part->negated() : $part, $scale),
            $parts,
        );
    }
}
