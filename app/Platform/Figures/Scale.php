<?php

declare(strict_types=1);

namespace App\Platform\Figures;

use Closure;
use DateTimeImmutable;
use DateTimeZone;

/**
 * Round numbers for axes.
 */
final class Scale
{
    /**
     * @return list<float> from 0 to at least $max
     */
    public static function ticks(float $max, int $about = 4): array
    {
        if ($max <= 0) {
            return [0.0, 1.0];
        }
        $raw = $max / $about;
        $power = 10 ** floor(log10($raw));
        $step =
            $power *
            match (true) {
                $raw / $power <= 1 => 1,
                $raw / $power <= 2 => 2,
                $raw / $power <= 5 => 5,
                default => 10,
            };
        $ticks = [];
        for ($i = 0; $i <= ceil($max / $step - 1e-9); $i++) {
            $ticks[] = $i * $step;
        }

        return $ticks;
    }

    /**
     * @param  float  $max microseconds
     * @return list<float> round as people count time: seconds by tens, minutes and hours by halves and quarters
     */
    public static function durations(float $max, int $about = 3): array
    {
        if ($max <= 10_000_000) {
            return self::ticks($max, $about);
        }
        $steps = [5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600, 7200, 14_400, 28_800, 86_400];
        $step = self::firstFor($steps, static fn (int $step): bool => $max / 1e6 / $step <= $about + 1);
        $ticks = [];
        for ($i = 0; $i <= ceil($max / 1e6 / $step); $i++) {
            $ticks[] = $i * $step * 1e6;
        }

        return $ticks;
    }

    /**
     * @param  float  $base of the units it is told in: 1024 for bytes
     * @return list<float> round in the unit the most is told in
     */
    public static function inUnits(float $max, float $base = 1024.0, int $about = 4): array
    {
        $unit = $base > 1 && $max >= 1 ? $base ** floor(log($max, $base)) : 1.0;

        return array_map(static fn (float $tick): float => $tick * $unit, self::ticks($max / $unit, $about));
    }

    /**
     * @return list<float> whole numbers
     */
    public static function counts(float $max, int $about = 3): array
    {
        return $max <= $about ? array_map(floatval(...), range(0, max(1, (int) ceil($max)))) : self::ticks($max, $about);
    }

    /**
     * @param  int  $about the most steps there are to be
     * @return array<int, string> Unix seconds => label
     */
    public static function times(int $from, int $to, DateTimeZone $zone, int $about = 9): array
    {
        $span = $to - $from;
        $steps = [900, 1800, 3600, 7200, 10_800, 21_600, 43_200, 86_400, 172_800, 604_800, 1_209_600, 2_592_000];
        $step = self::firstFor($steps, static fn (int $step): bool => $span / $step <= $about);
        $offset = $zone->getOffset(new DateTimeImmutable('@'.$from));
        // Weeks begin on Monday; day 0 of Unix time was a Thursday.
        $offset += $step % 604_800 === 0 ? 3 * 86_400 : 0;
        $labels = [];
        for ($at = (int) ceil(($from + $offset) / $step) * $step - $offset; $at <= $to; $at += $step) {
            $local = (new DateTimeImmutable('@'.$at))->setTimezone($zone);
            $labels[$at] = $step >= 86_400 || $local->format('H:i') === '00:00' ? $local->format('D j M') : $local->format('H:i');
        }

        return $labels;
    }

    /**
     * @param  list<float>  $ticks
     * @param  Closure(float): string  $format
     * @return list<array{float, string}> with their labels; nothing is nothing in any unit
     */
    public static function labelled(array $ticks, Closure $format): array
    {
        return array_map(static fn (float $tick): array => [$tick, $tick === 0.0 ? '0' : $format($tick)], $ticks);
    }

    /**
     * The least step that is wide enough; the widest where none is.
     *
     * @param  non-empty-list<int>  $steps ascending
     * @param  Closure(int): bool  $isWideEnough
     */
    private static function firstFor(array $steps, Closure $isWideEnough): int
    {
        foreach ($steps as $step) {
            if ($isWideEnough($step)) {
                return $step;
            }
        }

        return end($steps);
    }
}
