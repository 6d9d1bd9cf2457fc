<?php

declare(strict_types=1);

namespace Fulcrion\Core\Health;

use DateTimeImmutable;
use DateTimeZone;
use Fulcrion\Core\Statistics\Spread;

/**
 * Half hours of the week in which a probe takes at least twice its idle time in most weeks; those that follow each other are one.
 */
final readonly class Struggles
{
    private const HALF = 1_800;

    private const A_DAY = 48;

    private const MUCH = 2.0;

    /** Less is an accident, and no habit. */
    private const LEAST_WEEKS = 2;

    private const DAYS = ['Mondays', 'Tuesdays', 'Wednesdays', 'Thursdays', 'Fridays', 'Saturdays', 'Sundays'];

    /**
     * @return list<Struggle> the worst first
     */
    public static function of(ProbeScale $scale, DateTimeZone $zone): array
    {
        // Ratios by half hour of the week and by week.
        $by = $starts = [];
        foreach ($scale->runs as $run) {
            $ratio = $scale->ratio($run);
            if ($ratio !== null) {
                $here = (new DateTimeImmutable('@'.$run->at))->setTimezone($zone);
                $slot = ((int) $here->format('N') - 1) * self::A_DAY + 2 * (int) $here->format('G') + intdiv((int) $here->format('i'), 30);
                $week = $here->format('o-W');
                $by[$slot][$week][] = $ratio;
                $starts[$slot][$week] ??= $run->at - ((int) $here->format('i') % 30) * 60 - (int) $here->format('s');
            }
        }
        $struggles = [];
        $open = [];
        for ($slot = 0; $slot <= 7 * self::A_DAY; $slot++) {
            $isSlow = $slot < 7 * self::A_DAY && self::isSlow($by[$slot] ?? []);
            if (($slot % self::A_DAY === 0 || ! $isSlow) && $open !== []) {
                $struggles[] = self::struggle($open, $by, $starts);
                $open = [];
            }
            if ($isSlow) {
                $open[] = $slot;
            }
        }
        usort($struggles, static fn (Struggle $a, Struggle $b): int => $b->ratio <=> $a->ratio);

        return $struggles;
    }

    /**
     * @param  array<string, list<float>>  $weeks
     */
    private static function isSlow(array $weeks): bool
    {
        $slow = self::slowWeeks($weeks);

        return $slow >= self::LEAST_WEEKS && 2 * $slow > count($weeks);
    }

    /**
     * @param  array<string, list<float>>  $weeks
     */
    private static function slowWeeks(array $weeks): int
    {
        return count(array_filter($weeks, static fn (array $ratios): bool => Spread::median($ratios) >= self::MUCH));
    }

    /**
     * @param  non-empty-list<int>  $slots
     * @param  array<int, array<string, list<float>>>  $by
     * @param  array<int, array<string, int>>  $starts
     */
    private static function struggle(array $slots, array $by, array $starts): Struggle
    {
        $first = $slots[0];
        $last = $slots[count($slots) - 1];
        $ratios = $weeks = [];
        foreach ($slots as $slot) {
            foreach ($by[$slot] as $week => $some) {
                array_push($ratios, ...$some);
                $weeks[$week] = [...$weeks[$week] ?? [], ...$some];
            }
        }
        ksort($weeks);
        $clock = static fn (int $slot): string => sprintf('%02d:%02d', intdiv($slot, 2), $slot % 2 * 30);
        $from = max([0, ...array_values($starts[$first])]);

        return new Struggle(
            self::DAYS[intdiv($first, self::A_DAY)].' '.$clock($first % self::A_DAY).' to '.$clock($last % self::A_DAY + 1),
            Spread::median($ratios),
            count($ratios),
            self::slowWeeks($weeks),
            count($weeks),
            $from,
            $from + count($slots) * self::HALF,
        );
    }
}
