<?php

declare(strict_types=1);

namespace Tests\Core\Time;

use DateTimeImmutable;
use DateTimeZone;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Time\Window;
use Fulcrion\Core\Time\WindowText;
use InvalidArgumentException;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class WindowTextTest extends TestCase
{
    /** Friday 2026-11-20 12:02:00 UTC */
    private const NOW = 1_795_176_120;

    public function test_intervals_begin_and_end_with_their_window(): void
    {
        $window = new Window(7_500, 15_000);
        self::assertSame([7_500, 10_800, 14_400], $window->intervals(3_600));
        self::assertSame(
            [3_300, 3_600, 600],
            array_map(static fn (int $start): int => $window->length($start, 3_600), $window->intervals(3_600)),
        );
        self::assertSame([7_200], (new Window(7_200, 10_800))->intervals(3_600));
        self::assertSame(7_500, array_sum(array_map(static fn (int $start): int => $window->length($start, 900), $window->intervals(900))));
    }

    #[DataProvider('typed')]
    public function test_reads_what_people_type(string $text, string $from, string $to, string $zone = 'UTC'): void
    {
        $window = WindowText::parse($text, self::NOW, new DateTimeZone($zone));
        self::assertSame([$from, $to], [gmdate('Y-m-d H:i', $window->from), gmdate('Y-m-d H:i', $window->to)]);
    }

    /** @return iterable<int, array{0: string, 1: string, 2: string, 3?: string}> */
    public static function typed(): iterable
    {
        yield ['last 3 hours', '2026-11-20 09:00', '2026-11-20 12:05'];
        yield ['Last+day', '2026-11-19 12:00', '2026-11-20 12:05'];
        yield ['today', '2026-11-20 00:00', '2026-11-20 12:05'];
        yield ['yesterday', '2026-11-19 00:00', '2026-11-20 00:00'];
        yield ['tomorrow 01:00-04:00', '2026-11-21 01:00', '2026-11-21 04:00'];
        yield ['next 2 hours', '2026-11-20 12:00', '2026-11-20 14:05'];
        yield ['yesterday 06:00-09:00', '2026-11-19 06:00', '2026-11-19 09:00'];
        yield ['yesterday 06:00 – 09:00', '2026-11-19 05:00', '2026-11-19 08:00', 'Europe/Berlin'];
        yield ['6-9', '2026-11-20 06:00', '2026-11-20 09:00'];
        yield ['monday', '2026-11-16 00:00', '2026-11-17 00:00'];
        yield ['friday', '2026-11-20 00:00', '2026-11-21 00:00'];
        yield ['last friday', '2026-11-13 00:00', '2026-11-14 00:00'];
        yield ['2026-11-18', '2026-11-18 00:00', '2026-11-19 00:00'];
        yield ['2026-11-18 22:00-04:00', '2026-11-18 22:00', '2026-11-19 04:00'];
        yield ['2026-11-18 22:00 to 2026-11-19 04:02', '2026-11-18 22:00', '2026-11-19 04:05'];
        yield ['2026-11-10 to 2026-11-12', '2026-11-10 00:00', '2026-11-13 00:00'];
        // The clocks go back on this day: it has 25 hours.
        yield ['2026-10-25', '2026-10-24 22:00', '2026-10-25 23:00', 'Europe/Berlin'];
    }

    public function test_what_it_writes_it_reads(): void
    {
        $zone = new DateTimeZone('America/St_Johns');
        foreach ([[0, 300], [86_400 * 3, 86_400 * 3 + 7_200], [300, 86_400 * 30]] as [$from, $to]) {
            $window = new Window(self::NOW - 120 - $to, self::NOW - 120 - $from);
            self::assertEquals($window, WindowText::parse(WindowText::format($window, $zone), self::NOW, $zone));
        }
    }

    public function test_reads_a_moment(): void
    {
        // Monday, 30 November 2026, 05:00 in Berlin.
        $zone = new DateTimeZone('Europe/Berlin');
        $now = (new DateTimeImmutable('2026-11-30 05:00', $zone))->getTimestamp();
        foreach ([
            'Monday 08:40' => '2026-11-23 08:40', 'monday 04:00' => '2026-11-30 04:00', 'tue 11' => '2026-11-24 11:00',
            'yesterday 11:00' => '2026-11-29 11:00', '04:30' => '2026-11-30 04:30', '2026-11-20 06:05' => '2026-11-20 06:05',
            'now' => '2026-11-30 05:00', 'today 00:10' => '2026-11-30 00:10', 'friday' => '2026-11-27 00:00', 'last mon 06:00' =>
            '2026-11-23 06:00',
        ] as $text => $expected) {
            $at = WindowText::instant($text, $now, $zone);
            self::assertSame($expected, (new DateTimeImmutable("@{$at}"))->setTimezone($zone)->format('Y-m-d H:i'), $text);
        }
        foreach ([
            '08:40' => 'not been yet', 'today 23:00' => 'not been yet', '2026-12-01 00:00' => 'not been yet', 'soon' => 'not a moment',
            '' => 'not a moment', '25:00' => 'not a moment', 'monday 8:99' => 'not a moment',
        ] as $text => $complaint) {
            try {
                WindowText::instant($text, $now, $zone);
                self::fail($text);
            } catch (InvalidArgumentException $error) {
                self::assertStringContainsString($complaint, $error->getMessage());
            }
        }
    }

    public function test_complains_in_words(): void
    {
        foreach (['', 'soon', '2026-02-30', 'yesterday 9:00', '25-26', '2026-11-19 to 2026-11-01', 'last 900 weeks'] as $text) {
            try {
                WindowText::parse($text, self::NOW, new DateTimeZone('UTC'));
                self::fail("\"{$text}\" was taken for a window");
            } catch (InvalidArgumentException $exception) {
                self::assertNotSame('', $exception->getMessage());
            }
        }
    }

    public function test_numbers_read_as_people_read_them(): void
    {
        self::assertSame(
            ['840 µs', '12.4 ms', '3.2 s', '4 min 10 s', '3 h 5 min', '2 d 4 h', '0 µs', '–'],
            array_map(Quantity::duration(...), [840, 12_400, 3_200_000, 250_000_000, 11_100_000_000, 187_200_000_000, 0, null]),
        );
        self::assertSame(['512 B', '1.5 KiB', '48 MiB'], array_map(Quantity::bytes(...), [512, 1_536, 50_331_648]));
        self::assertSame("12\u{202F}345", Quantity::count(12_345));
        self::assertSame(['12.3 k', '4.56 M', '999'], array_map(Quantity::short(...), [12_300, 4_560_000, 999]));
        self::assertSame(['0%', '<0.1%', '4.2%', '38%'], array_map(Quantity::percent(...), [0, 0.0004, 0.042, 0.38]));
        self::assertSame('slower by 38%', Quantity::change(100, 138, 'slower', 'faster'));
        self::assertSame('slower by a factor of 6', Quantity::change(1, 6, 'slower', 'faster'));
        self::assertSame('faster by 50%', Quantity::change(2, 1, 'slower', 'faster'));
        self::assertSame(['0.147', '0.0004', '1.5', '0'], array_map(Quantity::digits(...), [0.147, 0.0004, 1.5, 0]));
    }
}
