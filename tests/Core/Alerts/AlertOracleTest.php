<?php

declare(strict_types=1);

namespace Tests\Core\Alerts;

use DateTimeImmutable;
use DateTimeZone;
use Fulcrion\Core\Alerts\AlertCondition;
use Fulcrion\Core\Alerts\AlertCourse;
use Fulcrion\Core\Alerts\AlertRing;
use Fulcrion\Core\Alerts\AlertScore;
use Fulcrion\Core\Alerts\DaysLeft;
use Fulcrion\Core\Alerts\IncidentReplay;
use Fulcrion\Core\Alerts\MarkedSpan;
use Fulcrion\Core\Alerts\ThresholdSide;
use Fulcrion\Core\Alerts\TimesUsual;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Rings, usual values and incidents beside plain computations that go about it in another way.
 */
final class AlertOracleTest extends TestCase
{
    private const FROM = 1_795_392_000;

    private Randomizer $random;

    protected function setUp(): void
    {
        $this->random = new Randomizer(new Mt19937(2_023));
    }

    /**
     * Looks for runs in a whole list: of reached values that are long enough, and after each of the first run of calm ones that is.
     *
     * @param  list<float>  $values a minute each
     * @return list<array{int, int, int|null, float}> since, rang, ended and worst
     */
    private static function byRuns(AlertCondition $condition, array $values): array
    {
        $above = $condition->side === ThresholdSide::Above;
        $reached = array_map(static fn (float $v): string => ($above ? $v >= $condition->threshold : $v <= $condition->threshold) ? 'r'
            : (($above ? $v <= $condition->calm : $v >= $condition->calm) ? 'c' : '-'), $values);
        $text = implode('', $reached);
        $long = max(1, (int) ceil($condition->forSeconds / 60));
        $quiet = max(1, (int) ceil($condition->calmSeconds / 60));
        $rings = [];
        $at = 0;
        while (preg_match("~r{{$long}}~", $text, $found, PREG_OFFSET_CAPTURE, $at) === 1) {
            $since = $found[0][1];
            // The run began where it is not preceded by another reached value, from where it was looked for.
            while ($since > $at && $text[$since - 1] === 'r') {
                $since--;
            }
            $rang = $since + $long;
            $isOver = preg_match("~c{{$quiet}}~", $text, $calm, PREG_OFFSET_CAPTURE, $rang) === 1;
            $end = $isOver ? $calm[0][1] : null;
            $during = array_slice($values, $since, $end === null ? null : $end - $since);
            $rings[] = [$since, $rang, $end, $above ? max($during) : min($during)];
            if ($end === null) {
                break;
            }
            $at = $end + $quiet;
        }

        return $rings;
    }

    public function test_rings_are_those_that_are_found_by_looking_for_runs(): void
    {
        for ($try = 0; $try < 400; $try++) {
            $values = [];
            $level = 5.0;
            for ($i = 0; $i < 80; $i++) {
                $level = max(0.0, min(10.0, $level + $this->random->getInt(-25, 25) / 10));
                $values[] = $level;
            }
            $side = $this->random->getInt(0, 1) === 0 ? ThresholdSide::Above : ThresholdSide::Below;
            $distance = $this->random->getInt(0, 20) / 10;
            $condition = new AlertCondition($side, 5.5, $side === ThresholdSide::Above ? 5.5 - $distance : 5.5 + $distance,
                60 * $this->random->getInt(0, 5), 60 * $this->random->getInt(0, 5));
            if ($distance === 0.0) {
                // At the threshold itself it is not calm; runs of letters cannot tell.
                $values = array_map(static fn (float $value): float => $value === 5.5 ? 5.4 : $value, $values);
            }
            $minute = static fn (?int $second): ?int => $second === null ? null : intdiv($second - self::FROM, 60);
            $rings = array_map(
                static fn (AlertRing $ring): array => [$minute($ring->from), $minute($ring->rangAt), $minute($ring->to), $ring->worst],
                AlertCourse::rings($condition, ['h' => $values], self::FROM, 60),
            );
            self::assertEquals(self::byRuns($condition, $values), $rings, "try {$try}");
        }
    }

    public function test_a_higher_threshold_rings_in_no_more_of_the_time(): void
    {
        for ($try = 0; $try < 60; $try++) {
            $values = [];
            for ($i = 0; $i < 200; $i++) {
                $values[] = (float) $this->random->getInt(0, 100);
            }
            $before = null;
            foreach ([10.0, 30.0, 50.0, 70.0, 90.0, 99.0] as $threshold) {
                $condition = (new AlertCondition(ThresholdSide::Above, 10.0, 9.0, 120, 60))->at($threshold);
                $minutes = [];
                foreach (AlertCourse::rings($condition, ['h' => $values], self::FROM, 60) as $ring) {
                    for ($at = $ring->from; $at < ($ring->to ?? self::FROM + 12_000); $at += 60) {
                        $minutes[$at] = true;
                    }
                }
                self::assertSame([], array_diff_key($minutes, $before ?? $minutes), "{$threshold}");
                $before = $minutes;
            }
        }
    }

