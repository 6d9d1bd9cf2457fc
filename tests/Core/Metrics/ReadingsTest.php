<?php

declare(strict_types=1);

namespace Tests\Core\Metrics;

use Fulcrion\Core\Metrics\Readings;
use PHPUnit\Framework\TestCase;

final class ReadingsTest extends TestCase
{
    public function test_growth_a_second_by_steps(): void
    {
        $readings = new Readings([[100, 0.0], [110, 50.0], [120, 70.0], [130, 70.0]], 15);
        self::assertSame([5.0, 2.0, 0.0], $readings->rates(100, 130, 10));
        // A step that two readings share has its part of both.
        self::assertSame([3.5, 0.0], $readings->rates(100, 140, 20));
        self::assertSame([5.0], $readings->rates(100, 105, 5));
        self::assertSame([3.5], $readings->rates(105, 115, 10));
        self::assertSame([1.0], $readings->rates(115, 125, 10));
        // Beyond what was read nothing is known.
        self::assertSame([null, 5.0, 2.0, 0.0, null], $readings->rates(90, 140, 10));
        self::assertSame([], $readings->rates(100, 100, 10));
        self::assertSame([null, null], (new Readings([], 15))->rates(0, 20, 10));
    }

    public function test_a_counter_that_begins_anew_is_no_negative_growth(): void
    {
        $readings = new Readings([[0, 900.0], [10, 1000.0], [20, 5.0], [30, 15.0]], 15);
        self::assertSame([10.0, null, 1.0], $readings->rates(0, 30, 10));
    }

    public function test_gaps_stay_gaps(): void
    {
        $readings = new Readings([[0, 0.0], [10, 10.0], [26, 42.0], [36, 52.0]], 15);
        self::assertSame([1.0, null, 1.0, 1.0], $readings->rates(0, 40, 10), 'of a step as much as is known');
        self::assertSame([[10, 26]], $readings->gaps(40));
        self::assertSame([[10, 26]], $readings->gaps(51));
        self::assertSame([[10, 26], [36, 52]], $readings->gaps(52));
        self::assertSame(16, $readings->unknown(0, 40));
        self::assertSame(6 + 16, $readings->unknown(20, 52), 'as far as it lies in the span');
        self::assertSame(0, $readings->unknown(26, 36));
        self::assertSame([], (new Readings([], 15))->gaps(1000), 'before there was anything there is no gap');
        // As far apart as one is patient.
        self::assertSame([], (new Readings([[0, 1.0], [15, 2.0]], 15))->gaps(20));
        self::assertSame([1.0], (new Readings([[0, 1.0], [15, 16.0]], 15))->rates(0, 15, 15));
    }

    public function test_a_reading_without_the_value_is_none(): void
    {
        $readings = new Readings([[0, 1.0], [10, null], [20, 5.0], [30, 6.0]], 15);
        self::assertSame([null, null, 0.1], $readings->rates(0, 30, 10));
        self::assertSame([1.0, null, 5.0], $readings->most(0, 30, 10));
        self::assertSame([], $readings->gaps(30));
    }

    public function test_the_largest_of_what_is_so_much_at_a_moment(): void
    {
        $readings = new Readings([[0, 3.0], [4, 9.0], [9, 1.0], [10, -2.0], [25, 0.0]], 15);
        self::assertSame([9.0, -2.0, 0.0], $readings->most(0, 30, 10));
        self::assertSame([9.0], $readings->most(0, 5, 10), 'the last step ends with the span');
        self::assertSame([1.0, 0.0], $readings->most(5, 30, 13));
    }

    /** However the span is cut, what was counted is what the steps hold. */
    public function test_no_growth_is_lost_or_invented(): void
    {
        mt_srand(11);
        for ($round = 0; $round < 50; $round++) {
            [$at, $value, $list] = [1000, 0.0, []];
            for ($i = 0; $i < 40; $i++) {
                $list[] = [$at, $value];
                $at += mt_rand(1, 14);
                $value += mt_rand(0, 500);
            }
            $from = $list[0][0];
            $to = $list[39][0];
            foreach ([1, 7, 10, 60, 10_000] as $step) {
                $sum = 0.0;
                foreach ((new Readings($list, 15))->rates($from, $to, $step) as $place => $rate) {
                    $sum += (float) $rate * min($step, $to - $from - $place * $step);
                }
                self::assertEqualsWithDelta($list[39][1], $sum, 1e-6 * $list[39][1] + 1e-6);
            }
        }
    }
}
