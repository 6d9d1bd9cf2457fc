<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statistics;

/**
 * How well one series tells another, step by step, where one of them may come some steps later: the rank correlation of Spearman (1904)
 * at the lag at which it is strongest. It says what moved together, and nothing of why.
 */
final readonly class LaggedCorrelation
{
    /** Pairs without which nothing is said. */
    private const LEAST = 12;

    private const ALIKE = 1e-9;

    /**
     * @param  float  $r from -1 to 1
     * @param  int  $lag steps the other series comes after the first one; below 0 it comes before
     */
    private function __construct(public float $r, public int $lag, public int $pairs)
    {
    }

    /**
     * @param  list<float|null>  $one
     * @param  list<float|null>  $other of the same steps
     * @param  int  $most steps of lag that are tried each way
     * @return self|null null where too little is known of both, or one of them stays as it is
     */
    public static function of(array $one, array $other, int $most): ?self
    {
        /** @var self|null $best */
        $best = null;
        // From none outwards: of two alike the shorter one stands.
        foreach (self::lags($most) as $lag) {
            $pairs = [];
            foreach ($one as $at => $value) {
                $its = $other[$at + $lag] ?? null;
                if ($value !== null && $its !== null) {
                    $pairs[] = [$value, $its];
                }
            }
            if (count($pairs) < self::LEAST) {
                continue;
            }
            $r = self::pearson(self::ranks(array_column($pairs, 0)), self::ranks(array_column($pairs, 1)));
            if ($r !== null && ($best === null || abs($r) > abs($best->r) + self::ALIKE)) {
                $best = new self($r, $lag, count($pairs));
            }
        }

        return $best;
    }

    /**
     * @return list<int>
     */
    private static function lags(int $most): array
    {
        $lags = range(-$most, $most);
        usort($lags, static fn (int $a, int $b): int => [abs($a), $a] <=> [abs($b), $b]);

        return $lags;
    }

    /**
     * Those that tie share the middle of their places.
     *
     * @param  list<float>  $values
     * @return list<float>
     */
    private static function ranks(array $values): array
    {
        $order = $values;
        asort($order);
        $places = array_keys($order);
        $ranks = array_fill(0, count($values), 0.0);
        $count = count($places);
        $from = $first = 0;
        for ($i = 1; $i <= $count; $i++) {
            if ($i === $count || $values[$places[$i]] !== $values[$places[$from]]) {
                for (; $from < $i; $from++) {
                    $ranks[$places[$from]] = ($i - 1 + $first) / 2;
                }
                $first = $i;
            }
        }

        return array_values($ranks);
    }

    /**
     * @param  list<float>  $a
     * @param  list<float>  $b
     */
    private static function pearson(array $a, array $b): ?float
    {
        $count = count($a);
        $meanA = array_sum($a) / $count;
        $meanB = array_sum($b) / $count;
        $ab = $aa = $bb = 0.0;
        foreach ($a as $i => $value) {
            $ab += ($value - $meanA) * ($b[$i] - $meanB);
            $aa += ($value - $meanA) ** 2;
            $bb += ($b[$i] - $meanB) ** 2;
        }

        return $aa <= 0.0 || $bb <= 0.0 ? null : $ab / sqrt($aa * $bb);
    }
}
