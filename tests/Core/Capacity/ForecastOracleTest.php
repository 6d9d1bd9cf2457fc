<?php

declare(strict_types=1);

namespace Tests\Core\Capacity;

use Fulcrion\Core\Capacity\FullForecast;
use Fulcrion\Core\Statistics\StudentQuantile;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * The day something is full, against brute force and against what must not change it.
 */
final class ForecastOracleTest extends TestCase
{
    private Randomizer $random;

    protected function setUp(): void
    {
        $this->random = new Randomizer(new Mt19937(41));
    }

    /**
     * Whole weeks of growth, each day of a week on its own.
     *
     * @param  list<int>|null  $byDay
     * @return list<float>
     */
    private function used(int $weeks, ?array $byDay = null): array
    {
        $byDay ??= array_map(fn (): int => $this->random->getInt(0, 4) === 0 ? $this->random->getInt(1, 40) : 0, range(0, 6));
        $used = [1_000.0];
        for ($day = 0; $day < 7 * $weeks; $day++) {
            $used[] = $used[$day] + $byDay[$day % 7];
        }

        return $used;
    }

    public function test_weeks_that_are_alike_are_played_on_day_by_day(): void
    {
        for ($run = 0; $run < 80; $run++) {
            $byDay = array_map(fn (): int => $this->random->getInt(0, 3) === 0 ? $this->random->getInt(1, 40) : 0, range(0, 6));
            $used = $this->used($this->random->getInt(3, 9), $byDay);
            $last = $used[count($used) - 1];
            $limit = $last + $this->random->getInt(1, 900);
            $full = FullForecast::of($used, $limit) ?? self::fail('three weeks are enough');
            $bytes = $last;
            $met = null;
            for ($day = 1; $day <= FullForecast::MOST_DAYS && $met === null; $day++) {
                $bytes += $byDay[($day - 1) % 7];
                $met = $bytes >= $limit ? $day : null;
            }
            self::assertSame($met, $full->days, json_encode([$byDay, $limit - $last], JSON_THROW_ON_ERROR));
            self::assertSame([$met, $met], [$full->earliest, $full->latest], 'weeks that are alike leave nothing open');
            self::assertEqualsWithDelta(array_sum($byDay), $full->weeklyBytes, 1e-9);
        }
    }

    public function test_a_unit_or_what_was_there_before_changes_no_day(): void
    {
        for ($run = 0; $run < 60; $run++) {
            $used = array_map(fn (float $bytes): float => $bytes + $this->random->getInt(0, 8), $this->used(6));
            $limit = max($used) + 150.0;
            $one = FullForecast::of($used, $limit);
            foreach ([[1e9, 0.0], [1.0, 5e4], [1024.0, -900.0]] as [$times, $more]) {
                $other = FullForecast::of(array_map(static fn (float $bytes): float => $times * ($bytes + $more), $used),
                    $times * ($limit + $more));
                self::assertSame([$one?->days, $one?->earliest, $one?->latest], [$other?->days, $other?->earliest, $other?->latest]);
            }
        }
    }

    public function test_more_room_is_full_later_and_more_growth_sooner(): void
    {
        for ($run = 0; $run < 40; $run++) {
            $used = array_map(fn (float $bytes): float => $bytes + $this->random->getInt(0, 5), $this->used(5));
            $last = $used[count($used) - 1];
            $before = 0;
            foreach ([10.0, 50.0, 200.0, 800.0] as $room) {
                $days = FullForecast::of($used, $last + $room)->days ?? PHP_INT_MAX;
                self::assertGreaterThanOrEqual($before, $days);
                $before = $days;
            }
            $faster = [];
            foreach ($used as $day => $bytes) {
                $faster[] = $bytes + 3.0 * $day;
            }
            $limit = $faster[count($faster) - 1] + 100.0;
            self::assertLessThanOrEqual(FullForecast::of($used, $last + 100.0)->days ?? PHP_INT_MAX, FullForecast::of($faster, $limit)->days
                ?? PHP_INT_MAX);
        }
    }

