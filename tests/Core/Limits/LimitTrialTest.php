<?php

declare(strict_types=1);

namespace Tests\Core\Limits;

use Fulcrion\Core\Limits\Act;
use Fulcrion\Core\Limits\HourUse;
use Fulcrion\Core\Limits\Limit;
use Fulcrion\Core\Limits\LimitMeasure;
use Fulcrion\Core\Limits\LimitPeriod;
use Fulcrion\Core\Limits\LimitTrial;
use Fulcrion\Core\Limits\ScopeKind;
use Fulcrion\Core\Limits\Threshold;
use Fulcrion\Core\Limits\TrialAct;
use Fulcrion\Core\Usage\Days;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class LimitTrialTest extends TestCase
{
    /** Monday, 2 November 2026. */
    private const MONDAY = 1_793_577_600;

    private static function limit(LimitPeriod $period, int $amount, Threshold ...$thresholds): Limit
    {
        return new Limit(LimitMeasure::Bytes, ScopeKind::Team, 'lab', $period, $amount, array_values($thresholds));
    }

    private static function hour(int $day, int $hour, int $executions, int $amount, string $who = 'ada'): HourUse
    {
        $at = self::MONDAY + $day * Days::DAY;

        return new HourUse($at + $hour * 3_600, $at, $who, $executions, $amount);
    }

    /**
     * @return list<array{int, int, int}> day, percentage and second of the day
     */
    private static function acts(LimitTrial $trial): array
    {
        return array_map(static fn (TrialAct $act): array => [
            intdiv($act->day - self::MONDAY, Days::DAY), $act->threshold->percent, $act->at - $act->day,
        ], $trial->acts);
    }

    public function test_a_day_is_held_from_the_moment_its_limit_is_reached(): void
    {
        $limit = self::limit(LimitPeriod::Day, 1_000, new Threshold(50, Act::Note), new Threshold(100, Act::Hold));
        $trial = LimitTrial::of($limit, [
            self::hour(0, 9, 10, 800), self::hour(0, 8, 4, 400), self::hour(0, 10, 6, 300, 'bren'), self::hour(1, 8, 2, 499),
        ]);
        // 400 until nine; half is reached after an eighth of the next hour, the whole after three quarters of it.
        self::assertSame([[0, 50, 9 * 3_600 + 450], [0, 100, 9 * 3_600 + 2_700]], self::acts($trial));
        self::assertSame(['bren' => 6.0, 'ada' => 2.5], $trial->held);
        self::assertSame([self::MONDAY + 9 * 3_600 => 2.5, self::MONDAY + 10 * 3_600 => 6.0], $trial->heldAt);
        self::assertSame([1_000, 499], array_values($trial->passed));
        self::assertSame([1_500, 499], array_values($trial->wanted));
        self::assertSame(8.5, $trial->executions());
        self::assertSame(1, $trial->periodsHeld());
    }

    public function test_a_week_adds_up_its_days_and_begins_with_nothing(): void
    {
        $hours = array_map(static fn (int $day): HourUse => self::hour($day, 12, 10, 100), range(0, 13));
        $trial = LimitTrial::of(self::limit(LimitPeriod::Week, 550, new Threshold(100, Act::Hold)), $hours);
        self::assertSame([[0, 100, 5 * Days::DAY + 12 * 3_600 + 1_800], [7, 100, 5 * Days::DAY + 12 * 3_600 + 1_800]], self::acts($trial));
        // Of each Saturday a half, and each Sunday.
        self::assertSame(30.0, $trial->executions());
        self::assertSame(2, $trial->periodsHeld());
        self::assertSame(
            [self::MONDAY => 550, self::MONDAY + Days::WEEK => 550],
            $trial->passed,
        );
    }

    public function test_what_is_reached_exactly_holds_what_comes_after(): void
    {
        $limit = self::limit(LimitPeriod::Day, 100, new Threshold(100, Act::Hold));
        $trial = LimitTrial::of($limit, [self::hour(0, 1, 5, 100), self::hour(0, 2, 3, 0), self::hour(0, 3, 2, 1)]);
        self::assertSame(5.0, $trial->executions());
        self::assertSame([[0, 100, 2 * 3_600]], self::acts($trial));
        // Not before: what uses nothing of it passes.
        self::assertSame(0.0, LimitTrial::of($limit, [self::hour(0, 1, 5, 0), self::hour(0, 2, 5, 99)])->executions());
    }

    public function test_without_a_hold_nothing_is_held(): void
    {
        $trial = LimitTrial::of(self::limit(LimitPeriod::Day, 10, new Threshold(100, Act::Tell)), [self::hour(0, 1, 5, 1_000)]);
        self::assertSame([], $trial->held);
        self::assertSame(0, $trial->periodsHeld());
        self::assertCount(1, $trial->acts);
        self::assertSame($trial->wanted, $trial->passed);
    }

    public function test_nothing_ran(): void
    {
        foreach (LimitPeriod::cases() as $period) {
            $trial = LimitTrial::of(self::limit($period, 10, new Threshold(100, Act::Hold)), []);
            self::assertSame([[], [], [], []], [$trial->acts, $trial->held, $trial->passed, $trial->wanted]);
        }
    }

    public function test_single_statements_are_judged_by_their_mean_in_each_hour(): void
    {
        $limit = self::limit(LimitPeriod::Statement, 100, new Threshold(80, Act::Tell), new Threshold(100, Act::Hold));
        $trial = LimitTrial::of($limit, [
            self::hour(0, 8, 10, 790, 'small'), self::hour(0, 9, 10, 850, 'near'), self::hour(0, 10, 4, 404, 'large'),
            self::hour(0, 11, 1, 400, 'large'), self::hour(1, 8, 2, 200, 'large'), self::hour(2, 8, 0, 0, 'none'),
        ]);
        self::assertSame(['large' => 5.0], $trial->held);
        self::assertSame([[0, 80, 9 * 3_600], [0, 100, 10 * 3_600], [1, 80, 8 * 3_600]], self::acts($trial));
        self::assertSame([1_640, 200, 0], array_values($trial->passed));
    }

    /** Whatever is used and in whatever order it is told, no period passes its hold, and what is held and what passes is all there was. */
    public function test_nothing_passes_and_nothing_is_lost(): void
    {
        $random = new Randomizer(new Mt19937(21));
        for ($i = 0; $i < 60; $i++) {
            $hours = [];
            $count = $random->getInt(1, 80);
            for ($n = 0; $n < $count; $n++) {
                $hours[] = self::hour($random->getInt(0, 20), $random->getInt(0, 23), $random->getInt(0, 9), $random->getInt(0, 500),
                    'who'.$random->getInt(1, 3));
            }
            $limit = self::limit(
                [LimitPeriod::Day, LimitPeriod::Week, LimitPeriod::Month][$i % 3],
                $random->getInt(1, 4_000),
                new Threshold($random->getInt(1, 130), Act::Hold),
            );
            $trial = LimitTrial::of($limit, $hours);
            self::assertSame(
                array_sum(array_map(static fn (HourUse $one): int => $one->amount, $hours)),
                array_sum($trial->wanted),
            );
            foreach ($trial->passed as $day => $passed) {
                self::assertSame(min($limit->holdsAt(), $trial->wanted[$day]), $passed);
            }
            $all = array_sum(array_map(static fn (HourUse $one): int => $one->executions, $hours));
            self::assertLessThanOrEqual($all, $trial->executions());
            self::assertEqualsWithDelta($trial->executions(), array_sum($trial->heldAt), 1e-6);
            $reached = count(array_filter($trial->wanted, static fn (int $wanted): bool => $wanted >= $limit->holdsAt()));
            self::assertSame($reached, $trial->periodsHeld());
            self::assertEquals($trial, LimitTrial::of($limit, $random->shuffleArray($hours)));
        }
    }

    public function test_whom_it_tells_of_come_by_how_much_was_held(): void
    {
        $limit = self::limit(LimitPeriod::Day, 10, new Threshold(100, Act::Hold));
        $trial = LimitTrial::of($limit, [
            self::hour(0, 1, 1, 10, 'first'), self::hour(0, 2, 3, 5, 'bren'), self::hour(0, 3, 9, 5, 'cole'),
            self::hour(0, 4, 5, 5, 'bren'),
        ]);
        self::assertSame(['cole' => 9.0, 'bren' => 8.0], $trial->held);
        self::assertSame(
            [self::MONDAY + 2 * 3_600 => 3.0, self::MONDAY + 3 * 3_600 => 9.0, self::MONDAY + 4 * 3_600 => 5.0],
            $trial->heldAt,
        );
        // Several in one hour share what room there is by what they have.
        $shared = LimitTrial::of($limit, [self::hour(0, 1, 4, 10, 'ada'), self::hour(0, 1, 8, 10, 'bren')]);
        self::assertSame(['bren' => 4.0, 'ada' => 2.0], $shared->held);
        self::assertSame([[0, 100, 3_600 + 1_800]], self::acts($shared));
    }

    public function test_single_statements_below_the_hold_pass_and_are_counted(): void
    {
        $limit = self::limit(LimitPeriod::Statement, 100, new Threshold(50, Act::Note), new Threshold(100, Act::Hold));
        $trial = LimitTrial::of($limit, [
            self::hour(0, 7, 5, 500, 'whole'), self::hour(0, 8, 2, 198, 'near'), self::hour(0, 9, 2, 202, 'at'),
            self::hour(1, 9, 3, 303, 'at'), self::hour(1, 10, 1, 49, 'no'),
        ]);
        self::assertSame(['at' => 5.0], $trial->held, 'what has all of it passes, and no more');
        self::assertSame([self::MONDAY + 9 * 3_600 => 2.0, self::MONDAY + Days::DAY + 9 * 3_600 => 3.0], $trial->heldAt);
        self::assertSame([900, 352], array_values($trial->wanted));
        self::assertSame([698, 49], array_values($trial->passed));
        self::assertSame(2, $trial->periodsHeld());
        self::assertSame([100, 101, 101, 101], array_map(static fn (TrialAct $act): int => $act->used, $trial->acts));
    }
}
