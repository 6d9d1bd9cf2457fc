<?php

declare(strict_types=1);

namespace App\Platform\Support;

use DateTimeImmutable;

/**
 * How closely a moment is told.
 */
enum MomentStyle
{
    case Day;

    /** A day without its year, where that is this one. */
    case ShortDay;
    case Month;

    /** A day by its weekday. */
    case Weekday;
    case Minute;
    case Second;

    /** Of the day only, to the second or to the minute. */
    case Clock;
    case Time;

    /** As people type it into a field, and as a file that is read in another year says it. */
    case Written;

    /**
     * @param  DateTimeImmutable  $now in the same time zone: the year is said where it is another one
     */
    public function say(DateTimeImmutable $at, DateTimeImmutable $now): string
    {
        $year = $at->format('Y') === $now->format('Y') ? '' : ' Y';

        return $at->format(match ($this) {
            self::Day => 'j M Y',
            self::ShortDay => "j M{$year}",
            self::Month => 'M Y',
            self::Weekday => "D j M{$year}",
            self::Minute => "D j M{$year} H:i",
            self::Second => "D j M{$year} H:i:s",
            self::Clock => 'H:i:s',
            self::Time => 'H:i',
            self::Written => 'Y-m-d H:i',
        });
    }
}
