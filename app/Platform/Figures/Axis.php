<?php

declare(strict_types=1);

namespace App\Platform\Figures;

/**
 * Where values lie between the ends of an axis: in even steps, or over magnitudes, where each tenfold has the same width.
 */
final readonly class Axis
{
    private function __construct(public float $least, public float $most, private bool $magnitudes)
    {
    }

    public static function even(float $least, float $most): self
    {
        return new self($least, $most > $least ? $most : $least + 1.0, false);
    }

    /** Both ends above 0. */
    public static function magnitudes(float $least, float $most): self
    {
        $least = max(1e-12, $least);

        return new self($least, $most > $least ? $most : $least * 10, true);
    }

    /**
     * From nothing up to the last of its ticks.
     *
     * @param  list<float>  $ticks
     */
    public static function upTo(array $ticks): self
    {
        return self::even(0.0, self::top($ticks));
    }

    /**
     * The last of its ticks; 1 where that is nothing, so that there is a span.
     *
     * @param  list<float>  $ticks
     */
    public static function top(array $ticks): float
    {
        $last = end($ticks);

        return $last === false || $last <= 0 ? 1.0 : $last;
    }

    /** 0 at its least value, 1 at its most; beyond its ends over magnitudes the end. */
    public function part(float $value): float
    {
        return $this->magnitudes
            ? log(max($this->least, min($this->most, $value)) / $this->least) / log($this->most / $this->least)
            : ($value - $this->least) / ($this->most - $this->least);
    }

    /** Whether a value lies between the ends, and not on one. */
    public function holds(float $value): bool
    {
        return $value > $this->least && $value < $this->most;
    }
}
