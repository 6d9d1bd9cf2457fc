<?php

declare(strict_types=1);

namespace App\Estate;

use DateTimeZone;
use Fulcrion\Core\Usage\Calendar;
use Illuminate\Support\Facades\DB;

/**
 * By which time zone the days of an estate are counted.
 */
final readonly class EstateCalendar
{
    private const NAME = 'time_zone';

    public function read(): Calendar
    {
        return self::of(DB::table('estate_settings')->where('name', self::NAME)->value('value'));
    }

    private static function of(mixed $name): Calendar
    {
        return is_string($name) && in_array($name, DateTimeZone::listIdentifiers(), true) ? new Calendar(new DateTimeZone($name))
            : Calendar::utc();
    }

    /** Whether days are still counted by a calendar, and stay so until the transaction is over. */
    public function isStill(Calendar $calendar): bool
    {
        $now = self::of(DB::table('estate_settings')->where('name', self::NAME)->sharedLock()->value('value'));

        return $now->zone->getName() === $calendar->zone->getName();
    }

    public function set(Calendar $calendar): void
    {
        DB::table('estate_settings')->upsert(['name' => self::NAME, 'value' => $calendar->zone->getName()], ['name'], ['value']);
        app()->forgetInstance(Calendar::class);
    }
}
