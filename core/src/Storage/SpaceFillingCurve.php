<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

/**
 * Places of points along a curve that fills a square: by interleaving bits (Morton, "A computer oriented geodetic data
 * base", 1966) or along Hilbert's curve ("Über die stetige Abbildung einer Linie auf ein Flächenstück", 1891).
 */
final readonly class SpaceFillingCurve
{
    private const BITS = 12;

    /**
     * Both sides are stretched to the same length, so that a column of five values weighs as much as one of thousands.
     *
     * @param  list<int>  $x ranks from 0
     * @param  list<int>  $y
     * @return list<int>
     */
    public static function places(array $x, array $y, bool $hilbert): array
    {
        $side = (1 << self::BITS) - 1;
        $wide = max([1, ...$x]);
        $high = max([1, ...$y]);
        $places = [];
        foreach ($x as $i => $value) {
            $a = intdiv($value * $side, $wide);
            $b = intdiv($y[$i] * $side, $high);
            $places[] = $hilbert ? self::hilbert($a, $b, self::BITS) : self::morton($a, $b);
        }

        return $places;
    }

    /** Bits of y before those of x at each place. */
    public static function morton(int $x, int $y): int
    {
        return self::spread($x) | (self::spread($y) << 1);
    }

    public static function hilbert(int $x, int $y, int $bits): int
    {
        $place = 0;
        for ($s = 1 << ($bits - 1); $s > 0; $s >>= 1) {
            $right = ($x & $s) > 0 ? 1 : 0;
            $up = ($y & $s) > 0 ? 1 : 0;
            $place += $s * $s * ((3 * $right) ^ $up);
            // The quadrant is turned so that the next smaller one begins where this one was entered.
            if ($up === 0) {
                if ($right === 1) {
                    $x = $s - 1 - ($x & ($s - 1));
                    $y = $s - 1 - ($y & ($s - 1));
                }
                [$x, $y] = [$y, $x];
            }
        }

        return $place;
    }

    private static function spread(int $v): int
    {
        $v = ($v | ($v << 8)) & 0x00FF00FF;
        $v = ($v | ($v << 4)) & 0x0F0F0F0F;
        $v = ($v | ($v << 2)) & 0x33333333;

        return ($v | ($v << 1)) & 0x55555555;
    }
}
