<?php

declare(strict_types=1);

namespace Fulcrion\Core\Catalog;

/**
 * Equi-depth histogram: bounds with the same number of values between each two.
 */
final readonly class Histogram
{
    /**
     * @param  list<int|float|string>  $bounds ascending, both ends included; empty when there is no value
     */
    public function __construct(public array $bounds)
    {
    }

    /**
     * @param  list<int|float|string>  $sorted
     */
    public static function of(array $sorted, int $buckets = 64): self
    {
        $last = count($sorted) - 1;
        if ($last < 0) {
            return new self([]);
        }
        $bounds = [];
        for ($i = 0; $i <= $buckets; $i++) {
            $bounds[] = $sorted[(int) round(($i / $buckets) * $last)];
        }

        return new self($bounds);
    }

    /** Share of the values below a value, between 0 and 1. */
    public function below(int|float|string $value): float
    {
        $buckets = count($this->bounds) - 1;
        if ($buckets < 1 || self::order($value, $this->bounds[0]) <= 0) {
            return 0.0;
        }
        if (self::order($value, $this->bounds[$buckets]) > 0) {
            return 1.0;
        }
        $low = 0;
        $high = $buckets;
        while ($high - $low > 1) {
            $middle = intdiv($low + $high, 2);
            if (self::order($this->bounds[$middle], $value) < 0) {
                $low = $middle;
            } else {
                $high = $middle;
            }
        }
        $from = $this->bounds[$low];
        $to = $this->bounds[$high];
        $within = is_string($value) || is_string($from) || is_string($to) ? 0.5 : ($to > $from ? ($value - $from) / ($to - $from) : 0.5);

        return ($low + $within) / $buckets;
    }

    private static function order(int|float|string $a, int|float|string $b): int
    {
        return is_string($a) && is_string($b) ? strcmp($a, $b) : $a <=> $b;
    }
}
