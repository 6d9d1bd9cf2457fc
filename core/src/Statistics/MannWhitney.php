<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statistics;

/**
 * Whether durations of two windows differ: the rank sum test of Mann and Whitney ("On a test of whether one of two
 * random variables is stochastically larger than the other", 1947), with the normal approximation, corrected for ties
 * and continuity. Durations come in bins; those of one bin tie.
 */
final readonly class MannWhitney
{
    /** Fewer executions than this on a side say nothing. */
    public const LEAST = 8;

    private function __construct(
        public int $before,
        public int $after,
        /** Chance that an execution of the second window takes longer than one of the first, ties counting half. */
        public float $longer,
        public float $z,
        /** Two-sided. */
        public float $p,
    ) {
    }

    /**
     * @param  array<int, int>  $before bin => executions
     * @param  array<int, int>  $after
     */
    public static function of(array $before, array $after): self
    {
        $n = array_sum($before);
        $m = array_sum($after);
        if ($n === 0 || $m === 0) {
            return new self($n, $m, 0.5, 0.0, 1.0);
        }
        $bins = $before + $after;
        ksort($bins);
        $below = 0;
        $u = $ties = 0.0;
        foreach (array_keys($bins) as $bin) {
            [$a, $b] = [$before[$bin] ?? 0, $after[$bin] ?? 0];
            $u += $b * ($below + $a / 2);
            $below += $a;
            $t = $a + $b;
            $ties += (float) $t ** 3 - $t;
        }
        $all = $n + $m;
        $variance = (($n * $m) / 12) * ($all + 1 - $ties / ($all * max(1, $all - 1)));
        $distance = abs($u - ($n * $m) / 2);
        $z = $variance <= 0 ? 0.0 : (max(0.0, $distance - 0.5) / sqrt($variance)) * ($u < ($n * $m) / 2 ? -1 : 1);

        return new self($n, $m, $u / ($n * $m), $z, self::twoSided($z));
    }

    /** better, worse, no difference to be seen, or too few executions */
    public function verdict(float $level = 0.01): string
    {
        return match (true) {
            min($this->before, $this->after) < self::LEAST => 'too few executions',
            $this->p >= $level => 'no difference to be seen',
            default => $this->longer < 0.5 ? 'better' : 'worse',
        };
    }

    /** Chance of a standard normal value at least as far from 0; by Abramowitz and Stegun 7.1.26, error below 1.5e-7. */
    private static function twoSided(float $z): float
    {
        $x = abs($z) / M_SQRT2;
        $t = 1 / (1 + 0.3275911 * $x);

        return max(
            0.0,
            min(
                1.0,
                $t * (0.254829592 + $t * (-0.284496736 + $t * (1.421413741 + $t * (-1.453152027 + $t * 1.061405429)))) * exp(-$x * $x),
            ),
        );
    }
}
