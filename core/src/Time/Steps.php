<?php

declare(strict_types=1);

namespace Fulcrion\Core\Time;

/**
 * How a span of time is cut into even steps.
 */
final readonly class Steps
{
    /**
     * The shortest step that cuts a span into no more pieces than may be; the longest of them where none does.
     *
     * @param  non-empty-list<int>  $steps seconds, the shortest first
     */
    public static function shortest(int $seconds, array $steps, int $most): int
    {
        foreach ($steps as $step) {
            if ($seconds / $step <= $most) {
                return $step;
            }
        }

        return $steps[count($steps) - 1];
    }

    /**
     * How many spans touch each step.
     *
     * @param  list<array{int, int|null}>  $spans first second and first second after it; null where one goes on
     * @param  int  $step seconds
     * @return list<float> one a step
     */
    public static function counts(array $spans, int $from, int $to, int $step): array
    {
        $counts = array_fill(0, max(0, intdiv($to - $from + $step - 1, $step)), 0.0);
        foreach ($spans as [$began, $ended]) {
            [$began, $ended] = [max($from, $began), min($to, $ended ?? $to)];
            for ($at = $began - ($began - $from) % $step; $at < $ended; $at += $step) {
                $place = intdiv($at - $from, $step);
                $counts[$place] = ($counts[$place] ?? 0.0) + 1.0;
            }
        }

        return array_values($counts);
    }
}
