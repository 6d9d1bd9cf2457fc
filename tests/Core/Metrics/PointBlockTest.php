<?php

declare(strict_types=1);

namespace Tests\Core\Metrics;

use Fulcrion\Core\Metrics\DamagedBlock;
use Fulcrion\Core\Metrics\PointBlock;
use Fulcrion\Core\Metrics\Points;
use InvalidArgumentException;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class PointBlockTest extends TestCase
{
    private const HOUR_MS = 1_795_000_000_000;

    /**
     * @return iterable<string, array{list<array{int, float}>}>
     */
    public static function points(): iterable
    {
        yield 'none' => [[]];
        yield 'one' => [[[self::HOUR_MS, 42.0]]];
        yield 'before 1970' => [[[-5_000, 1.0], [-1, 2.0]]];
        yield 'far apart' => [[[0, 1.0], [PHP_INT_MAX >> 2, 2.0]]];
        yield 'whole numbers' => [[[0, 0.0], [10, -7.0], [20, 9_007_199_254_740_991.0]]];
        yield 'more than is whole exactly' => [[[0, 9_007_199_254_740_993.0], [10, 1e300], [20, 2.0]]];
        yield 'few decimals' => [[[0, 1.25], [10, 1.5], [20, -3.999999]]];
        yield 'many decimals' => [[[0, 1 / 3], [10, 2 / 3], [20, M_PI]]];
        yield 'the smallest' => [[[0, PHP_FLOAT_MIN], [10, 4.9e-324], [20, -4.9e-324]]];
        yield 'zeros with a sign' => [[[0, -0.0], [10, 0.0], [20, -0.0]]];
        yield 'decimals and large numbers' => [[[0, 0.1], [10, 12_345_678_901_234.0]]];
    }

    /**
     * @param  list<array{int, float}>  $points
     */
    #[DataProvider('points')]
    public function test_what_is_put_in_comes_out_to_the_last_bit(array $points): void
    {
        $given = Points::of($points);
        $read = PointBlock::decode(PointBlock::encode($given));
        self::assertSame($given->timesMs, $read->timesMs);
        self::assertSame(array_map(bin2hex(...), array_map(static fn (float $one): string => pack('E', $one), $given->values)),
            array_map(bin2hex(...), array_map(static fn (float $one): string => pack('E', $one), $read->values)));
    }

    public function test_whatever_is_drawn_comes_out_as_it_was(): void
    {
        $random = new Randomizer(new Mt19937(22));
        for ($i = 0; $i < 300; $i++) {
            $at = $random->getInt(-1_000_000, self::HOUR_MS);
            $value = $random->getInt(-1_000, 1_000) / 4;
            $points = [];
            for ($n = $random->getInt(0, 400); $n > 0; $n--) {
                // Regular, with jitter, with gaps.
                $at += [10_000, $random->getInt(9_900, 10_100), $random->getInt(1, 900_000)][$i % 3];
                $value = match ($i % 5) {
                    0 => $value,
                    1 => $value + $random->getInt(0, 50_000),
                    2 => round($value + $random->getInt(-300, 300) / 100, 2),
                    3 => $random->getInt(0, 1) === 0 ? 0.0 : $random->getInt(1, 9) / 7,
                    default => is_float($value) ? ($value + 0.1) * 1.01 : 0.0,
                };
                $points[] = [$at, (float) $value];
            }
            $given = Points::of($points);
            self::assertEquals($given, PointBlock::decode(PointBlock::encode($given)), "draw {$i}");
        }
    }

    public function test_large_values_with_a_fraction_come_back_to_the_last_bit(): void
    {
        foreach ([174_528_376_628.333_34, -174_528_376_628.333_34, 0.1 + 0.2, 9_007_199_254_740_991.0, 4_503_599_627_370_495.5] as $value) {
            $points = Points::of([[self::HOUR_MS, $value], [self::HOUR_MS + 10, $value / 3], [self::HOUR_MS + 20, -$value]]);
            self::assertEquals($points, PointBlock::decode(PointBlock::encode($points)));
            self::assertSame($points->values, PointBlock::decode(PointBlock::encode($points))->values);
            $one = Points::of([[self::HOUR_MS, $value]]);
            self::assertSame([$value], PointBlock::decode(PointBlock::encode($one))->values);
        }
    }

    public function test_points_as_hosts_send_them_take_few_bytes(): void
    {
        $random = new Randomizer(new Mt19937(7));
        $size = static function (callable $value): float {
            $points = [];
            for ($i = 0; $i < 360; $i++) {
                $points[] = [self::HOUR_MS + $i * 10_000, $value($i)];
            }

            return strlen(PointBlock::encode(Points::of($points))) / 360;
        };
        $counter = 0;
        self::assertLessThan(0.1, $size(static fn (): float => 16.0), 'what stays the same');
        self::assertLessThan(0.1, $size(static fn (int $i): float => 4_096.0 * $i), 'what grows evenly, after its first step');
        self::assertLessThan(3.1, $size(static function () use ($random, &$counter): float {
            $counter += $random->getInt(1_000, 90_000);

            return (float) $counter;
        }), 'a counter of bytes');
        self::assertLessThan(2.0, $size(static fn (): float => $random->getInt(0, 400) / 100), 'a share with two decimals');
        self::assertLessThan(8.5, $size(static fn (): float => $random->getInt(1, PHP_INT_MAX >> 1) / 3e18), 'what has all its digits');
    }

    public function test_a_changed_or_missing_byte_is_noticed(): void
    {
        $random = new Randomizer(new Mt19937(9));
        $block = PointBlock::encode(Points::of(array_map(static fn (int $i): array => [$i * 1_000, $i / 3], range(0, 99))));
        for ($i = 0; $i < 400; $i++) {
            $bad = $block;
            $place = $random->getInt(0, strlen($bad) - 1);
            $bad[$place] = chr(ord($bad[$place]) ^ (1 << $random->getInt(0, 7)));
            $this->assertDamaged($bad);
            $this->assertDamaged(substr($block, 0, $random->getInt(0, strlen($block) - 1)));
        }
        $this->assertDamaged('');
        $this->assertDamaged('abcd');
    }

    /** What was written with a right sum of its bytes and is wrong all the same: nothing else than the error comes of it. */
    public function test_bytes_that_are_no_block_are_refused_whatever_they_say(): void
    {
        $random = new Randomizer(new Mt19937(10));
        $sealed = static fn (string $kept): string => $kept.pack('N', crc32($kept));
        $read = 0;
        for ($i = 0; $i < 3_000; $i++) {
            $body = $random->getBytes($random->getInt(1, 40));
            foreach ([1, 2] as $way) {
                try {
                    PointBlock::decode($sealed(chr($way).$body));
                    $read++;
                } catch (DamagedBlock|InvalidArgumentException) {
                    // As it should be.
                }
            }
            $this->assertDamaged($sealed(chr(3).$body));
        }
        self::assertLessThan(600, $read, 'of six thousand');
    }

    private function assertDamaged(string $block): void
    {
        try {
            PointBlock::decode($block);
        } catch (DamagedBlock $damage) {
            self::assertMatchesRegularExpression('~[a-z]\.$~', $damage->getMessage());

            return;
        }
        self::fail('A damaged block was read.');
    }

    public function test_points_ascend_and_are_numbers(): void
    {
        foreach ([[[1, 1], [0.0, 0.0]], [[2, 1], [0.0, 0.0]], [[1], [NAN]], [[1], [INF]], [[1, 2], [0.0]]] as [$times, $values]) {
            try {
                new Points($times, $values);
                self::fail('taken');
            } catch (InvalidArgumentException $error) {
                self::assertStringEndsWith('.', $error->getMessage());
            }
        }
        // Of two values at one moment the one that came later holds.
        self::assertSame([3.0, 2.0], Points::of([[20, 1.0], [10, 3.0], [20, 2.0]])->values);
        $both = Points::of([[10, 1.0], [30, 1.0]])->with(Points::of([[20, 2.0], [30, 3.0]]));
        self::assertSame([[10, 20, 30], [1.0, 2.0, 3.0]], [$both->timesMs, $both->values]);
        self::assertSame([20], $both->between(11, 30)->timesMs);
    }
}
