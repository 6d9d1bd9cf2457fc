<?php

declare(strict_types=1);

namespace Fulcrion\Core\Metrics;

/**
 * What a span of a series was like.
 */
final readonly class Summary
{
    /**
     * @param  int  $count of points, one at least
     */
    public function __construct(
        public float $low,
        public float $high,
        public float $sum,
        public float $last,
        public int $count,
    ) {
    }

    /**
     * By spans of even length; those without a point are not there.
     *
     * @return array<int, self> by the start of each, in milliseconds
     */
    public static function over(Points $points, int $stepMs): array
    {
        $over = [];
        $from = 0;
        $count = $points->count();
        for ($at = 1; $at <= $count; $at++) {
            $start = intdiv($points->timesMs[$from] ?? 0, $stepMs) * $stepMs;
            if ($at === $count || $points->timesMs[$at] >= $start + $stepMs) {
                $values = array_slice($points->values, $from, $at - $from);
                if ($values !== []) {
                    $over[$start] = new self(min($values), max($values), array_sum($values), $values[count($values) - 1], count($values));
                }
                $from = $at;
            }
        }

        return $over;
    }

    public function mean(): float
    {
        return $this->sum / $this->count;
    }

    /** This one and another that comes after it. */
    public function then(self $later): self
    {
        return new self(
            min($this->low, $later->low),
            max($this->high, $later->high),
            $this->sum + $later->sum,
            $later->last,
            $this->count + $later->count,
        );
    }
}
