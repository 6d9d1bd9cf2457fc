<?php

declare(strict_types=1);

namespace Tests\Core\Statistics;

use Fulcrion\Core\Statistics\NormalDraw;
use Fulcrion\Core\Statistics\Spread;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class StatisticsTest extends TestCase
{
    public function test_quantiles_are_those_worked_by_hand_whatever_the_order(): void
    {
        // R-7: at 0.25 of five values stands the second; of four it lies three quarters of the way from the first to the second.
        self::assertSame([2.0, 3.0, 4.0], [
            Spread::quantile([5, 3, 1, 2, 4], 0.25),
            Spread::median([5, 3, 1, 2, 4]),
            Spread::quantile([5, 3, 1, 2, 4], 0.75),
        ]);
        self::assertSame(1.75, Spread::quantile([4, 1, 3, 2], 0.25));
        self::assertSame([0.0, 7.0, 7.0], [Spread::median([]), Spread::median([7]), Spread::quantile([7], 0.9)]);
        self::assertSame([1.0, 9.0], [Spread::quantile([9, 1], -1.0), Spread::quantile([9, 1], 2.0)]);
    }

    public function test_what_is_known_stays_where_it_stood(): void
    {
        self::assertSame([1 => 0.0, 3 => -2.5], Spread::known([null, 0.0, null, -2.5]));
        self::assertSame([], Spread::known(['a' => null]));
    }

    public function test_quantiles_move_with_their_values(): void
    {
        $random = new Randomizer(new Mt19937(3));
        for ($i = 0; $i < 200; $i++) {
            $values = array_map(static fn (): int => $random->getInt(-500, 500), range(1, $random->getInt(1, 40)));
            $share = $random->getInt(0, 100) / 100;
            $one = Spread::quantile($values, $share);
            self::assertSame($one, Spread::quantile($random->shuffleArray($values), $share));
            $moved = array_map(static fn (int $value): int => 3 * $value + 10, $values);
            self::assertEqualsWithDelta(3 * $one + 10, Spread::quantile($moved, $share), 1e-9);
            $turned = array_map(static fn (int $value): int => -$value, $values);
            self::assertEqualsWithDelta(-$one, Spread::quantile($turned, 1 - $share), 1e-9);
            self::assertGreaterThanOrEqual(min($values), $one);
            self::assertLessThanOrEqual(max($values), $one);
        }
    }

    public function test_draws_have_the_mean_the_deviation_and_the_tails_of_the_normal_distribution(): void
    {
        // sqrt(-2 ln 1) is 0; from e^-2 and a whole turn it is 2, from a half turn -2.
        self::assertSame(0.0, abs(NormalDraw::of(1.0, 0.3)));
        self::assertEqualsWithDelta(2.0, NormalDraw::of(exp(-2), 1.0), 1e-12);
        self::assertEqualsWithDelta(-2.0, NormalDraw::of(exp(-2), 0.5), 1e-12);
        $random = new Randomizer(new Mt19937(11));
        $part = static fn (): float => $random->getInt(1, 1 << 40) / (1 << 40);
        $draws = array_map(static fn (): float => NormalDraw::of($part(), $part()), range(1, 40_000));
        $mean = array_sum($draws) / 40_000;
        $variance = array_sum(array_map(static fn (float $d): float => ($d - $mean) ** 2, $draws)) / 40_000;
        // Four standard errors: 1 / sqrt(n) of the mean, sqrt(2 / n) of the variance.
        self::assertEqualsWithDelta(0.0, $mean, 4 / sqrt(40_000));
        self::assertEqualsWithDelta(1.0, $variance, 4 * sqrt(2 / 40_000));
        $beyond = count(array_filter($draws, static fn (float $d): bool => abs($d) > 1.959964)) / 40_000;
        self::assertEqualsWithDelta(0.05, $beyond, 4 * sqrt(0.05 * 0.95 / 40_000));
        self::assertEqualsWithDelta(0.6745, Spread::quantile($draws, 0.75), 0.03);
    }

    public function test_lists_are_added_up_place_by_place_as_far_as_they_are_known(): void
    {
        self::assertSame([3.0, 2.0, 5.0, null], Spread::sums([[1.0, 2.0, null, null], 'x' => [2.0, null, 5.0, null]]));
        self::assertSame([[], [1.0, null]], [Spread::sums([]), Spread::sums([[1.0, null]])]);
    }
}
