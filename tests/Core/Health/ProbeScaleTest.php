<?php

declare(strict_types=1);

namespace Tests\Core\Health;

use DateTimeZone;
use Fulcrion\Core\Health\ProbeRun;
use Fulcrion\Core\Health\ProbeScale;
use Fulcrion\Core\Health\Struggles;
use PHPUnit\Framework\TestCase;

final class ProbeScaleTest extends TestCase
{
    /** Monday, 2 November 2026, 00:00 UTC. */
    private const MONDAY = 1_793_577_600;

    private const DAY = 86_400;

    private const IDLE_US = 500_000;

    private static function zone(string $name = 'UTC'): DateTimeZone
    {
        return new DateTimeZone($name);
    }

    /**
     * Every five minutes, idle but for what a function says.
     *
     * @param  callable(int): (float|null)|null  $times by Unix second; null where it fails
     * @return list<ProbeRun>
     */
    private static function runs(?callable $times = null, int $days = 28, int $from = self::MONDAY): array
    {
        $runs = [];
        for ($at = $from; $at < $from + $days * self::DAY; $at += 300) {
            $factor = $times === null ? 1.0 : $times($at);
            $runs[] = new ProbeRun($at, $factor === null ? null : (int) round(self::IDLE_US * $factor));
        }

        return $runs;
    }

    /** Nine times on Monday mornings. */
    private static function mondays(int $at): float
    {
        $minute = intdiv($at % self::DAY, 60);

        return gmdate('N', $at) === '1' && $minute >= 390 && $minute < 540 ? 9.0 : 1.0;
    }

    public function test_the_fastest_twentieth_is_idle_and_all_else_is_told_by_it(): void
    {
        $scale = ProbeScale::of(self::runs(static fn (int $at): float => $at % 3_000 === 0 ? 1.0 : 3.0), self::zone());
        self::assertSame(500_000.0, $scale->idleUs);
        self::assertSame(3.0, $scale->ratio(new ProbeRun(0, 1_500_000)));
        self::assertNull($scale->ratio(new ProbeRun(0, null)));
        self::assertSame([3.0, 2], $scale->middle(self::MONDAY + 300, self::MONDAY + 900));
        self::assertNull($scale->middle(self::MONDAY - 300, self::MONDAY));
        // Eleven runs are too few, twelve are not; those that failed are none.
        self::assertNull(ProbeScale::of(array_slice(self::runs(), 0, 11), self::zone())->idleUs);
        self::assertNotNull(ProbeScale::of(array_slice(self::runs(), 0, 12), self::zone())->idleUs);
        self::assertNull(ProbeScale::of(self::runs(static fn (): null => null), self::zone())->idleUs);
        self::assertNull(ProbeScale::of([], self::zone())->usual(self::MONDAY));
    }

    public function test_usual_is_what_was_at_that_hour_of_the_week_and_not_what_came_after(): void
    {
        $scale = ProbeScale::of(self::runs(self::mondays(...)), self::zone());
        $usual = $scale->usual(self::MONDAY + 21 * self::DAY + 8 * 3_600 + 120);
        self::assertNotNull($usual);
        self::assertSame([9.0, 9.0, 9.0, 36, true], [$usual->low, $usual->middle, $usual->high, $usual->runs, $usual->isWeekly]);
        $tuesday = $scale->usual(self::MONDAY + 22 * self::DAY + 8 * 3_600);
        self::assertSame([1.0, 1.0, 36], [$tuesday?->low, $tuesday?->high, $tuesday?->runs]);
        // In the second week one Monday is known: the same hour of all days tells then, of which most are idle.
        $second = $scale->usual(self::MONDAY + 7 * self::DAY + 8 * 3_600);
        self::assertSame([1.0, false, 84], [$second?->middle, $second?->isWeekly, $second?->runs]);
        self::assertNull($scale->usual(self::MONDAY + 8 * 3_600), 'nothing was before');
    }

    public function test_hours_are_those_of_the_clock_on_the_wall(): void
    {
        // Summer time ends on 25 October 2026 in Berlin: eight o'clock is eight o'clock before and after.
        $from = self::MONDAY - 14 * self::DAY;
        $berlin = self::zone('Europe/Berlin');
        $runs = self::runs(static function (int $at) use ($berlin): float {
            $here = (new \DateTimeImmutable("@{$at}"))->setTimezone($berlin);

            return $here->format('N G') === '1 8' ? 5.0 : 1.0;
        }, 28, $from);
        $at = (new \DateTimeImmutable('2026-11-09 08:30', $berlin))->getTimestamp();
        self::assertSame(5.0, ProbeScale::of($runs, $berlin)->usual($at)?->low);
        self::assertSame(['Mondays 08:00 to 09:00'], array_column(Struggles::of(ProbeScale::of($runs, $berlin), $berlin), 'when'));
    }

    public function test_a_part_of_the_week_that_is_slow_again_and_again_is_one_struggle(): void
    {
        $all = Struggles::of(ProbeScale::of(self::runs(self::mondays(...)), self::zone()), self::zone());
        self::assertCount(1, $all);
        $one = $all[0];
        self::assertSame(['Mondays 06:30 to 09:00', 9.0, 120, 4, 4], [$one->when, $one->ratio, $one->runs, $one->weeks, $one->known]);
        self::assertSame([self::MONDAY + 21 * self::DAY + 23_400, self::MONDAY + 21 * self::DAY + 32_400], [$one->lastFrom, $one->lastTo]);
    }

    public function test_once_is_an_accident_and_a_little_is_nothing(): void
    {
        $day = self::MONDAY + 9 * self::DAY;
        $once = static fn (int $at): float => $at >= $day && $at < $day + 7_200 ? 20.0 : 1.0;
        self::assertSame([], Struggles::of(ProbeScale::of(self::runs($once), self::zone()), self::zone()));
        $little = static fn (int $at): float => self::mondays($at) > 1 ? 1.9 : 1.0;
        self::assertSame([], Struggles::of(ProbeScale::of(self::runs($little), self::zone()), self::zone()));
        // Two of four weeks are no habit yet, three are.
        $weeks = static fn (int $first): callable => static fn (int $at): float => $at < self::MONDAY + $first * 7 * self::DAY ? 1.0
            : self::mondays($at);
        self::assertSame([], Struggles::of(ProbeScale::of(self::runs($weeks(2)), self::zone()), self::zone()));
        $three = Struggles::of(ProbeScale::of(self::runs($weeks(1)), self::zone()), self::zone());
        self::assertSame([3, 4], [$three[0]->weeks, $three[0]->known]);
    }

    public function test_a_night_is_two_struggles_as_it_is_two_days(): void
    {
        $night = static fn (int $at): float => in_array((int) gmdate('G', $at), [23, 0], true)
            && in_array(gmdate('N', $at), ['3', '4'], true) ? 4.0 : 1.0;
        $all = array_column(Struggles::of(ProbeScale::of(self::runs($night), self::zone()), self::zone()), 'when');
        sort($all);
        self::assertSame(['Thursdays 00:00 to 01:00', 'Thursdays 23:00 to 24:00', 'Wednesdays 00:00 to 01:00', 'Wednesdays 23:00 to 24:00'],
            $all);
    }
}
