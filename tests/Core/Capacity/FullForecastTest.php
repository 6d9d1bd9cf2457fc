<?php

declare(strict_types=1);

namespace Tests\Core\Capacity;

use Closure;
use Fulcrion\Core\Capacity\FullForecast;
use Fulcrion\Core\Statistics\NormalDraw;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class FullForecastTest extends TestCase
{
    private const RUNS = 600;

    public function test_a_step_each_sunday_meets_the_limit_on_a_sunday(): void
    {
        // 29 days; the step of 10 comes on the fifth day of each week that ends today.
        $used = [100.0];
        for ($day = 1; $day <= 28; $day++) {
            $used[] = $used[$day - 1] + ($day % 7 === 5 ? 10.0 : 0.0);
        }
        $full = FullForecast::of($used, 180.0);
        self::assertSame([10.0, 4, 26, 26, 26], [$full?->weeklyBytes, $full?->weeks, $full?->days, $full?->earliest, $full?->latest],
            'four more steps are needed, the first one in five days');
        self::assertSame([140.0, 140.0, 140.0], $full?->path[0]);
        self::assertSame(150.0, $full->path[4][1]);
    }

    public function test_weeks_that_differ_have_a_range(): void
    {
        $used = [0.0];
        foreach ([8.0, 12.0, 8.0, 12.0] as $week) {
            for ($day = 0; $day < 7; $day++) {
                $used[] = $used[count($used) - 1] + $week / 7;
            }
        }
        $full = FullForecast::of($used, 140.0);
        // Mean 10, deviation of the sample 2.3094, t of 3 degrees 1.6377.
        self::assertSame(70, $full?->days);
        foreach ([[$full->earliest, 1], [$full->latest, -1]] as [$days, $sign]) {
            $reached = static fn (int $day): float => 40 + 10 * $day / 7 + $sign * 1.6377 * 2.3094 * sqrt($day / 7 + ($day / 7) ** 2 / 4);
            self::assertGreaterThanOrEqual(140.0, $reached((int) $days));
            self::assertLessThan(140.0, $reached((int) $days - 1));
        }
    }

    public function test_what_does_not_grow_is_never_full_and_what_is_full_is_so_today(): void
    {
        $flat = FullForecast::of(array_fill(0, 29, 50.0), 100.0);
        self::assertSame([0.0, null, null, null], [$flat?->weeklyBytes, $flat?->days, $flat?->earliest, $flat?->latest]);
        $shrinks = FullForecast::of(array_map(static fn (int $day): float => 100.0 - $day / 10, range(0, 28)), 100.0);
        self::assertNull($shrinks?->days);
        $over = FullForecast::of(array_fill(0, 29, 120.0), 100.0);
        self::assertSame([0, 0, 0], [$over?->days, $over?->earliest, $over?->latest]);
        self::assertNull(FullForecast::of(array_fill(0, 21, 1.0), 2.0), 'two weeks and six days say too little');
        self::assertNotNull(FullForecast::of(array_fill(0, 22, 1.0), 2.0));
        self::assertNull(FullForecast::of([], 1.0));
    }

    public function test_a_clean_up_is_no_growth_and_a_gap_is_no_step(): void
    {
        $used = $gappy = [];
        $bytes = 0.0;
        for ($day = 0; $day <= 28; $day++) {
            $bytes += 1.0 - ($day === 15 ? 12.0 : 0.0);
            $used[] = $bytes;
            $gappy[] = $day % 5 === 2 ? null : $day * 1.0;
        }
        $full = FullForecast::of($used, $bytes + 28.0);
        self::assertSame(1, $full?->cleanUps);
        self::assertEqualsWithDelta(6.75, $full->weeklyBytes, 1e-9, '27 days of growth in four weeks');
        self::assertEqualsWithDelta(7.0, FullForecast::of($gappy, 100.0)?->weeklyBytes, 1e-9);
    }

    /**
     * @return iterable<string, array{Closure(Closure(): float): float, int}>
     */
    public static function growth(): iterable
    {
        yield 'weeks that differ by a fifth' => [static fn (Closure $normal): float => 10 + 2 * $normal(), 8];
        yield 'weeks that differ by a half' => [static fn (Closure $normal): float => 10 + 5 * $normal(), 8];
        yield 'four weeks only' => [static fn (Closure $normal): float => 10 + 3 * $normal(), 4];
        yield 'a load that fails one time in six' => [static fn (Closure $normal): float => $normal() < -0.97 ? 0.0 : 10 + $normal(), 12];
        yield 'many small weeks and few large ones' => [static fn (Closure $normal): float => 10 * exp(0.5 * $normal() - 0.125), 10];
    }

    /**
     * Eight days of ten should lie within the range or a few more, and about one of ten beyond each end: a range that was too narrow, or
     * far
     * too wide, would be seen here.
     *
     * @param  Closure(Closure(): float): float  $week
     */
    #[DataProvider('growth')]
    public function test_the_range_holds_on_simulated_growth(Closure $week, int $known): void
    {
        $random = new Randomizer(new Mt19937(23));
        $uniform = static fn (): float => $random->getInt(1, 1_000_000) / 1_000_001;
        $normal = static fn (): float => NormalDraw::of($uniform(), $uniform());
        $early = $late = 0;
        for ($run = 0; $run < self::RUNS; $run++) {
            $used = [0.0];
            for ($i = 0; $i < $known; $i++) {
                $grown = $week($normal);
                for ($day = 0; $day < 7; $day++) {
                    $used[] = $used[count($used) - 1] + $grown / 7;
                }
            }
            $now = $used[count($used) - 1];
            $full = FullForecast::of($used, $now + 60.0);
            $bytes = $now;
            $daily = 0.0;
            $met = 0;
            while ($bytes < $now + 60.0 && $met < 3_000) {
                $daily = $met % 7 === 0 ? $week($normal) / 7 : $daily;
                $bytes += $daily;
                $met++;
            }
            $early += (int) ($full?->earliest === null || $met < $full->earliest);
            $late += (int) ($full?->latest !== null && $met > $full->latest);
        }
        self::assertLessThan(0.15, $early / self::RUNS, 'before the first end');
        self::assertLessThan(0.15, $late / self::RUNS, 'after the last end');
        self::assertGreaterThan(0.06, ($early + $late) / self::RUNS, 'not far too wide');
    }
}
