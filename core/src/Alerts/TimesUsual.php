<?php

declare(strict_types=1);

namespace Fulcrion\Core\Alerts;

use DateTimeImmutable;
use DateTimeZone;
use Fulcrion\Core\Statistics\Spread;

/**
 * Values as times the usual one of that hour of the week: the middle of the same hours of the weeks before, so that nothing is held
 * against what came later.
 */
final readonly class TimesUsual
{
    private const HOUR = 3_600;

    private const WEEK = 7 * 24 * self::HOUR;

    private const WEEKS = 4;

    /** Known in fewer weeks nothing is usual. */
    private const LEAST_WEEKS = 2;

    /**
     * @param  list<float|null>  $values one a step
     * @param  array<int, float|null>  $hours the same by the hour, from earlier on, by their place; those nobody needs may be missing
     * @param  int  $from first second of the first step
     * @param  int  $hoursFrom first second of the first place of an hour
     * @return list<float|null> null where nothing is usual, or usually nothing is
     */
    public static function of(array $values, int $from, int $step, array $hours, int $hoursFrom, DateTimeZone $zone): array
    {
        $times = [];
        $usual = $known = null;
        foreach ($values as $place => $value) {
            $at = $from + $place * $step;
            $hour = $at - $at % self::HOUR;
            if ($hour !== $known) {
                $known = $hour;
                $usual = self::usual($hours, $hoursFrom, $hour, $zone);
            }
            $times[] = $value === null || $usual === null || $usual <= 0.0 ? null : $value / $usual;
        }

        return $times;
    }

    /**
     * @param  array<int, float|null>  $hours
     */
    private static function usual(array $hours, int $from, int $hour, DateTimeZone $zone): ?float
    {
        $before = [];
        $offset = self::offset($hour, $zone);
        for ($week = 1; $week <= self::WEEKS; $week++) {
            $at = $hour - $week * self::WEEK;
            // The same hour by the clock of that place, whatever the clocks did meanwhile.
            $at += $offset - self::offset($at, $zone);
            $value = $at < $from ? null : $hours[intdiv($at - $from, self::HOUR)] ?? null;
            if ($value !== null) {
                $before[] = $value;
            }
        }

        return count($before) < self::LEAST_WEEKS ? null : Spread::median($before);
    }

    private static function offset(int $at, DateTimeZone $zone): int
    {
        return $zone->getOffset(new DateTimeImmutable('@'.$at));
    }
}