    /** @return iterable<string, array{string}> */
    public static function zones(): iterable
    {
        yield 'without changes of its clock' => ['UTC'];
        yield 'with' => ['Europe/Berlin'];
        yield 'by half an hour' => ['Asia/Kolkata'];
    }

    #[DataProvider('zones')]
    public function test_what_is_usual_is_the_middle_of_the_same_hours_by_the_clock(string $name): void
    {
        $zone = new DateTimeZone($name);
        // Over the night in which the clocks go back.
        $from = (int) strtotime('2026-10-05T00:00Z');
        $hours = [];
        for ($i = 0; $i < 7 * 24 * 7; $i++) {
            $hours[] = $this->random->getInt(0, 9) === 0 ? null : (float) $this->random->getInt(10, 1_000);
        }
        $clock = static fn (int $at): string => (new DateTimeImmutable('@'.$at))->setTimezone($zone)->format('D H');
        for ($i = 5 * 168; $i < 7 * 168; $i += 5) {
            $at = $from + 3_600 * $i;
            $same = [];
            // Hours of whole weeks before, as far as four weeks and an hour ago.
            for ($j = max(0, $i - 673); $j < $i - 100; $j++) {
                if ($clock($from + 3_600 * $j) === $clock($at) && $hours[$j] !== null) {
                    $same[] = $hours[$j];
                }
            }
            sort($same);
            $n = count($same);
            $middle = $n === 0 ? null : ($same[intdiv($n - 1, 2)] + $same[intdiv($n, 2)]) / 2;
            $times = TimesUsual::of([500.0], $at, 3_600, $hours, $from, $zone)[0];
            // In the night itself an hour comes twice, and is held against either.
            if (! in_array($clock($at), ['Sun 02', 'Sun 03'], true)) {
                self::assertEqualsWithDelta($n < 2 ? null : 500.0 / (float) $middle, $times, 1e-9, "{$name} hour {$i}");
            }
        }
    }

    public function test_days_left_are_what_is_left_by_the_growth_of_a_week(): void
    {
        for ($try = 0; $try < 100; $try++) {
            $a = (float) $this->random->getInt(1, 50);
            $step = (float) $this->random->getInt(0, 90);
            $days = [];
            for ($day = 0; $day < 25; $day++) {
                $days[] = 100.0 + $a * $day + $step * intdiv($day + $try, 7);
            }
            $growth = $a + $step / 7;
            $limit = $days[24] + $growth * 33.0;
            self::assertEqualsWithDelta(33.0, DaysLeft::of($days, $limit) ?? 0.0, 1e-6);
        }
    }

    public function test_every_ring_is_in_exactly_one_incident_and_each_is_told(): void
    {
        for ($try = 0; $try < 60; $try++) {
            $rings = [];
            $count = 0;
            foreach (['a', 'b', 'c'] as $alert) {
                foreach (['x', 'y'] as $host) {
                    $at = self::FROM + $this->random->getInt(0, 3_000);
                    for ($i = $this->random->getInt(0, 6); $i > 0; $i--) {
                        $to = $at + 300 + $this->random->getInt(0, 4_000);
                        $rings[$alert][] = new AlertRing($host, $at, $at + 300, $to, 1.0);
                        $at = $to + 60 + $this->random->getInt(0, 9_000);
                        $count++;
                    }
                }
            }
            $incidents = IncidentReplay::of($rings);
            self::assertLessThanOrEqual($count, count($incidents));
            self::assertSame($count === 0, $incidents === []);
            foreach ($incidents as [$course, $words]) {
                self::assertGreaterThanOrEqual(1, $words);
                // Twice as large each time: it cannot be told more often than that.
                self::assertLessThanOrEqual(1 + (int) log(count($course->rings), 2), $words);
                self::assertSame([], $course->ringing, 'all of them ended');
                self::assertNotNull($course->quietSince);
            }
        }
    }

    public function test_a_score_counts_each_mark_and_each_ring_once(): void
    {
        for ($try = 0; $try < 60; $try++) {
            $rings = $marks = [];
            for ($i = 0; $i < 8; $i++) {
                $from = self::FROM + $this->random->getInt(0, 80_000);
                $rings[] = new AlertRing('h', $from, $from + 600, $this->random->getInt(0, 5) === 0 ? null : $from + 3_000, 1.0);
                $began = self::FROM + $this->random->getInt(0, 80_000);
                $marks[] = new MarkedSpan($began, $began + $this->random->getInt(60, 5_000), "m{$i}");
            }
            $score = AlertScore::of($rings, $marks);
            self::assertCount(8, [...$score->caught, ...$score->missed]);
            $useful = 0;
            foreach ($rings as $ring) {
                foreach ($marks as $mark) {
                    $isWithin = $ring->from < $mark->to && ($ring->to === null || $ring->to > $mark->from) && $ring->rangAt <= $mark->to;
                    if ($isWithin) {
                        self::assertContains($mark, $score->caught);
                        $useful++;
                        break;
                    }
                }
            }
            self::assertSame(8, $useful + count($score->quiet));
        }
    }
}
