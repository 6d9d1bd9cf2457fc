<?php

declare(strict_types=1);

namespace Tests\Core\Metrics;

use Fulcrion\Core\Metrics\Points;
use Fulcrion\Core\Metrics\Summary;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class SummaryTest extends TestCase
{
    public function test_each_span_has_its_own_and_what_is_empty_is_not_there(): void
    {
        $points = Points::of([[0, 4.0], [59_999, 2.0], [60_000, 7.0], [180_000, -1.0], [181_000, 1.0], [239_999, 3.0]]);
        $over = Summary::over($points, 60_000);
        self::assertSame([0, 60_000, 180_000], array_keys($over));
        self::assertEquals(new Summary(2.0, 4.0, 6.0, 2.0, 2), $over[0]);
        self::assertEquals(new Summary(7.0, 7.0, 7.0, 7.0, 1), $over[60_000]);
        self::assertEquals(new Summary(-1.0, 3.0, 3.0, 3.0, 3), $over[180_000]);
        self::assertSame(1.0, $over[180_000]->mean());
        self::assertSame([], Summary::over(new Points([], []), 60_000));
    }

    public function test_minutes_together_are_the_hour(): void
    {
        $random = new Randomizer(new Mt19937(3));
        for ($i = 0; $i < 50; $i++) {
            $at = 0;
            $points = [];
            for ($n = $random->getInt(1, 300); $n > 0 && $at < 3_590_000; $n--) {
                $at += $random->getInt(1, 40_000);
                $points[] = [$at, (float) ($random->getInt(-500, 500) / 8)];
            }
            $all = Points::of($points)->between(0, 3_600_000);
            $hour = array_values(Summary::over($all, 3_600_000))[0] ?? self::fail('nothing');
            $sum = null;
            foreach (Summary::over($all, 60_000) as $minute) {
                $sum = $sum === null ? $minute : $sum->then($minute);
            }
            self::assertEqualsWithDelta($hour, $sum, 1e-9);
            self::assertSame([min($all->values), max($all->values), $all->count()], [$hour->low, $hour->high, $hour->count]);
        }
    }
}
