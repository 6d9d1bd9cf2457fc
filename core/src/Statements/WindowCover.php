<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statements;

use Fulcrion\Core\Time\Window;

/**
 * Covers a window with few summaries: weeks inside, then days, quarters of a day, hours and five-minute buckets towards the ends.
 *
 * Sums may also be taken away: twenty hours of a day are the day without four. That halves what is read, but serves
 * sums only, not extremes or sketches.
 */
final class WindowCover
{
    public const LEVELS = ['week' => 604_800, 'day' => 86_400, 'six_hour' => 21_600, 'hour' => 3_600, 'five_minute' => 300];

    /**
     * @return list<array{level: key-of<self::LEVELS>, from: int, to: int, sign: 1|-1}> Unix seconds, ends excluded
     */
    public static function of(Window $window, bool $mayTakeAway = false): array
    {
        return self::cover($window->from, $window->to, array_keys(self::LEVELS), $mayTakeAway);
    }

    /**
     * With nothing coarser than some length, so that no part reaches over a border of intervals that long.
     *
     * @return list<array{level: key-of<self::LEVELS>, from: int, to: int, sign: 1|-1}>
     */
    public static function within(Window $window, int $seconds): array
    {
        return self::cover(
            $window->from,
            $window->to,
            array_keys(array_filter(self::LEVELS, static fn (int $length): bool => $length <= $seconds && $length <= 3_600)),
            false,
        );
    }

    /**
     * @param  list<key-of<self::LEVELS>>  $levels coarsest first
     * @return list<array{level: key-of<self::LEVELS>, from: int, to: int, sign: 1|-1}>
     */
    private static function cover(int $from, int $to, array $levels, bool $mayTakeAway): array
    {
        if ($from >= $to || $levels === []) {
            return [];
        }
        $level = array_shift($levels);
        $seconds = self::LEVELS[$level];
        $first = intdiv($from + $seconds - 1, $seconds) * $seconds;
        $last = intdiv($to, $seconds) * $seconds;
        if ($first > $last) {
            return self::cover($from, $to, $levels, $mayTakeAway);
        }
        $head = self::cover($from, $first, $levels, $mayTakeAway);
        $tail = self::cover($last, $to, $levels, $mayTakeAway);
        if ($mayTakeAway) {
            $head = self::shorter($head, $level, $first - $seconds, $first, self::cover($first - $seconds, $from, $levels, true));
            $tail = self::shorter($tail, $level, $last, $last + $seconds, self::cover($to, $last + $seconds, $levels, true));
        }

        return [...$head, ...$first < $last ? [['level' => $level, 'from' => $first, 'to' => $last, 'sign' => 1]] : [], ...$tail];
    }

    /**
     * @param  list<array{level: key-of<self::LEVELS>, from: int, to: int, sign: 1|-1}>  $parts
     * @param  key-of<self::LEVELS>  $level
     * @param  list<array{level: key-of<self::LEVELS>, from: int, to: int, sign: 1|-1}>  $rest what the block has too much
     * @return list<array{level: key-of<self::LEVELS>, from: int, to: int, sign: 1|-1}>
     */
    private static function shorter(array $parts, string $level, int $from, int $to, array $rest): array
    {
        if ($parts === [] || 1 + self::intervals($rest) >= self::intervals($parts)) {
            return $parts;
        }
        $whole = [['level' => $level, 'from' => $from, 'to' => $to, 'sign' => 1]];
        foreach ($rest as $part) {
            $whole[] = [...$part, 'sign' => $part['sign'] === 1 ? -1 : 1];
        }

        return $whole;
    }

    /**
     * @param  list<array{level: key-of<self::LEVELS>, from: int, to: int, sign: 1|-1}>  $parts
     */
    private static function intervals(array $parts): int
    {
        return array_sum(
            array_map(static fn (array $part): int => intdiv($part['to'] - $part['from'], self::LEVELS[$part['level']]), $parts),
        );
    }
}
