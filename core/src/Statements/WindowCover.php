<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statements;

use Fulcrion\Core\Time\Window;

/**
 * Covers a window with the fewest summaries: days inside, hours around them, five-minute buckets at the ends.
 */
final class WindowCover
{
    public const LEVELS = ['day' => 86_400, 'hour' => 3_600, 'five_minute' => 300];

    /**
     * @return list<array{level: key-of<self::LEVELS>, from: int, to: int}> Unix seconds, ends excluded, in order of time
     */
    public static function of(Window $window): array
    {
        return self::cover($window->from, $window->to, array_keys(self::LEVELS));
    }

    /**
     * @param  list<key-of<self::LEVELS>>  $levels coarsest first
     * @return list<array{level: key-of<self::LEVELS>, from: int, to: int}>
     */
    private static function cover(int $from, int $to, array $levels): array
    {
        if ($from >= $to || $levels === []) {
            return [];
        }
        $level = array_shift($levels);
        $seconds = self::LEVELS[$level];
        $first = intdiv($from + $seconds - 1, $seconds) * $seconds;
        $last = intdiv($to, $seconds) * $seconds;
        if ($first >= $last) {
            return self::cover($from, $to, $levels);
        }

        return [
            ...self::cover($from, $first, $levels),
            ['level' => $level, 'from' => $first, 'to' => $last],
            ...self::cover($last, $to, $levels),
        ];
    }
}
