<?php

declare(strict_types=1);

namespace Tests\Core\Statements;

use Fulcrion\Core\Statements\LatencySketch;
use InvalidArgumentException;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class LatencySketchTest extends TestCase
{
    private const QS = [0.0, 0.01, 0.25, 0.5, 0.9, 0.95, 0.99, 0.999, 1.0];

    public function test_quantiles_are_within_one_percent_of_the_exact_ones(): void
    {
        $random = new Randomizer(new Mt19937(3));
        foreach (['uniform', 'log', 'small', 'two humps'] as $shape) {
            for ($round = 0; $round < 20; $round++) {
                $values = [];
                for ($i = $random->getInt(1, 4_000); $i > 0; $i--) {
                    $values[] = match ($shape) {
                        'uniform' => $random->getInt(0, 5_000_000),
                        'log' => (int) exp($random->getInt(0, 27_000) / 1_000),
                        'small' => $random->getInt(0, 60),
                        default => $random->getInt(0, 1) === 0 ? $random->getInt(900, 1_100) : $random->getInt(8_000_000, 9_000_000),
                    };
                }
                $sketch = LatencySketch::of($values);
                sort($values);
                foreach (self::QS as $q) {
                    $exact = $values[max(1, (int) ceil($q * count($values))) - 1];
                    self::assertEqualsWithDelta($exact, $sketch->quantile($q), $exact * LatencySketch::RELATIVE_ERROR, "{$shape} {$q}");
                }
            }
        }
    }

    public function test_merging_is_associative_commutative_and_the_same_as_counting_together(): void
    {
        $random = new Randomizer(new Mt19937(5));
        for ($round = 0; $round < 200; $round++) {
            [$a, $b, $c] = array_map(
                static fn (): array => array_map(
                    static fn (): int => (int) exp($random->getInt(0, 20_000) / 1_000),
                    range(0, $random->getInt(0, 40)),
                ),
                [1, 2, 3],
            );
            [$x, $y, $z] = array_map(LatencySketch::of(...), [$a, $b, $c]);
            $all = LatencySketch::of([...$a, ...$b, ...$c])->toBinary();
            self::assertSame($all, $x->merge($y)->merge($z)->toBinary());
            self::assertSame($all, $z->merge($y->merge($x))->toBinary());
            // Written behind each other, as a database does it.
            self::assertSame($all, LatencySketch::fromBinary($x->toBinary().$y->toBinary().$z->toBinary())->toBinary());
        }
    }

    public function test_counts_beyond_one_word_and_damaged_bytes(): void
    {
        $sketch = LatencySketch::ofCounts([LatencySketch::bin(1_000) => 5_000_000_000]);
        self::assertSame(5_000_000_000, LatencySketch::fromBinary($sketch->toBinary())->count());
        self::assertNull(LatencySketch::empty()->quantile(0.5));
        self::assertSame('', LatencySketch::empty()->toBinary());
        self::assertSame([0, 1, 2, 49], array_map(static fn (int $us): ?int => LatencySketch::of([$us])->quantile(0.5), [0, 1, 2, 49]));
        $this->expectException(InvalidArgumentException::class);
        LatencySketch::fromBinary('abc');
    }

    public function test_classes_keep_every_count(): void
    {
        $classes = LatencySketch::of([1, 2, 3, 1_000, 1_000_000])->classes();
        self::assertSame(5, array_sum(array_column($classes, 'count')));
        foreach (array_slice($classes, 1) as $i => $class) {
            self::assertSame($classes[$i]['toUs'], $class['fromUs']);
        }
    }
}
