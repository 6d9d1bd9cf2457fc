<?php

declare(strict_types=1);

namespace Tests\Core\Alerts;

use Fulcrion\Core\Alerts\AlertCondition;
use Fulcrion\Core\Alerts\AlertCourse;
use Fulcrion\Core\Alerts\AlertRing;
use Fulcrion\Core\Alerts\AlertState;
use Fulcrion\Core\Alerts\DaysLeft;
use Fulcrion\Core\Alerts\SilentSeconds;
use Fulcrion\Core\Alerts\ThresholdSide;
use Fulcrion\Core\Alerts\TimesUsual;
use InvalidArgumentException;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class AlertCourseTest extends TestCase
{
    private const FROM = 1_795_392_000;

    private static function above(float $threshold, ?float $calm = null, int $for = 0, int $quiet = 0, ?float $share = null): AlertCondition
    {
        return new AlertCondition(ThresholdSide::Above, $threshold, $calm ?? $threshold, $for, $quiet, $share);
    }

    /**
     * @param  list<float|null>  $values a minute each
     * @return list<array{int|null, int|null, int|null, float}> since, rang and ended, in minutes, and the worst
     */
    private static function rings(AlertCondition $condition, array $values): array
    {
        $minute = static fn (?int $at): ?int => $at === null ? null : intdiv($at - self::FROM, 60);

        return array_map(
            static fn (AlertRing $ring): array => [$minute($ring->from), $minute($ring->rangAt), $minute($ring->to), $ring->worst],
            AlertCourse::rings($condition, ['h' => $values], self::FROM, 60),
        );
    }

    /**
     * @return iterable<string, array{AlertCondition, list<float|null>, list<array{int, int, int|null, float}>}>
     */
    public static function courses(): iterable
    {
        yield 'the threshold itself is reached' => [self::above(5), [4, 5, 4], [[1, 2, 2, 5.0]]];
        yield 'below' => [new AlertCondition(ThresholdSide::Below, 5, 5, 0, 0), [6, 5, 3, 6], [[1, 2, 3, 3.0]]];
        yield 'it has to last' => [self::above(5, for: 180), [6, 6, 4, 6, 6, 6, 6, 4], [[3, 6, 7, 6.0]]];
        yield 'just long enough' => [self::above(5, for: 180), [6, 7, 6, 4], [[0, 3, 3, 7.0]]];
        yield 'not long enough by a step' => [self::above(5, for: 181), [6, 7, 6, 4], []];
        yield 'between threshold and calm it goes on' => [self::above(5, 3), [6, 4, 3.1, 6, 4, 3, 4], [[0, 1, 5, 6.0]]];
        yield 'calm for a while' => [self::above(5, 3, quiet: 120), [6, 2, 4, 2, 2, 2], [[0, 1, 3, 6.0]]];
        yield 'it goes on at the end' => [self::above(5), [1, 6, 8], [[1, 2, null, 8.0]]];
        yield 'over a gap a ring goes on' => [self::above(5), [6, null, null, 6, 1], [[0, 1, 4, 6.0]]];
        yield 'over a gap nothing begins' => [self::above(5, for: 180), [6, 6, null, 6, 6, 1], []];
        yield 'a gap is not calm' => [self::above(5, quiet: 120), [6, 1, null, 6, 1, 1], [[0, 1, 4, 6.0]]];
        yield 'nothing known' => [self::above(5), [null, null], []];
        yield 'what goes up and down rings once' => [self::above(5, 4, 0, 180), [6, 4.5, 6, 3.9, 6, 4.5, 3, 3, 3], [[0, 1, 6, 6.0]]];
    }

    /**
     * @param  list<float|null>  $values
     * @param  list<array{int, int, int|null, float}>  $expected
     */
    #[DataProvider('courses')]
    public function test_a_condition_rings_and_is_over(AlertCondition $condition, array $values, array $expected): void
    {
        self::assertEquals($expected, self::rings($condition, $values));
    }

    public function test_it_comes_to_the_same_step_by_step(): void
    {
        $random = new Randomizer(new Mt19937(23));
        for ($try = 0; $try < 200; $try++) {
            $values = [];
            for ($host = 0; $host < 3; $host++) {
                for ($i = 0; $i < 40; $i++) {
                    $values["h{$host}"][] = $random->getInt(0, 9) === 0 ? null : $random->getInt(0, 100) / 10;
                }
            }
            $condition = self::above(6.5, 5.0, $random->getInt(0, 4) * 60, $random->getInt(0, 4) * 60,
                $random->getInt(0, 1) === 0 ? null : 0.6);
            $states = [];
            $ended = $begun = [];
            for ($i = 0; $i < 40; $i++) {
                // As it is kept from one time to the next.
                $plain = json_decode(json_encode(array_map(static fn (AlertState $one): array => $one->plain(), $states),
                    JSON_THROW_ON_ERROR | JSON_PRESERVE_ZERO_FRACTION), true);
                $states = array_map(static fn (mixed $one): AlertState => AlertState::read($one) ?? throw new InvalidArgumentException(),
                    (array) $plain);
                $one = AlertCourse::advance($condition, $states, array_map(static fn (array $list): array => [$list[$i]], $values),
                    self::FROM + 60 * $i, 60);
                $states = $one->states;
                array_push($ended, ...$one->ended);
                array_push($begun, ...$one->begun);
            }
            $all = AlertCourse::rings($condition, $values, self::FROM, 60);
            $over = array_values(array_filter($all, static fn (AlertRing $ring): bool => $ring->to !== null));
            $order = static function (array $rings): array {
                usort($rings, static fn (AlertRing $a, AlertRing $b): int => [$a->rangAt, $a->host] <=> [$b->rangAt, $b->host]);

                return $rings;
            };
            self::assertEquals($over, $order($ended));
            self::assertSame(array_map(static fn (AlertRing $r): array => [$r->host, $r->from, $r->rangAt], $all),
                array_map(static fn (AlertRing $r): array => [$r->host, $r->from, $r->rangAt], $order($begun)));
        }
    }

    public function test_a_share_of_the_hosts_has_to_reach_it_together(): void
    {
        $values = ['a' => [9.0, 9, 9, 1, 1], 'b' => [1.0, 9, 9, 9, 1], 'c' => [1.0, 1, 9, 1, null], 'd' => [null, null, 1.0, 1, 1]];
        $condition = self::above(5, share: 0.6);
        // One of three, two of three, three of four, one of four, none.
        $rings = AlertCourse::rings($condition, $values, self::FROM, 60);
        self::assertEquals([new AlertRing('', self::FROM + 60, self::FROM + 120, self::FROM + 180, 0.75)], $rings);
        self::assertSame([], AlertCourse::rings(self::above(5, share: 0.76), $values, self::FROM, 60));
        self::assertSame([], AlertCourse::rings(self::above(5, for: 180, share: 0.6), $values, self::FROM, 60));
        self::assertSame([], AlertCourse::rings($condition, [], self::FROM, 60));
    }

    public function test_a_condition_that_cannot_be_is_refused(): void
    {
        foreach ([
            ['calm value below', static fn () => self::above(5, 6)],
            ['calm value above', static fn () => new AlertCondition(ThresholdSide::Below, 5, 4, 0, 0)],
            ['less than nothing', static fn () => self::above(5, 4, -1)],
            ['less than nothing', static fn () => self::above(5, 4, 0, -1)],
            ['100% at most', static fn () => self::above(5, 4, 0, 0, 1.01)],
            ['more than 0', static fn () => self::above(5, 4, 0, 0, 0.0)],
        ] as [$said, $make]) {
            try {
                $make();
                self::fail($said);
            } catch (InvalidArgumentException $error) {
                self::assertStringContainsString($said, $error->getMessage());
            }
        }
        self::assertSame([10.0, 8.0], [self::above(5, 4)->at(10)->threshold, self::above(5, 4)->at(10)->calm]);
        self::assertSame(3.0, self::above(0, -1)->at(4)->calm);
        self::assertSame(-4.0, self::above(-4, -5)->at(-4)->threshold);
        self::assertSame(4.0, self::above(4, -2)->at(4)->threshold);
        foreach ([null, 'x', [1, 2, 3], ['a', null, null, 1.0], [1, 'b', null, 1.0], [1, null, 2.5, 1.0], [1, null, null, 'd']] as $odd) {
            self::assertNull(AlertState::read($odd));
        }
    }

    public function test_silence_is_counted_from_the_last_word(): void
    {
        self::assertSame([null, 0.0, 60.0, 120.0, 0.0, 60.0], SilentSeconds::of([null, 1.0, null, null, 0.0, null], 60));
        self::assertSame([360.0, 0.0], SilentSeconds::of([null, 1.0], 60, 300));
        self::assertSame([], SilentSeconds::of([], 60));
    }

    public function test_times_usual_is_held_against_the_same_hours_of_weeks_before(): void
    {
        $monday = strtotime('2026-11-02 00:00 UTC');
        $hours = [];
        for ($week = 0; $week < 5; $week++) {
            for ($hour = 0; $hour < 168; $hour++) {
                $hours[] = $hour === 8 ? [100.0, 200.0, 600.0, 900.0, 1_000.0][$week] : 10.0;
            }
        }
        $utc = new \DateTimeZone('UTC');
        $at = static fn (int $week): ?float => TimesUsual::of([900.0], (int) $monday + $week * 604_800 + 8 * 3_600 + 300, 300, $hours,
            (int) $monday, $utc)[0];
        // The middle of what was before, of two weeks at least and four at most.
        self::assertSame([null, null, 6.0, 4.5, 900 / 400], array_map($at, [0, 1, 2, 3, 4]));
        self::assertSame([1.2, null, 1.2], TimesUsual::of([12.0, null, 12.0], (int) $monday + 2 * 604_800, 3_600, $hours,
            (int) $monday, $utc));
        // Of what is usually nothing nothing is a multiple.
        self::assertSame([null], TimesUsual::of([12.0], (int) $monday + 3 * 604_800, 3_600, array_fill(0, 600, 0.0), (int) $monday, $utc));
        // An hour is one of the clock of that place.
        $kolkata = new \DateTimeZone('Asia/Kolkata');
        self::assertSame([1.2], TimesUsual::of([12.0], (int) $monday + 2 * 604_800 + 3 * 3_600, 3_600, $hours, (int) $monday, $kolkata));
    }

    public function test_days_left_follow_the_middle_of_the_growth(): void
    {
        $even = array_map(static fn (int $day): float => 100.0 + 5 * $day, range(0, 13));
        self::assertSame(7.0, DaysLeft::of($even, 200.0));
        // A load of 70 each seventh day is ten a day, whatever day it is.
        for ($today = 14; $today < 28; $today++) {
            $steps = array_map(static fn (int $day): float => 70.0 * intdiv($day, 7), range(0, $today));
            self::assertSame(50.0, DaysLeft::of($steps, end($steps) + 500.0));
        }
        // One clean-up is forgotten after eight days.
        $cleaned = array_map(static fn (int $day): float => 700.0 + 10.0 * $day - ($day > 12 ? 400.0 : 0.0), range(0, 27));
        self::assertSame(43.0, DaysLeft::of($cleaned, 1_000.0));
        self::assertSame(0.0, DaysLeft::of($even, 165.0));
        self::assertSame(DaysLeft::NEVER, DaysLeft::of(array_fill(0, 9, 4.0), 9.0));
        self::assertSame(DaysLeft::NEVER, DaysLeft::of([9.0, 8.0, 7.0, 6.0], 99.0));
        self::assertNull(DaysLeft::of([1.0, null, 2.0, 3.0], 9.0));
        self::assertSame(3.0, DaysLeft::of([1.0, null, 3.0, 4.0, 5.0], 8.0));
        self::assertNull(DaysLeft::of($even, 0.0));
        // What was long ago says nothing of today.
        $longer = array_map(static fn (int $day): float => 100.0 + 5 * $day, range(0, 20));
        self::assertSame(3.0, DaysLeft::of([...array_fill(0, 20, 900.0), ...$longer], 215.0));
    }
}
