<?php

declare(strict_types=1);

namespace Fulcrion\Core\Metrics;

/**
 * Values of one measure as they were read, put into even steps of time. Where nothing was read there is nothing: a gap stays a gap.
 */
final readonly class Readings
{
    /**
     * @param  list<array{int, float|null}>  $readings second and value, in the order of time; null where that reading did not have it
     * @param  int  $patience readings further apart than this many seconds have a gap between them
     */
    public function __construct(private array $readings, private int $patience)
    {
    }

    /**
     * Growth a second of a counter, by the steps it grew in. Where it is less than before the server was started again, and what it
     * counted until then is not known.
     *
     * @return list<float|null> one a step
     */
    public function rates(int $from, int $to, int $step): array
    {
        $sums = $seconds = [];
        for ($i = 1; $i < count($this->readings); $i++) {
            [[$began, $before], [$ended, $after]] = [$this->readings[$i - 1], $this->readings[$i]];
            $took = $ended - $began;
            if ($before === null || $after === null || $took <= 0 || $took > $this->patience || $after < $before) {
                continue;
            }
            $rate = ($after - $before) / $took;
            // Each step has its part of what lies across their ends.
            for ($at = max($from, $began); $at < min($to, $ended); $at = $end) {
                $place = intdiv($at - $from, $step);
                $end = min($ended, $to, $from + ($place + 1) * $step);
                $sums[$place] = ($sums[$place] ?? 0.0) + $rate * ($end - $at);
                $seconds[$place] = ($seconds[$place] ?? 0) + $end - $at;
            }
        }
        $rates = [];
        for ($place = 0, $steps = self::steps($from, $to, $step); $place < $steps; $place++) {
            $rates[] = isset($seconds[$place]) ? $sums[$place] / $seconds[$place] : null;
        }

        return $rates;
    }

    /**
     * The largest value of each step, of what is so much at a moment: the mean would hide what was short.
     *
     * @return list<float|null> one a step
     */
    public function most(int $from, int $to, int $step): array
    {
        $most = array_fill(0, self::steps($from, $to, $step), null);
        foreach ($this->readings as [$at, $value]) {
            if ($value !== null && $at >= $from && $at < $to) {
                $place = intdiv($at - $from, $step);
                $most[$place] = max($most[$place] ?? $value, $value);
            }
        }

        return array_values($most);
    }

    /** The last value that is known. */
    public function last(): ?float
    {
        for ($i = count($this->readings) - 1; $i >= 0; $i--) {
            if ($this->readings[$i][1] !== null) {
                return $this->readings[$i][1];
            }
        }

        return null;
    }

    /**
     * Spans in which nothing was read, from the first reading on.
     *
     * @return list<array{int, int}> first second without and first one with it again
     */
    public function gaps(int $to): array
    {
        $gaps = [];
        $last = null;
        foreach ($this->readings as [$at]) {
            if ($last !== null && $at - $last > $this->patience) {
                $gaps[] = [$last, $at];
            }
            $last = $at;
        }
        if ($last !== null && $to - $last > $this->patience) {
            $gaps[] = [$last, $to];
        }

        return $gaps;
    }

    /** Seconds of a span nothing is known of. */
    public function unknown(int $from, int $to): int
    {
        return array_sum(array_map(static fn (array $gap): int => max(0, min($gap[1], $to) - max($gap[0], $from)), $this->gaps($to)));
    }

    private static function steps(int $from, int $to, int $step): int
    {
        return max(0, intdiv($to - $from + $step - 1, $step));
    }
}
