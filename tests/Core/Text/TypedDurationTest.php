<?php

declare(strict_types=1);

namespace Tests\Core\Text;

use Fulcrion\Core\Statements\LatencySketch;
use Fulcrion\Core\Text\TypedDuration;
use InvalidArgumentException;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Durations people type, and how many executions took longer.
 */
final class TypedDurationTest extends TestCase
{
    #[TestWith(['500 ms', 500_000])]
    #[TestWith(['10 s', 10_000_000])]
    #[TestWith(['10s', 10_000_000])]
    #[TestWith(['  1.5 MIN ', 90_000_000])]
    #[TestWith(['2 h', 7_200_000_000])]
    #[TestWith(['840 µs', 840])]
    #[TestWith(['1 us', 1])]
    #[TestWith(['0.001 ms', 1])]
    #[TestWith(['744 h', 2_678_400_000_000])]
    public function test_what_people_type(string $text, int $us): void
    {
        self::assertSame($us, TypedDuration::us($text));
    }

    #[TestWith([''])]
    #[TestWith(['10'])]
    #[TestWith(['s'])]
    #[TestWith(['0 s'])]
    #[TestWith(['0.1 us'])]
    #[TestWith(['-3 s'])]
    #[TestWith(['1,5 s'])]
    #[TestWith(['1e3 s'])]
    #[TestWith(['10 days'])]
    #[TestWith(['745 h'])]
    #[TestWith(["10 s\n; DROP"])]
    public function test_what_is_none_says_what_can_be_typed(string $text): void
    {
        $this->expectException(InvalidArgumentException::class);
        $this->expectExceptionMessage('is no duration. Try: 500 ms, 10 s, 1.5 min, 2 h.');
        TypedDuration::us($text);
    }

    public function test_a_sketch_tells_how_many_took_longer_within_two_hundredths(): void
    {
        $random = new Randomizer(new Mt19937(3));
        $durations = [];
        for ($i = 0; $i < 5_000; $i++) {
            $durations[] = (int) exp($random->getInt(0, 20_000) / 1_000);
        }
        $sketch = LatencySketch::of($durations);
        foreach ([0, 1, 100, 5_000, 1_000_000, 30_000_000, 480_000_000] as $us) {
            $count = static fn (float $limit): int => count(array_filter($durations, static fn (int $one): bool => $one > $limit));
            self::assertLessThanOrEqual($count($us), $sketch->above($us), 'none is counted that did not take longer');
            self::assertGreaterThanOrEqual($count($us * 1.0201 + 1), $sketch->above($us), "above {$us} and two hundredths");
        }
        self::assertSame(0, LatencySketch::empty()->above(0));
        self::assertSame(2, LatencySketch::of([1, 5, 9])->above(1));
    }
}
