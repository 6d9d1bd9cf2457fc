<?php

declare(strict_types=1);

namespace Tests\Core\Statistics;

use Fulcrion\Core\Statistics\LaggedCorrelation;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class LaggedCorrelationTest extends TestCase
{
    public function test_what_follows_is_found_at_its_lag(): void
    {
        $random = new Randomizer(new Mt19937(9));
        $one = array_map(static fn (): float => (float) $random->getInt(0, 1_000), range(1, 100));
        // Two steps later, bent but in the same order, and upside down.
        $later = [null, null, ...array_map(static fn (float $value): float => sqrt($value), array_slice($one, 0, 98))];
        $how = LaggedCorrelation::of($one, $later, 3);
        self::assertSame([2, 98], [$how?->lag, $how?->pairs]);
        self::assertEqualsWithDelta(1.0, (float) $how?->r, 1e-12);
        $before = array_map(static fn (float $value): float => -$value, [...array_slice($one, 1), 5.0]);
        $how = LaggedCorrelation::of($one, $before, 3);
        self::assertNotNull($how);
        self::assertSame(-1, $how->lag);
        self::assertLessThan(-0.95, $how->r);
    }

    public function test_it_is_the_rank_correlation_by_its_own_formula(): void
    {
        $random = new Randomizer(new Mt19937(2));
        for ($draw = 0; $draw < 50; $draw++) {
            // Without ties: 1 - 6 Σd² / n(n² - 1).
            $n = 20;
            $a = $random->shuffleArray(range(1, $n));
            $b = $random->shuffleArray(range(1, $n));
            $squares = array_sum(array_map(static fn (int $x, int $y): int => ($x - $y) ** 2, $a, $b));
            $expected = 1 - 6 * $squares / ($n * ($n ** 2 - 1));
            $how = LaggedCorrelation::of(array_map(floatval(...), array_values($a)), array_map(floatval(...), array_values($b)), 0);
            self::assertEqualsWithDelta($expected, (float) $how?->r, 1e-12);
        }
        // With ties the middle of their places: known from a table, 0.9487 of (1,2,2,3)x3 and (1,2,3,4)x3 taken as pairs.
        $how = LaggedCorrelation::of([1.0, 2.0, 2.0, 3.0, 1.0, 2.0, 2.0, 3.0, 1.0, 2.0, 2.0, 3.0],
            [1.0, 2.0, 3.0, 4.0, 1.0, 2.0, 3.0, 4.0, 1.0, 2.0, 3.0, 4.0], 0);
        self::assertEqualsWithDelta(0.9487, (float) $how?->r, 5e-5);
    }

    public function test_too_little_and_what_stays_as_it_is_say_nothing(): void
    {
        self::assertNull(LaggedCorrelation::of([], [], 3));
        $some = array_map(floatval(...), range(1, 11));
        self::assertNull(LaggedCorrelation::of($some, $some, 0));
        $more = array_map(floatval(...), range(1, 40));
        self::assertNull(LaggedCorrelation::of($more, array_fill(0, 40, 7.0), 3));
        self::assertNull(LaggedCorrelation::of($more, array_fill(0, 40, null), 3));
        // Of lags that are as good the shortest.
        self::assertSame(0, LaggedCorrelation::of($more, $more, 3)?->lag);
    }
}
