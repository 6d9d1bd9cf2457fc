<?php

declare(strict_types=1);

namespace Fulcrion\Core\Usage;

use DateTimeImmutable;
use DateTimeZone;
use InvalidArgumentException;

/**
 * Whole days of use, by their dates: which moments they are of is what a Calendar says. A moment here is what its clocks show.
 */
final readonly class Days
{
    public const DAY = 86_400;

    public const WEEK = 604_800;

    /** Start of a week: Monday, 5 January 1970. */
    public const MONDAY = 345_600;

    /**
     * @param  int  $from start of the first day, in Unix seconds
     * @param  int  $to end of the last one
     */
    public function __construct(public int $from, public int $to)
    {
        if ($from % self::DAY !== 0 || $to % self::DAY !== 0 || $from >= $to) {
            throw new InvalidArgumentException('Days of use are whole days, one at least.');
        }
    }

    /** The start of the day a moment lies in. */
    public static function start(int $at): int
    {
        return $at - (($at % self::DAY) + self::DAY) % self::DAY;
    }

    public static function isFirstOfMonth(int $day): bool
    {
        return gmdate('j', $day) === '1';
    }

    /** The month a moment lies in, up to the end of that day. */
    public static function monthTo(int $now): self
    {
        $first = self::at($now)->modify('first day of this month midnight')->getTimestamp();

        return new self($first, $now - $now % self::DAY + self::DAY);
    }

    /**
     * @param  string  $month as 2026-11
     * @param  int|null  $until nothing after the day this moment lies in
     *
     * @throws InvalidArgumentException
     */
    public static function month(string $month, ?int $until = null): self
    {
        if (preg_match('~^(\d{4})-(0[1-9]|1[0-2])$~D', $month) !== 1) {
            throw new InvalidArgumentException("\"{$month}\" is not a month. Write it as 2026-11.");
        }
        $first = new DateTimeImmutable("{$month}-01", new DateTimeZone('UTC'));
        $end = $first->modify('first day of next month')->getTimestamp();
        if ($until !== null) {
            $end = min($end, $until - $until % self::DAY + self::DAY);
        }
        if ($end <= $first->getTimestamp()) {
            throw new InvalidArgumentException("{$first->format('F Y')} has not begun yet.");
        }

        return new self($first->getTimestamp(), $end);
    }

    /** The week a moment lies in, from Monday. */
    public static function week(int $at): self
    {
        $monday = $at - ($at - self::MONDAY) % self::WEEK;

        return new self($monday, $monday + self::WEEK);
    }

    /**
     * Reads what people type: "this month", "last month", "2026-11", "last 7 days". Days that are not over are left out of the last.
     *
     * @throws InvalidArgumentException naming what can be typed
     */
    public static function parse(string $text, int $now): self
    {
        $text = mb_strtolower(trim((string) preg_replace('~\s+~', ' ', $text)));
        $today = $now - $now % self::DAY;
        if ($text === 'this month') {
            return self::monthTo($now);
        }
        if ($text === 'last month') {
            return self::month(self::at($now)->modify('first day of last month')->format('Y-m'));
        }
        if (preg_match('~^last (\d{1,3}) days?$~', $text, $match) === 1 && (int) $match[1] > 0) {
            return new self($today - (int) $match[1] * self::DAY, $today);
        }
        if (preg_match('~^(\d{4}-\d\d-\d\d)(?: to (\d{4}-\d\d-\d\d))?$~D', $text, $match) === 1) {
            [$first, $last] = [self::day($match[1]), self::day($match[2] ?? $match[1])];
            if ($first !== null && $last !== null && $first <= $last) {
                return new self($first, $last + self::DAY);
            }
        }
        if (preg_match('~^\d{4}-\d\d$~D', $text) === 1) {
            return self::month($text, $now);
        }
        throw new InvalidArgumentException(
            "\"{$text}\" is no span of days. Try: this month, last month, 2026-11, last 7 days, 2026-11-03 to 2026-11-09.",
        );
    }

    public function count(): int
    {
        return intdiv($this->to - $this->from, self::DAY);
    }

    /** As many days right before. */
    public function before(): self
    {
        return new self($this->from - ($this->to - $this->from), $this->from);
    }

    /** The same days of the month before; where that is shorter, as many as it has. */
    public function sameOfMonthBefore(): self
    {
        $first = self::at($this->from)->modify('first day of last month midnight');
        $from = $first->modify('+'.(intdiv($this->from - self::monthOf($this->from), self::DAY)).' days')->getTimestamp();
        $end = $first->modify('first day of next month')->getTimestamp();
        $from = min($from, $end - self::DAY);

        return new self($from, min($end, $from + $this->to - $this->from));
    }

    /** Whether they begin with a month and lie in it. */
    public function isOfOneMonth(): bool
    {
        return $this->from === self::monthOf($this->from) && $this->from === self::monthOf($this->to - 1);
    }

    /**
     * @return list<int> start of each day
     */
    public function starts(): array
    {
        return range($this->from, $this->to - self::DAY, self::DAY);
    }

    /** As it can be typed. */
    public function text(): string
    {
        $last = gmdate('Y-m-d', $this->to - 1);

        return $this->count() === 1 ? $last : gmdate('Y-m-d', $this->from)." to {$last}";
    }

    public function describe(): string
    {
        [$first, $last] = [self::at($this->from), self::at($this->to - 1)];
        if ($this->isOfOneMonth()) {
            return $this->to === $first->modify('first day of next month')->getTimestamp() ? $first->format('F Y')
                : ($this->count() === 1 ? $first->format('j F Y') : '1 to '.$last->format('j F Y'));
        }

        return match (true) {
            $this->count() === 1 => $first->format('j F Y'),
            $first->format('Y-m') === $last->format('Y-m') => $first->format('j').' to '.$last->format('j F Y'),
            default => $first->format('j F').' to '.$last->format('j F Y'),
        };
    }

    private static function day(string $text): ?int
    {
        $at = strtotime("{$text} UTC");

        return $at !== false && gmdate('Y-m-d', $at) === $text ? $at : null;
    }

    private static function monthOf(int $at): int
    {
        return self::at($at)->modify('first day of this month midnight')->getTimestamp();
    }

    private static function at(int $at): DateTimeImmutable
    {
        return (new DateTimeImmutable('@'.$at))->setTimezone(new DateTimeZone('UTC'));
    }
}
