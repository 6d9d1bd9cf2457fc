<?php

declare(strict_types=1);

namespace Tests\Core\Usage;

use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\TeamBook;
use Fulcrion\Core\Usage\TeamMembership;
use Fulcrion\Core\Usage\UsageBridge;
use Fulcrion\Core\Usage\UsageChange;
use Fulcrion\Core\Usage\UsageMeasure;
use Fulcrion\Core\Usage\Used;
use InvalidArgumentException;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class UsageTest extends TestCase
{
    public function test_a_change_is_told_by_its_parts_worked_by_hand(): void
    {
        $parts = static fn (?Used $before, ?Used $after): array => [
            ($c = UsageChange::of('x', $before, $after))->new, $c->gone, $c->moreExecutions, $c->moreEach, $c->change(), $c->factor(),
        ];
        self::assertSame([500, 0, 0, 0, 500, null], $parts(null, new Used(5, 500)));
        self::assertSame([0, -500, 0, 0, -500, 0.0], $parts(new Used(5, 500), null));
        // Ten runs of 100 became fifteen of 120: five more of 100, and 20 more for each of fifteen.
        self::assertSame([0, 0, 500, 300, 800, 1.8], $parts(new Used(10, 1_000), new Used(15, 1_800)));
        self::assertSame([0, 0, -500, 200, -300, 0.7], $parts(new Used(10, 1_000), new Used(5, 700)));
        self::assertSame([0, 0, 33, 0, 33, 1.33], $parts(new Used(3, 100), new Used(4, 133)), 'rounded, and the rest is the other part');
        // What reaches over from before has no execution that began.
        self::assertSame([0, 0, 0, 40, 40, 1.4], $parts(new Used(0, 100), new Used(2, 140)));
        self::assertSame([0, 0, 0, 0, 0, null], $parts(null, null));
        // Runs that used nothing are there all the same.
        self::assertSame([0, 0, 0, 7, 7, null], $parts(new Used(3, 0), new Used(3, 7)));
    }

    public function test_parts_always_add_up_to_the_last_unit(): void
    {
        $random = new Randomizer(new Mt19937(20));
        for ($round = 0; $round < 400; $round++) {
            $before = $after = [];
            for ($i = $random->getInt(0, 30); $i > 0; $i--) {
                $key = 'k'.$random->getInt(1, 20);
                $used = new Used($random->getInt(0, 10_000), $random->getInt(0, 10 ** 14));
                if ($random->getInt(0, 1) === 0) {
                    $before[$key] = $used;
                } else {
                    $after[$key] = $used;
                }
            }
            $bridge = UsageBridge::of($before, $after);
            $sum = static fn (array $list): int => array_sum(array_map(static fn (Used $one): int => $one->amount, $list));
            self::assertSame($sum($after) - $sum($before), $bridge->change());
            self::assertSame($bridge->change(), array_sum($bridge->parts()));
            foreach ([0, 1, 5, 100] as $count) {
                [$foremost, $rest] = $bridge->foremost($count);
                $shown = array_sum(array_map(static fn (UsageChange $c): int => $c->change(), $foremost));
                self::assertSame($bridge->change(), $rest + $shown);
                self::assertLessThanOrEqual($count, count($foremost));
            }
            for ($i = 1; $i < count($bridge->changes); $i++) {
                self::assertGreaterThanOrEqual(abs($bridge->changes[$i]->change()), abs($bridge->changes[$i - 1]->change()));
            }
            // From the other end every part is there with the other sign, but for how executions and each are told apart.
            $back = UsageBridge::of($after, $before);
            self::assertSame(-$bridge->change(), $back->change());
            self::assertSame([-$bridge->parts()['new'], -$bridge->parts()['gone']], [$back->parts()['gone'], $back->parts()['new']]);
        }
    }

    #[TestWith(['2026-11-29 10:00', '2026-11-01', '2026-11-30', '2026-10-01', '2026-10-30', '1 to 29 November 2026'])]
    #[TestWith(['2026-11-30 23:59', '2026-11-01', '2026-12-01', '2026-10-01', '2026-10-31', 'November 2026'])]
    #[TestWith(['2026-03-30 00:00', '2026-03-01', '2026-03-31', '2026-02-01', '2026-03-01', '1 to 30 March 2026'])]
    #[TestWith(['2026-01-01 05:00', '2026-01-01', '2026-01-02', '2025-12-01', '2025-12-02', '1 January 2026'])]
    #[TestWith(['2028-02-29 05:00', '2028-02-01', '2028-03-01', '2028-01-01', '2028-01-30', 'February 2028'])]
    public function test_a_month_that_is_not_over_is_held_against_the_same_days(
        string $now,
        string $from,
        string $to,
        string $before,
        string $beforeTo,
        string $said,
    ): void {
        $days = Days::monthTo((int) strtotime("{$now} UTC"));
        $same = $days->sameOfMonthBefore();
        $day = static fn (int $at): string => gmdate('Y-m-d', $at);
        self::assertSame([$from, $to, $before, $beforeTo], [$day($days->from), $day($days->to), $day($same->from), $day($same->to)]);
        self::assertSame($said, $days->describe());
        self::assertTrue($days->isOfOneMonth());
    }

    public function test_days_of_a_month_and_others(): void
    {
        $month = Days::month('2026-02');
        self::assertSame(28, $month->count());
        self::assertSame('February 2026', $month->describe());
        self::assertSame(28, count($month->starts()));
        self::assertSame($month->to - 86_400, $month->starts()[27]);
        self::assertSame(10, Days::month('2026-02', (int) strtotime('2026-02-10 07:00 UTC'))->count());
        $days = new Days((int) strtotime('2026-02-25 UTC'), (int) strtotime('2026-03-04 UTC'));
        self::assertSame('25 February to 3 March 2026', $days->describe());
        self::assertFalse($days->isOfOneMonth());
        self::assertSame('18 to 24 February 2026', $days->before()->describe());
        self::assertSame('25 to 31 January 2026', $days->sameOfMonthBefore()->describe());
        self::assertSame('31 January 2026', (new Days((int) strtotime('2026-01-31 UTC'), (int) strtotime('2026-02-01 UTC')))->describe());
        // Of a day the month before has not, its last one.
        $last = new Days((int) strtotime('2026-03-31 UTC'), (int) strtotime('2026-04-01 UTC'));
        self::assertSame('28 February 2026', $last->sameOfMonthBefore()->describe());
    }

    public function test_a_week_begins_on_monday(): void
    {
        // 2026-11-23 is a Monday; its first second, one within and the last before the next Monday lie in the same week.
        foreach (['2026-11-23 00:00:00', '2026-11-26 13:20:00', '2026-11-29 23:59:59'] as $moment) {
            self::assertSame('23 to 29 November 2026', Days::week((int) strtotime("{$moment} UTC"))->describe(), $moment);
        }
        self::assertSame('30 November to 6 December 2026', Days::week((int) strtotime('2026-11-30 UTC'))->describe());
        for ($at = 1_700_000_000; $at < 1_702_000_000; $at += 40_007) {
            self::assertSame(strtotime('monday this week', $at - $at % 86_400), Days::week($at)->from);
        }
    }

    #[TestWith(['2026-13'])]
    #[TestWith(['26-01'])]
    #[TestWith(["2026-01\n"])]
    #[TestWith(['next'])]
    public function test_what_is_no_month_is_refused_with_how_to_write_one(string $month): void
    {
        $this->expectException(InvalidArgumentException::class);
        $this->expectExceptionMessage('Write it as 2026-11.');
        Days::month($month);
    }

    public function test_a_month_that_has_not_begun_and_days_that_are_none(): void
    {
        foreach (
            [
                static fn () => Days::month('2026-12', (int) strtotime('2026-11-29 UTC')),
                static fn () => new Days(86_400, 86_400),
                static fn () => new Days(5, 86_400),
                static fn () => new Days(0, 86_401),
            ] as $i => $make
        ) {
            try {
                $make();
                self::fail("case {$i}");
            } catch (InvalidArgumentException $error) {
                self::assertNotSame('', $error->getMessage());
            }
        }
    }

    public function test_measures_know_their_unit(): void
    {
        self::assertCount(8, array_unique(array_map(static fn (UsageMeasure $m): string => $m->label(), UsageMeasure::cases())));
        self::assertSame(
            ['time in flight', 'CPU time', 'queued time'],
            array_values(array_map(
                static fn (UsageMeasure $m): string => $m->label(),
                array_filter(UsageMeasure::cases(), static fn (UsageMeasure $m): bool => $m->isTime()),
            )),
        );
        self::assertTrue(UsageMeasure::Scanned->isBytes() && UsageMeasure::Spilled->isBytes());
        self::assertFalse(UsageMeasure::Rows->isBytes());
    }

    #[TestWith(['this month', '1 to 29 November 2026'])]
    #[TestWith([' Last  Month ', 'October 2026'])]
    #[TestWith(['2026-10', 'October 2026'])]
    #[TestWith(['2026-11', '1 to 29 November 2026'])]
    #[TestWith(['last 7 days', '22 to 28 November 2026'])]
    #[TestWith(['last 1 day', '28 November 2026'])]
    #[TestWith(['2026-11-03', '3 November 2026'])]
    #[TestWith(['2026-10-30 to 2026-11-02', '30 October to 2 November 2026'])]
    public function test_days_are_read_as_people_type_them(string $text, string $said): void
    {
        self::assertSame($said, Days::parse($text, (int) strtotime('2026-11-29 14:00 UTC'))->describe());
    }

    #[TestWith([''])]
    #[TestWith(['last 0 days'])]
    #[TestWith(['yesterday'])]
    #[TestWith(['2026-12'])]
    #[TestWith(['2026-02-30'])]
    #[TestWith(['2026-11-03 to 2026-11-02'])]
    public function test_what_is_no_span_of_days_is_refused(string $text): void
    {
        $this->expectException(InvalidArgumentException::class);
        Days::parse($text, (int) strtotime('2026-11-29 14:00 UTC'));
    }

    public function test_who_changes_team_takes_nothing_along_and_nobody_is_hidden(): void
    {
        $day = static fn (int $n): int => 86_400 * (20_000 + $n);
        $book = new TeamBook([
            new TeamMembership('Ada', 'pickers', 0, $day(10) + 3_600),
            new TeamMembership('ada', 'packers', $day(10) + 3_600, $day(20)),
            new TeamMembership('ada', 'lab', $day(25), null),
            new TeamMembership('bren', '', 0, null),
        ]);
        $on = static fn (string $who, int $n): string => $book->on($who, $day($n + 1));
        self::assertSame('pickers', $on('ada', 0));
        self::assertSame('pickers', $on('ADA', 9));
        self::assertSame('packers', $on('ada', 10), 'the whole day goes to the team at its end');
        self::assertSame(['packers', 'unassigned', 'unassigned', 'lab'], [$on('ada', 19), $on('ada', 20), $on('ada', 24), $on('ada', 25)]);
        self::assertSame(['unassigned', 'unassigned'], [$on('bren', 3), $on('nobody', 3)]);
    }

    public function test_what_days_say_of_themselves_can_be_typed_again(): void
    {
        $now = (int) strtotime('2026-11-29 14:00 UTC');
        foreach (['last 1 day', 'last 30 days', 'this month', '2026-02-28 to 2026-03-01'] as $text) {
            $days = Days::parse($text, $now);
            self::assertEquals($days, Days::parse($days->text(), $now), $text);
        }
    }
}
