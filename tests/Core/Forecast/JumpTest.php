<?php

declare(strict_types=1);

namespace Tests\Core\Forecast;

use Fulcrion\Core\Forecast\DailySeries;
use Fulcrion\Core\Forecast\Jump;
use Fulcrion\Core\Statistics\NormalDraw;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class JumpTest extends TestCase
{
    private const WEEK = [100.0, 110.0, 120.0, 115.0, 105.0, 30.0, 20.0];

    /**
     * @param  list<float>  $last
     * @return list<float> ten weeks of the same, and some days more
     */
    private static function then(array $last): array
    {
        return [...array_map(static fn (int $i): float => self::WEEK[$i % 7] + $i % 2, range(0, 69)), ...$last];
    }

    private static function at(float ...$last): ?Jump
    {
        return Jump::atEnd(new DailySeries(0, self::then(array_values($last))));
    }

    public function test_a_step_is_two_days_and_a_spike_one(): void
    {
        self::assertNull(self::at(100.0, 111.0));
        self::assertNull(self::at(150.0), 'one day of half as much again is no spike');
        $step = self::at(150.0, 165.0);
        self::assertSame([2, 315.0], [$step?->days, $step?->had]);
        self::assertEqualsWithDelta(211.0, $step?->usual, 2.0);
        self::assertEqualsWithDelta(1.5, $step?->times(), 0.02);
        $spike = self::at(100.0, 400.0);
        self::assertSame([1, 400.0], [$spike?->days, $spike?->had]);
        // The day after a spike is as usual again, and a fall is none.
        self::assertNull(self::at(400.0, 110.0));
        self::assertNull(self::at(10.0, 11.0));
        // A Saturday is held against Saturdays.
        self::assertNull(self::at(100.0, 110.0, 120.0, 115.0, 105.0, 30.0, 20.0));
        self::assertSame(2, self::at(100.0, 110.0, 120.0, 115.0, 105.0, 60.0, 45.0)?->days);
    }

    public function test_what_stays_becomes_usual(): void
    {
        $values = self::then([]);
        $told = [];
        for ($i = 70; $i < 140; $i++) {
            $values[] = 2 * self::WEEK[$i % 7];
            $told[] = Jump::atEnd(new DailySeries(0, $values)) !== null;
        }
        // From the first or second day on, until most of the weeks it is held against are like it.
        self::assertTrue($told[1] && $told[10]);
        self::assertSame([], array_filter(array_slice($told, 35)));
    }

    public function test_of_too_little_nothing_is_said(): void
    {
        self::assertNull(Jump::atEnd(new DailySeries(0, [])));
        self::assertNull(Jump::atEnd(new DailySeries(0, [1.0, 500.0])));
        self::assertNull(Jump::atEnd(new DailySeries(0, [...array_slice(self::then([]), 0, 21), 900.0, 900.0])), 'three weeks');
        self::assertNull(Jump::atEnd(new DailySeries(0, array_fill(0, 80, 0.0))));
        self::assertNull(Jump::atEnd(new DailySeries(0, [...self::then([]), null])), 'a gap is no zero');
        self::assertNotNull(Jump::atEnd(new DailySeries(0, [...self::then([]), 150.0, 165.0])));
        // After nothing for long, something is.
        $first = Jump::atEnd(new DailySeries(0, [...array_fill(0, 60, 0.0), 5.0, 5.0]));
        self::assertNull($first, 'without any usual amount there is no measure of it');
    }

    public function test_noise_is_not_accused_and_steps_are_found_within_two_days(): void
    {
        $random = new Randomizer(new Mt19937(12));
        $one = static fn (): float => $random->getInt(1, 1_000_000) / 1_000_001;
        $accused = $found = 0;
        for ($series = 0; $series < 200; $series++) {
            $noise = 0.02 + 0.05 * $one();
            $values = [];
            for ($i = 0; $i < 112; $i++) {
                $values[] = 50 * self::WEEK[$i % 7] * exp($noise * NormalDraw::of($one(), $one()));
            }
            $isAccused = false;
            for ($day = 84; $day < 112; $day++) {
                $isAccused = $isAccused || Jump::atEnd(new DailySeries(0, array_slice($values, 0, $day + 1))) !== null;
            }
            $accused += $isAccused ? 1 : 0;
            [$values[90], $values[91]] = [1.5 * $values[90], 1.5 * $values[91]];
            $found += Jump::atEnd(new DailySeries(0, array_slice($values, 0, 91))) !== null
                || Jump::atEnd(new DailySeries(0, array_slice($values, 0, 92))) !== null ? 1 : 0;
        }
        self::assertLessThanOrEqual(2, $accused);
        self::assertGreaterThanOrEqual(198, $found);
    }
}
