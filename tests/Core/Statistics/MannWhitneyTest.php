<?php

declare(strict_types=1);

namespace Tests\Core\Statistics;

use Fulcrion\Core\Statistics\MannWhitney;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Held against the definition: all pairs compared, the chance under the normal curve by numerical integration, and all ways to deal
 * ranks out.
 */
final class MannWhitneyTest extends TestCase
{
    public function test_it_agrees_with_all_pairs_compared_and_the_area_under_the_normal_curve(): void
    {
        $random = new Randomizer(new Mt19937(5));
        for ($i = 0; $i < 150; $i++) {
            [$before, $after] = [self::sample($random), self::sample($random)];
            $test = MannWhitney::of($before, $after);
            [$longer, $z] = self::byPairs(self::spread($before), self::spread($after));
            self::assertSame([array_sum($before), array_sum($after)], [$test->before, $test->after]);
            self::assertEqualsWithDelta($longer, $test->longer, 1e-12);
            self::assertEqualsWithDelta($z, $test->z, 1e-9);
            self::assertEqualsWithDelta(self::beyond($z), $test->p, 2e-7);
        }
    }

    #[TestWith([0.0, 1.0])]
    #[TestWith([1.0, 0.3173105079])]
    #[TestWith([1.959963985, 0.05])]
    #[TestWith([2.575829304, 0.01])]
    #[TestWith([3.290526731, 0.001])]
    public function test_the_area_beyond_a_value_is_that_of_the_tables(float $z, float $p): void
    {
        self::assertEqualsWithDelta($p, self::beyond($z), 1e-8, 'the oracle itself');
    }

    /** Of two samples of four, the chance to be at least as far apart is counted over all 70 ways to deal eight ranks out. */
    public function test_it_is_near_the_exact_chance_of_small_samples(): void
    {
        for ($mask = 0; $mask < 256; $mask++) {
            $first = array_values(array_filter(range(0, 7), static fn (int $i): bool => (bool) ($mask >> $i & 1)));
            if (count($first) !== 4) {
                continue;
            }
            $second = array_values(array_diff(range(0, 7), $first));
            $exact = self::exact($first, $second);
            $test = MannWhitney::of(array_fill_keys($first, 1), array_fill_keys($second, 1));
            self::assertEqualsWithDelta($exact, $test->p, 0.035);
        }
    }

    public function test_to_turn_the_windows_round_turns_the_sign_and_nothing_else(): void
    {
        $random = new Randomizer(new Mt19937(9));
        for ($i = 0; $i < 60; $i++) {
            [$before, $after] = [self::sample($random), self::sample($random)];
            [$one, $other] = [MannWhitney::of($before, $after), MannWhitney::of($after, $before)];
            self::assertEqualsWithDelta(1.0, $one->longer + $other->longer, 1e-12);
            self::assertEqualsWithDelta(-$one->z, $other->z, 1e-9);
            self::assertEqualsWithDelta($one->p, $other->p, 1e-12);
            // Only the order of bins counts, not how far they lie apart.
            $wide = static fn (array $bins): array => array_combine(
                array_map(static fn (int|string $bin): int => 7 * (int) $bin - 3, array_keys($bins)),
                $bins,
            );
            self::assertEquals($one, MannWhitney::of($wide($before), $wide($after)));
        }
    }

    public function test_of_equal_windows_it_rarely_says_that_they_differ(): void
    {
        $random = new Randomizer(new Mt19937(21));
        $accused = 0;
        for ($i = 0; $i < 2000; $i++) {
            $accused += MannWhitney::of(self::sample($random, 40), self::sample($random, 40))->p < 0.05 ? 1 : 0;
        }
        // A twentieth, give or take four standard errors.
        self::assertEqualsWithDelta(0.05, $accused / 2000, 4 * sqrt(0.05 * 0.95 / 2000));
    }

    public function test_a_verdict_needs_eight_executions_on_both_sides_and_a_small_chance(): void
    {
        self::assertSame('too few executions', MannWhitney::of([1 => 7], [9 => 50])->verdict());
        self::assertSame('too few executions', MannWhitney::of([1 => 50], [9 => 7])->verdict());
        self::assertSame('worse', MannWhitney::of([1 => 8], [9 => 8])->verdict());
        self::assertSame('better', MannWhitney::of([9 => 8], [1 => 8])->verdict());
        self::assertSame('no difference to be seen', MannWhitney::of([1 => 8, 2 => 8], [1 => 8, 2 => 8])->verdict());
        $near = MannWhitney::of([1 => 10, 2 => 10], [1 => 3, 2 => 17]);
        self::assertGreaterThan(0.01, $near->p);
        self::assertLessThan(0.05, $near->p);
        self::assertSame(['no difference to be seen', 'worse'], [$near->verdict(), $near->verdict(0.05)]);
        self::assertSame('no difference to be seen', $near->verdict($near->p), 'not below its own chance');
    }

