<?php

declare(strict_types=1);

namespace Tests\Core\Usage;

use DateTimeImmutable;
use DateTimeZone;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class CalendarTest extends TestCase
{
    private static function date(string $date): int
    {
        return (int) strtotime("{$date} UTC");
    }

    #[TestWith(['UTC', '2026-03-29', 24, '2026-03-29T00:00:00Z'])]
    #[TestWith(['Europe/Berlin', '2026-03-28', 24, '2026-03-27T23:00:00Z'])]
    #[TestWith(['Europe/Berlin', '2026-03-29', 23, '2026-03-28T23:00:00Z'])]
    #[TestWith(['Europe/Berlin', '2026-03-30', 24, '2026-03-29T22:00:00Z'])]
    #[TestWith(['Europe/Berlin', '2026-10-25', 25, '2026-10-24T22:00:00Z'])]
    #[TestWith(['America/New_York', '2026-11-01', 25, '2026-11-01T04:00:00Z'])]
    // Clocks skip midnight: the day begins when they show one.
    #[TestWith(['America/Sao_Paulo', '2018-11-04', 23, '2018-11-04T03:00:00Z'])]
    // They go back to half past one, and by half an hour.
    #[TestWith(['Australia/Lord_Howe', '2026-04-05', 24.5, '2026-04-04T13:00:00Z'])]
    #[TestWith(['Asia/Kolkata', '2026-11-29', 24, '2026-11-28T18:30:00Z'])]
    public function test_a_date_begins_and_is_as_long_as_its_clocks_say(string $zone, string $date, float $hours, string $begin): void
    {
        $calendar = new Calendar(new DateTimeZone($zone));
        $day = self::date($date);
        self::assertSame($begin, gmdate('Y-m-d\TH:i:s\Z', $calendar->begin($day)));
        self::assertSame((int) ($hours * 3_600), $calendar->end($day) - $calendar->begin($day));
    }

    public function test_every_moment_lies_in_one_date_and_dates_follow_each_other(): void
    {
        $random = new Randomizer(new Mt19937(11));
        $zones = DateTimeZone::listIdentifiers();
        for ($i = 0; $i < 3_000; $i++) {
            $calendar = new Calendar(new DateTimeZone($zones[$random->getInt(0, count($zones) - 1)]));
            $at = $random->getInt(self::date('2015-01-01'), self::date('2030-01-01'));
            $there = (new DateTimeImmutable("@{$at}"))->setTimezone($calendar->zone);
            self::assertSame($there->format('Y-m-d H:i:s'), gmdate('Y-m-d H:i:s', $calendar->shown($at)));
            $day = $calendar->day($at);
            self::assertSame($there->format('Y-m-d'), gmdate('Y-m-d', $day));
            self::assertTrue($calendar->begin($day) <= $at && $at < $calendar->end($day), "{$there->format('c e')}");
            self::assertSame($day, $calendar->day($calendar->begin($day)));
            self::assertSame($day - 86_400, $calendar->day($calendar->begin($day) - 1));
            self::assertSame($calendar->end($day), $calendar->begin($day + 86_400));
        }
    }

    public function test_offsets_say_what_clocks_show(): void
    {
        $random = new Randomizer(new Mt19937(5));
        foreach (['UTC', 'Europe/Berlin', 'America/New_York', 'Australia/Lord_Howe', 'Africa/Casablanca', 'Asia/Kolkata'] as $zone) {
            $calendar = new Calendar(new DateTimeZone($zone));
            [$from, $to] = [self::date('2025-06-01') + 1_234, self::date('2026-12-01')];
            $offsets = $calendar->offsets($from, $to);
            self::assertSame($from, array_key_first($offsets));
            for ($i = 0; $i < 300; $i++) {
                $at = $random->getInt($from, $to);
                $since = max(array_filter(array_keys($offsets), static fn (int $one): bool => $one <= $at));
                self::assertSame($calendar->shown($at), $at + $offsets[$since], "{$zone} {$at}");
            }
        }
        self::assertCount(1, Calendar::utc()->offsets(0, self::date('2026-12-01')));
    }

    public function test_months_and_spans_begin_and_end_at_midnight_there(): void
    {
        $calendar = new Calendar(new DateTimeZone('Europe/Berlin'));
        // An hour before UTC's midnight it is November there already.
        self::assertSame(
            ['2026-10-31T23:00:00Z', '2026-11-30T23:00:00Z'],
            array_map(static fn (int $at): string => gmdate('Y-m-d\TH:i:s\Z', $at), $calendar->month(self::date('2026-10-31 23:10'))),
        );
        [$from, $to] = $calendar->span(Days::month('2026-10'));
        self::assertSame(745 * 3_600, $to - $from);
        self::assertTrue(Calendar::utc()->isUtc() && ! $calendar->isUtc());
    }

    #[TestWith(['1969-12-31 23:00', '1969-12-31'])]
    #[TestWith(['1970-01-01 00:00', '1970-01-01'])]
    #[TestWith(['2026-11-29 23:59:59', '2026-11-29'])]
    public function test_a_day_starts_at_midnight(string $at, string $day): void
    {
        self::assertSame(self::date($day), Days::start(self::date($at)));
    }
}
