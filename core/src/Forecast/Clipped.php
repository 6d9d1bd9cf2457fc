<?php

declare(strict_types=1);

namespace Fulcrion\Core\Forecast;

use Fulcrion\Core\Statistics\Spread;

/**
 * Values held near what their weekday had in the weeks before: a spike becomes as large as an unusual day is, and a lasting change is
 * followed after a few weeks.
 */
final class Clipped
{
    private const WEEK = 7;

    /** Weeks a value is held against. */
    private const WEEKS = 5;

    /** Times the usual distance from the median a value may have. */
    private const MOST = 3.0;

    /** Makes the median distance that of a normal spread (1 / 0.6745). */
    private const NORMAL = 1.4826;

    /**
     * @param  list<float|null>  $values
     * @return list<float|null>
     */
    public static function of(array $values): array
    {
        $middles = $apart = [];
        $recent = [];
        foreach ($values as $at => $value) {
            $weekday = $at % self::WEEK;
            $before = $recent[$weekday] ?? [];
            $middles[$at] = count($before) >= 3 ? Spread::median($before) : null;
            $apart[$at] = $value === null || $middles[$at] === null ? null : abs($value - $middles[$at]);
            if ($value !== null) {
                $recent[$weekday] = array_slice([...$before, $value], -self::WEEKS);
            }
        }
        $clipped = [];
        $distances = [];
        foreach ($values as $at => $value) {
            $middle = $middles[$at];
            $distance = $apart[$at];
            if ($value === null || $middle === null || $distance === null) {
                $clipped[] = $value;

                continue;
            }
            // The usual distance of the last weeks, without today's.
            $usual = count($distances) < 2 * self::WEEK ? null
                : Spread::median(array_slice($distances, -self::WEEKS * self::WEEK)) * self::NORMAL * self::MOST;
            $clipped[] = $usual === null || $distance <= $usual ? $value : max(0.0, $value > $middle ? $middle + $usual : $middle - $usual);
            $distances[] = $distance;
        }

        return $clipped;
    }
}
