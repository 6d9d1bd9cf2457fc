<?php

declare(strict_types=1);

namespace Fulcrion\Core\Time;

use InvalidArgumentException;

/**
 * A span of time, end excluded, both ends on a border of five minutes.
 */
final readonly class Window
{
    public const GRAIN = 300;

    /**
     * @param  int  $from Unix seconds
     * @param  int  $to Unix seconds
     * @throws InvalidArgumentException
     */
    public function __construct(public int $from, public int $to)
    {
        if ($from >= $to) {
            throw new InvalidArgumentException('The window ends before it begins.');
        }
        if ($from % self::GRAIN !== 0 || $to % self::GRAIN !== 0) {
            throw new InvalidArgumentException('A window begins and ends on a border of five minutes.');
        }
    }

    /** Widens to borders of five minutes. */
    public static function around(int $from, int $to): self
    {
        $from -= $from % self::GRAIN;
        $to += (self::GRAIN - ($to % self::GRAIN)) % self::GRAIN;

        return new self($from, max($to, $from + self::GRAIN));
    }

    public function seconds(): int
    {
        return $this->to - $this->from;
    }

    /**
     * @param  int  $step seconds
     * @return non-empty-list<int> starts of the intervals between borders of the step; the first and the last end with the window
     */
    public function intervals(int $step): array
    {
        $starts = [$this->from];
        for ($at = $this->from - ($this->from % $step) + $step; $at < $this->to; $at += $step) {
            $starts[] = $at;
        }

        return $starts;
    }

    /** Seconds of the interval that begins at a moment. */
    public function length(int $start, int $step): int
    {
        return min($this->to, $start - ($start % $step) + $step) - $start;
    }

    /** The window of the same length that ends where this one begins. */
    public function before(): self
    {
        return new self($this->from - $this->seconds(), $this->from);
    }

    public function earlier(int $seconds): self
    {
        return new self($this->from - $seconds, $this->to - $seconds);
    }
}