    public function test_the_range_lies_around_the_middle_and_widens(): void
    {
        for ($run = 0; $run < 60; $run++) {
            $used = [0.0];
            for ($day = 1; $day <= 42; $day++) {
                $used[] = $used[$day - 1] + $this->random->getInt(0, 20);
            }
            $full = FullForecast::of($used, $used[42] + 400.0) ?? self::fail('six weeks are enough');
            self::assertLessThanOrEqual($full->days ?? PHP_INT_MAX, $full->earliest ?? PHP_INT_MAX);
            self::assertLessThanOrEqual($full->latest ?? PHP_INT_MAX, $full->days ?? PHP_INT_MAX);
            $width = -1.0;
            foreach ($full->path as [$least, $middle, $most]) {
                self::assertEqualsWithDelta($middle - $least, $most - $middle, 1e-6, 'as far above as below');
                self::assertGreaterThan($width, $most - $least);
                $width = $most - $least;
            }
        }
    }

    /**
     * @return iterable<string, array{int}>
     */
    public static function weeks(): iterable
    {
        foreach ([3, 4, 5, 8, 13] as $weeks) {
            yield "{$weeks} weeks" => [$weeks];
        }
    }

    /** The width of the fan after each number of weeks, worked out once more from the sums of the weeks. */
    #[DataProvider('weeks')]
    public function test_the_width_follows_from_how_much_weeks_differed(int $weeks): void
    {
        $sums = array_map(fn (): int => $this->random->getInt(20, 90), range(1, $weeks));
        $used = [0.0];
        foreach ($sums as $sum) {
            for ($day = 0; $day < 7; $day++) {
                $used[] = $used[count($used) - 1] + $sum / 7;
            }
        }
        $mean = array_sum($sums) / $weeks;
        $variance = array_sum(array_map(static fn (int $sum): float => ($sum - $mean) ** 2, $sums)) / ($weeks - 1);
        $full = FullForecast::of($used, 1e6) ?? self::fail('enough weeks');
        self::assertSame($weeks, $full->weeks);
        foreach ([1, 2, 5, 10] as $ahead) {
            [$least, , $most] = $full->path[7 * $ahead - 1];
            $width = 2 * StudentQuantile::of(0.9, $weeks - 1) * sqrt($variance * $ahead + $variance / $weeks * $ahead ** 2);
            self::assertEqualsWithDelta($width, $most - $least, 1e-6, "after {$ahead} weeks");
        }
    }

    public function test_no_more_than_thirteen_weeks_are_looked_back_at(): void
    {
        $long = [...array_map(static fn (int $day): float => 50.0 * $day, range(0, 100)), ...array_map(
            static fn (int $day): float => 5_000.0 + $day, range(1, 91))];
        $full = FullForecast::of($long, 6_000.0);
        self::assertSame(13, $full?->weeks);
        self::assertEqualsWithDelta(7.0, $full->weeklyBytes, 1e-9, 'what grew before then is forgotten');
    }

    public function test_part_of_a_week_at_the_beginning_is_left_out(): void
    {
        $used = [...array_fill(0, 5, 0.0), ...array_map(static fn (int $day): float => 10.0 * $day, range(0, 28))];
        self::assertEqualsWithDelta(70.0, FullForecast::of($used, 1_000.0)?->weeklyBytes, 1e-9);
    }

    public function test_days_nobody_read_at_the_end_count_as_they_were(): void
    {
        $used = [...array_map(static fn (int $day): float => 10.0 * $day, range(0, 26)), null, null];
        $full = FullForecast::of($used, 300.0) ?? self::fail('enough weeks');
        self::assertEqualsWithDelta((260.0 - 0.0) / 4, $full->weeklyBytes, 1e-9);
        self::assertNull(FullForecast::of([null, null, ...array_map(static fn (int $day): float => 1.0 * $day, range(0, 20))], 300.0),
            'days before the first reading are none of its weeks');
    }
}
