<?php

declare(strict_types=1);

namespace Tests\Core\Storage;

use Fulcrion\Core\Storage\Indexes\RehearsalCost;
use PHPUnit\Framework\TestCase;

final class RehearsalCostTest extends TestCase
{
    public function test_without_an_earlier_one_it_is_modelled_by_reading_some_rows(): void
    {
        // Half of a million rows of 100 bytes, each read in 2 us: written in 6, and as long a rest after it.
        $cost = RehearsalCost::of(1_000_000, 100.0, [], 2.0);
        self::assertSame([500_000, 50e6, 8_000_000.0, 0], [$cost->rows(0.5), $cost->bytes(0.5), $cost->copyUs(0.5), $cost->rehearsals]);
        // Two microseconds an entry of a hundred thousand; of ten times as many each takes 6/5 of that.
        self::assertEqualsWithDelta(200_000.0, $cost->buildUs(100_000), 1e-6);
        self::assertEqualsWithDelta(2_400_000.0, $cost->buildUs(1_000_000), 1e-3);
    }

    public function test_earlier_ones_on_the_same_server_say_it_better(): void
    {
        $cost = RehearsalCost::of(1_000_000, 200.0, [
            ['rows' => 100_000, 'bytes' => 10e6, 'copyUs' => 4e6, 'buildUs' => 3e5],
            ['rows' => 100_000, 'bytes' => 10e6, 'copyUs' => 6e6, 'buildUs' => 5e5],
            ['rows' => 100_000, 'bytes' => 10e6, 'copyUs' => 20e6, 'buildUs' => 9e5],
            // Of so few rows starting takes longer than copying.
            ['rows' => 999, 'bytes' => 1e5, 'copyUs' => 9e9, 'buildUs' => 9e9],
        ], 50.0);
        self::assertSame(3, $cost->rehearsals);
        // 0.6 us a byte with its rest in the middle one: 20 million bytes of a tenth.
        self::assertEqualsWithDelta(12e6, $cost->copyUs(0.1), 1e-3);
        self::assertEqualsWithDelta(5e5, $cost->buildUs(100_000), 1e-6);
    }

    public function test_what_the_copy_took_says_what_the_table_takes(): void
    {
        $cost = new RehearsalCost(10_000_000, 100.0, 0.1, 2.0, 0);
        self::assertEqualsWithDelta(100 * 7 / 5 * 300_000.0, $cost->tableUs(100_000, 300_000.0), 1e-3);
        self::assertEqualsWithDelta($cost->buildUs(10_000_000), $cost->tableUs(0, 300_000.0), 1e-6);
    }

    public function test_corners(): void
    {
        $empty = RehearsalCost::of(0, 0.0, [], 0.0);
        self::assertSame([0, 0.0, 0.0, 0.0], [$empty->rows(1.0), $empty->bytes(1.0), $empty->copyUs(1.0), $empty->buildUs(0)]);
        $cost = new RehearsalCost(101, 10.0, 0.1, 2.0, 2);
        self::assertSame([101, 0, 51], [$cost->rows(7.0), $cost->rows(-1.0), $cost->rows(0.5)]);
        // As JSON gives it back: whole numbers of floats.
        /** @var array{tableRows: int, rowBytes: int, copyUsPerByte: float, buildUsPerRow: int, rehearsals: int} $kept */
        $kept = json_decode((string) json_encode($cost->toArray()), true);
        self::assertEquals($cost, RehearsalCost::fromArray($kept));
    }
}
