<?php

declare(strict_types=1);

namespace Tests\Core\Alerts;

use Fulcrion\Core\Alerts\AlertCondition;
use Fulcrion\Core\Alerts\AlertCourse;
use Fulcrion\Core\Alerts\AlertRing;
use Fulcrion\Core\Alerts\AlertScore;
use Fulcrion\Core\Alerts\IncidentCourse;
use Fulcrion\Core\Alerts\IncidentReplay;
use Fulcrion\Core\Alerts\MarkedSpan;
use Fulcrion\Core\Alerts\QuietThreshold;
use Fulcrion\Core\Alerts\ThresholdSide;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class IncidentCourseTest extends TestCase
{
    private const AT = 1_795_392_000;

    private static function ring(string $host, int $rang, ?int $to): AlertRing
    {
        return new AlertRing($host, self::AT + $rang - 60, self::AT + $rang, $to === null ? null : self::AT + $to, 9.0);
    }

    /**
     * @param  array<string, list<AlertRing>>  $rings
     * @return list<array{int, int}> rings and words of each
     */
    private static function told(array $rings): array
    {
        return array_map(static fn (array $one): array => [count($one[0]->rings), $one[1]], IncidentReplay::of($rings));
    }

    public function test_twelve_hosts_behind_one_switch_are_one_incident_and_one_word(): void
    {
        $rings = [];
        for ($host = 1; $host <= 12; $host++) {
            $rings[] = self::ring("fern-{$host}", 0, 1_800);
        }
        self::assertSame([[12, 1]], self::told(['silent' => $rings]));
        // One after the other it grows, and is told when it has grown to twice what was told.
        $rings = [];
        for ($host = 0; $host < 12; $host++) {
            $rings[] = self::ring("fern-{$host}", 120 * $host, 7_200);
        }
        self::assertSame([[12, 2]], self::told(['silent' => $rings]));
    }

    public function test_what_rings_within_ten_minutes_belongs_together(): void
    {
        self::assertSame([[2, 1]], self::told(['a' => [self::ring('x', 0, 60)], 'b' => [self::ring('y', 290, 900)]]));
        self::assertSame([[2, 1]], self::told(['a' => [self::ring('x', 0, 60)], 'b' => [self::ring('y', 600, 900)]]));
        self::assertSame([[1, 1], [1, 1]], self::told(['a' => [self::ring('x', 0, 4_000)], 'b' => [self::ring('y', 601, 900)]]));
        // One that waits longer before it rings began together with the other.
        $late = new AlertRing('y', self::AT - 60, self::AT + 1_740, null, 9.0);
        self::assertSame([[2, 2]], self::told(['a' => [self::ring('x', 0, 4_000)], 'b' => [$late]]));
        // The same alert on another host belongs to it for as long as it is not over.
        self::assertSame([[2, 2]], self::told(['a' => [self::ring('x', 0, 4_000), self::ring('y', 3_000, 5_000)]]));
        self::assertSame([[1, 1], [1, 1]], self::told(['a' => [self::ring('x', 0, 60), self::ring('y', 960, 1_000)]]));
    }

    public function test_what_rings_again_before_it_is_over_goes_on_without_a_word(): void
    {
        $flaps = [];
        for ($i = 0; $i < 20; $i++) {
            $flaps[] = self::ring('x', 600 * $i, 600 * $i + 300);
        }
        self::assertSame([[1, 1]], self::told(['a' => $flaps]));
        self::assertSame([[1, 1], [1, 1]], self::told(['a' => [self::ring('x', 0, 300), self::ring('x', 1_200, 1_300)]]));
        self::assertSame([[1, 1]], self::told(['a' => [self::ring('x', 0, 300), self::ring('x', 1_199, 1_300)]]));
    }

    public function test_it_is_over_when_nothing_rang_for_a_quarter_of_an_hour(): void
    {
        $one = IncidentCourse::opened('a', 'x', self::AT - 60, self::AT)->rang('b', 'y', self::AT + 10);
        self::assertFalse($one->isOver(self::AT + 9_999));
        $one = $one->ended('a', 'x', self::AT + 100);
        self::assertNull($one->quietSince);
        $one = $one->ended('b', 'y', self::AT + 200);
        self::assertSame([false, true], [$one->isOver(self::AT + 1_099), $one->isOver(self::AT + 1_100)]);
        self::assertSame(self::AT + 200, $one->ended('b', 'y', self::AT + 900)->quietSince, 'an end that is told twice is one');
        self::assertFalse($one->rang('a', 'x', self::AT + 1_000)->isOver(self::AT + 5_000));
        self::assertFalse($one->isGrown(self::AT + 899));
        self::assertTrue($one->isGrown(self::AT + 900));
        self::assertFalse($one->told(self::AT + 900)->isGrown(self::AT + 9_000));
    }

    public function test_a_score_tells_what_was_caught_missed_and_rung_for_nothing(): void
    {
        $marked = [new MarkedSpan(self::AT, self::AT + 600, 'one'), new MarkedSpan(self::AT + 5_000, self::AT + 5_600, 'two'),
            new MarkedSpan(self::AT + 9_000, self::AT + 9_060, 'three')];
        $rings = [self::ring('x', 300, 900), self::ring('x', 3_000, 3_100), self::ring('x', 5_700, 6_000), self::ring('y', 9_060, null)];
        $score = AlertScore::of($rings, $marked);
        // What rings when it is over helps nobody.
        self::assertSame(['one', 'three'], array_map(static fn (MarkedSpan $one): string => $one->name, $score->caught));
        self::assertSame(['two'], array_map(static fn (MarkedSpan $one): string => $one->name, $score->missed));
        self::assertSame([$rings[1], $rings[2]], $score->quiet);
        self::assertSame([[], [], $rings], [AlertScore::of($rings, [])->caught, AlertScore::of($rings, [])->missed,
            AlertScore::of($rings, [])->quiet]);
    }

    public function test_the_quietest_threshold_still_catches_what_was_marked(): void
    {
        $random = new Randomizer(new Mt19937(5));
        for ($try = 0; $try < 20; $try++) {
            $values = [];
            for ($i = 0; $i < 600; $i++) {
                $values[] = (float) ($random->getInt(0, 400) / 10);
            }
            foreach ([100, 300, 500] as $place) {
                for ($i = 0; $i < 12; $i++) {
                    $values[$place + $i] = 50.0 + $random->getInt(0, 300) / 10;
                }
            }
            $marked = array_map(static fn (int $place): MarkedSpan => new MarkedSpan(self::AT + 60 * $place, self::AT + 60 * ($place + 12),
                "{$place}"), [100, 300, 500]);
            $values = array_values($values);
            $condition = new AlertCondition(ThresholdSide::Above, 10, 9, 180, 0);
            $found = QuietThreshold::find($condition, ['h' => $values], self::AT, 60, $marked) ?? 0.0;
            $missed = static fn (float $threshold): int => count(AlertScore::of(AlertCourse::rings($condition->at($threshold),
                ['h' => $values], self::AT, 60), $marked)->missed);
            self::assertSame(0, $missed($found));
            // By trying all: no value beyond it, but for those between two that were tried.
            $beyond = array_filter($values, static fn (float $value): bool => $value > $found + 0.1 && $missed($value) === 0);
            self::assertLessThanOrEqual(4, count(array_unique($beyond)));
        }
        $flat = ['h' => array_fill(0, 100, 1.0)];
        $one = [new MarkedSpan(self::AT + 600, self::AT + 900, 'one')];
        $condition = new AlertCondition(ThresholdSide::Above, 10, 10, 0, 0);
        // All of it has rung since before: it did not begin in time.
        self::assertSame(1.0, QuietThreshold::find($condition, $flat, self::AT, 60, $one));
        self::assertNull(QuietThreshold::find($condition, ['h' => array_fill(0, 100, null)], self::AT, 60, $one));
        $below = new AlertCondition(ThresholdSide::Below, 1, 1, 0, 0);
        $dip = array_fill(0, 100, 9.0);
        $dip[11] = 2.345;
        self::assertSame(2.35, round(QuietThreshold::find($below, ['h' => $dip], self::AT, 60, $one) ?? 0.0, 6));
    }
}
