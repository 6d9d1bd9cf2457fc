<?php

declare(strict_types=1);

namespace Fulcrion\Core\Metrics;

use InvalidArgumentException;

/**
 * Values of one series at moments, each moment once, in the order of time.
 */
final readonly class Points
{
    private const HOUR_MS = 3_600_000;

    /**
     * @param  list<int>  $timesMs since 1970-01-01 UTC, ascending
     * @param  list<float>  $values one a moment
     *
     * @throws InvalidArgumentException where moments do not ascend, or a value is no number
     */
    public function __construct(public array $timesMs, public array $values)
    {
        if (count($timesMs) !== count($values)) {
            throw new InvalidArgumentException('Each moment has one value.');
        }
        foreach ($values as $at => $value) {
            if (! is_finite($value)) {
                throw new InvalidArgumentException('A value is a number.');
            }
            if ($at > 0 && $timesMs[$at] <= $timesMs[$at - 1]) {
                throw new InvalidArgumentException('Moments ascend.');
            }
        }
    }

    /**
     * From moments in any order; of two values at one moment the later one in the list holds.
     *
     * @param  list<array{int, float}>  $points milliseconds and value
     *
     * @throws InvalidArgumentException where a value is no number
     */
    public static function of(array $points): self
    {
        $values = [];
        foreach ($points as [$atMs, $value]) {
            $values[$atMs] = $value;
        }
        ksort($values);

        return new self(array_keys($values), array_values($values));
    }

    public function count(): int
    {
        return count($this->timesMs);
    }

    /** Both together; where both have a value at a moment, the other's. */
    public function with(self $other): self
    {
        $values = array_combine($other->timesMs, $other->values) + array_combine($this->timesMs, $this->values);
        ksort($values);

        return new self(array_keys($values), array_values($values));
    }

    /** Those of a span. */
    public function between(int $fromMs, int $toMs): self
    {
        $times = $values = [];
        foreach ($this->timesMs as $place => $at) {
            if ($at >= $fromMs && $at < $toMs) {
                $times[] = $at;
                $values[] = $this->values[$place];
            }
        }

        return new self($times, $values);
    }

    /**
     * @return array<int, self> by the start of each hour, in seconds
     */
    public function byHour(): array
    {
        $parts = [];
        foreach ($this->timesMs as $place => $atMs) {
            $hour = intdiv($atMs, self::HOUR_MS) * 3_600;
            $parts[$hour][0][] = $atMs;
            $parts[$hour][1][] = $this->values[$place];
        }

        return array_map(static fn (array $part): self => new self(...$part), $parts);
    }
}
