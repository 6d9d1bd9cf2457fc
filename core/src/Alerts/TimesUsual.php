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

    private const WEEKS = 4;

    /** Known in fewer weeks nothing is usual. */
    private const LEAST_WEEKS = 2;

    /**
     * @param  list<float|null>  $values one a step
     * @param  list<float|null>  $hours the same by the hour, from earlier on
     * @param  int  $from first second of the first step
     * @param  int  $hoursFrom first second of the first hour
     * @return list<float|null> null where nothing is usual, or usually nothing is
     */
    public static function of(array $values, int $from, int $step, array $hours, int $hoursFrom, DateTimeZone $zone): array
    {
        $byHour = [];
        foreach ($hours as $place => $value) {
            if ($value !== null) {
                $at = $hoursFrom + $place * self::HOUR;
                $byHour[self::hour($at, $zone)][$at] = $value;
            }
        }
        $times = [];
        $usual = $known = null;
        foreach ($values as $place => $value) {
            $at = $from + $place * $step;
            $hour = $at - $at % self::HOUR;
            if ($hour !== $known) {
                $known = $hour;
                $usual = self::usual($byHour[self::hour($hour, $zone)] ?? [], $hour);
            }
            $times[] = $value === null || $usual === null || $usual <= 0.0 ? null : $value / $usual;
        }

        return $times;
    }

    /**
     * @param  array<int, float>  $same values of that hour of the week, by second
     */
    private static function usual(array $same, int $hour): ?float
    {
        $before = array_filter($same, static fn (int $at): bool => $at < $hour - self::HOUR
            && $at >= $hour - self::WEEKS * 7 * 24 * self::HOUR - self::HOUR, ARRAY_FILTER_USE_KEY);

        return count($before) < self::LEAST_WEEKS ? null : Spread::median($before);
    }

    private static function hour(int $at, DateTimeZone $zone): int
    {
        $here = (new DateTimeImmutable('@'.$at))->setTimezone($zone);

        return ((int) $here->format('N') - 1) * 24 + (int) $here->format('G');
    }
}
