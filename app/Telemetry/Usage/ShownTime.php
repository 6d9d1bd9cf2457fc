<?php

declare(strict_types=1);

namespace App\Telemetry\Usage;

use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;

/**
 * What clocks of a calendar show at moments in a column, as an expression of a statement.
 */
final class ShownTime
{
    /**
     * @param  int  $from no moment in the column is earlier
     * @param  int  $to nor later
     */
    public static function of(Calendar $calendar, string $column, int $from, int $to): string
    {
        $cases = [];
        foreach ($calendar->offsets($from, $to) as $since => $offset) {
            $cases[] = [$since, $offset];
        }
        $expression = '';
        foreach (array_reverse(array_slice($cases, 1)) as [$since, $offset]) {
            $expression .= " WHEN {$column} >= {$since} THEN {$offset}";
        }

        return $expression === '' ? "({$column} + {$cases[0][1]})" : "({$column} + CASE{$expression} ELSE {$cases[0][1]} END)";
    }

    /** The start of the day. */
    public static function day(Calendar $calendar, string $column, int $from, int $to): string
    {
        $shown = self::of($calendar, $column, $from, $to);

        return "({$shown} - {$shown} % ".Days::DAY.')';
    }
}