    public function test_nothing_and_nothing_but_ties_say_nothing(): void
    {
        foreach ([[[], []], [[3 => 5], []], [[], [3 => 5]]] as [$before, $after]) {
            $test = MannWhitney::of($before, $after);
            self::assertSame([0.5, 0.0, 1.0], [$test->longer, $test->z, $test->p]);
        }
        $tied = MannWhitney::of([4 => 100], [4 => 30]);
        self::assertSame([0.5, 0.0], [$tied->longer, $tied->z]);
        self::assertEqualsWithDelta(1.0, $tied->p, 1e-7);
        $single = MannWhitney::of([1 => 1], [2 => 1]);
        self::assertSame([1.0, 0.0], [$single->longer, $single->z], 'half a step is within the correction for continuity');
    }

    /**
     * @return array<int, int>
     */
    private static function sample(Randomizer $random, int $size = 0): array
    {
        $bins = [];
        for ($i = $size > 0 ? $size : $random->getInt(3, 60); $i > 0; $i--) {
            $bin = $random->getInt(-4, 9) + $random->getInt(0, 3);
            $bins[$bin] = ($bins[$bin] ?? 0) + 1;
        }

        return $bins;
    }

    /**
     * @param  array<int, int>  $bins
     * @return list<int>
     */
    private static function spread(array $bins): array
    {
        $values = [];
        foreach ($bins as $bin => $count) {
            $values = [...$values, ...array_fill(0, $count, $bin)];
        }

        return $values;
    }

    /**
     * @param  list<int>  $before
     * @param  list<int>  $after
     * @return array{float, float} chance to be longer, standard score
     */
    private static function byPairs(array $before, array $after): array
    {
        $u = 0.0;
        foreach ($before as $a) {
            foreach ($after as $b) {
                $u += $b <=> $a;
            }
        }
        $pairs = count($before) * count($after);
        $u = ($u + $pairs) / 2;
        $all = [...$before, ...$after];
        $n = count($all);
        // The variance from the ranks themselves: those of a tie share their mean.
        $rank = static fn (int $value): float => count(array_filter($all, static fn (int $one): bool => $one < $value))
            + (count(array_filter($all, static fn (int $one): bool => $one === $value)) + 1) / 2;
        $squares = array_sum(array_map(static fn (int $value): float => ($rank($value) - ($n + 1) / 2) ** 2, $all));
        $variance = $pairs / ($n * max(1, $n - 1)) * $squares;
        $distance = $u - $pairs / 2;
        $corrected = max(0.0, abs($distance) - 0.5) * ($distance <=> 0.0);

        return [$u / $pairs, $variance > 1e-12 ? $corrected / sqrt($variance) : 0.0];
    }

    /** Twice the area beyond a value, by Simpson's rule in thousands of parts. */
    private static function beyond(float $z): float
    {
        $to = abs($z);
        $parts = 2000;
        $density = static fn (float $x): float => exp(-$x * $x / 2) / sqrt(2 * M_PI);
        $sum = $density(0.0) + $density($to);
        for ($i = 1; $i < $parts; $i++) {
            $sum += ($i % 2 === 1 ? 4 : 2) * $density($i * $to / $parts);
        }

        return 1 - 2 * $sum * $to / $parts / 3;
    }

    /**
     * @param  list<int>  $first
     * @param  list<int>  $second
     */
    private static function exact(array $first, array $second): float
    {
        $u = static function (array $a, array $b): int {
            $count = 0;
            foreach ($a as $x) {
                foreach ($b as $y) {
                    $count += $y > $x ? 1 : 0;
                }
            }

            return $count;
        };
        $seen = abs($u($first, $second) - 8);
        [$far, $ways] = [0, 0];
        for ($mask = 0; $mask < 256; $mask++) {
            $a = array_values(array_filter(range(0, 7), static fn (int $i): bool => (bool) ($mask >> $i & 1)));
            if (count($a) === 4) {
                $ways++;
                $far += abs($u($a, array_values(array_diff(range(0, 7), $a))) - 8) >= $seen ? 1 : 0;
            }
        }

        return $far / $ways;
    }
}
