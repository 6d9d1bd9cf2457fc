<?php

declare(strict_types=1);

namespace Tests\Core\Metrics;

use Fulcrion\Core\Metrics\CheckedBytes;
use Fulcrion\Core\Metrics\DamagedBlock;
use Fulcrion\Core\Metrics\Points;
use Fulcrion\Core\Metrics\Readings;
use Fulcrion\Core\Metrics\ValueColumn;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Numbers in few bytes, and what stands on them.
 */
final class ValueColumnTest extends TestCase
{
    /**
     * @param  list<float>  $values
     * @return list<float>
     */
    private static function back(array $values): array
    {
        $body = 'xy'.ValueColumn::encode($values).'z';
        $at = 2;
        $read = ValueColumn::decode($body, $at, count($values));
        self::assertSame(strlen($body) - 1, $at, 'it ends where it ends');

        return $read;
    }

    /**
     * Differences at the borders of one, two, four and eight bytes, each with the bytes a column of two takes.
     *
     * @return array<string, array{float, int}>
     */
    public static function borders(): array
    {
        return [
            'nothing' => [0.0, 0], 'one' => [1.0, 1], 'most of one byte' => [127.0, 1], 'least of one byte' => [-128.0, 1],
            'beyond one byte' => [128.0, 2], 'below one byte' => [-129.0, 2], 'most of two' => [32_767.0, 2],
            'least of two' => [-32_768.0, 2],
            'beyond two' => [32_768.0, 4], 'below two' => [-32_769.0, 4], 'most of four' => [2_147_483_647.0, 4],
            'least of four' => [-2_147_483_648.0, 4], 'beyond four' => [2_147_483_648.0, 8], 'below four' => [-2_147_483_649.0, 8],
        ];
    }

    #[DataProvider('borders')]
    public function test_a_difference_takes_as_many_bytes_as_it_needs(float $difference, int $bytes): void
    {
        $values = [5.0, 5.0 + $difference];
        self::assertSame($values, self::back($values));
        // The decimals, the first number in one byte, the width, and the difference.
        self::assertSame(3 + $bytes, strlen(ValueColumn::encode($values)));
        $scaled = [0.05, round(0.05 + $difference / 100, 2)];
        self::assertSame($scaled, self::back($scaled), 'with two decimals as much');
    }

    public function test_any_numbers_come_back_to_the_last_bit(): void
    {
        $random = new Randomizer(new Mt19937(12));
        for ($draw = 0; $draw < 300; $draw++) {
            $values = [];
            for ($i = 0, $count = $random->getInt(1, 40); $i < $count; $i++) {
                $values[] = match ($draw % 6) {
                    0 => (float) $random->getInt(-9_000_000_000_000_000, 9_000_000_000_000_000),
                    1 => $random->getInt(-999_999, 999_999) / 1_000,
                    2 => $random->getInt(PHP_INT_MIN, PHP_INT_MAX) * 1e280,
                    3 => $random->getInt(0, 3) === 0 ? -0.0 : 0.0,
                    4 => $random->getInt(1, 9) * 10.0 ** $random->getInt(-300, 300),
                    default => array_values((array) unpack('E', $random->getBytes(7).'@'))[0] ?? 0.0,
                };
            }
            $values = array_values(array_filter($values, is_finite(...)));
            if ($values === []) {
                continue;
            }
            self::assertSame(array_map(static fn (float $one): string => bin2hex(pack('E', $one)), $values),
                array_map(static fn (float $one): string => bin2hex(pack('E', $one)), self::back($values)), "draw {$draw}");
        }
    }

    public function test_a_column_that_was_cut_or_is_unknown_is_damaged(): void
    {
        foreach ([[1.0, 200.0, 5.0], [0.1 + 0.2, 1 / 3], [7.0, 7.0]] as $values) {
            $whole = ValueColumn::encode($values);
            for ($length = 0; $length < strlen($whole); $length++) {
                try {
                    $at = 0;
                    ValueColumn::decode(substr($whole, 0, $length), $at, count($values));
                    self::fail("cut at {$length}");
                } catch (DamagedBlock $damage) {
                    self::assertStringContainsString('early', $damage->getMessage());
                }
            }
        }
        foreach (["\x07\x00\x01\x01", "\x00\x00\x03\x01\x01\x01", "\x0e\x00"] as $unknown) {
            $this->damaged($unknown, 2);
        }
        // By bits: more bytes than a number has, and one that is no number.
        $this->damaged("\x0f\x9a", 1);
        $this->damaged("\x0f\x08\x7f\xf0\x00\x00\x00\x00\x00\x00", 1);
    }

    private function damaged(string $body, int $count): void
    {
        try {
            $at = 0;
            ValueColumn::decode($body, $at, $count);
            self::fail(bin2hex($body));
        } catch (DamagedBlock $damage) {
            self::assertNotSame('', $damage->getMessage());
        }
    }

    public function test_runs_of_nothing_take_two_bytes_however_long(): void
    {
        self::assertSame(3, strlen(ValueColumn::runs(array_fill(0, 1_000, 0))));
        self::assertSame(2, strlen(ValueColumn::runs(array_fill(0, 127, 0))));
        $numbers = [0, 0, 5, -5, 0, PHP_INT_MAX, PHP_INT_MIN, 0, 0, 0];
        $at = 0;
        self::assertSame($numbers, ValueColumn::readRuns(ValueColumn::runs($numbers), $at, 10));
        $this->expectException(DamagedBlock::class);
        $at = 0;
        ValueColumn::readRuns(ValueColumn::runs([0, 0, 0]), $at, 2);
    }

    public function test_bytes_are_deflated_where_that_is_shorter_and_checked(): void
    {
        $long = str_repeat('leaf', 500);
        self::assertLessThan(60, strlen(CheckedBytes::seal($long)));
        self::assertSame($long, CheckedBytes::open(CheckedBytes::seal($long)));
        $short = random_bytes(30);
        self::assertSame(35, strlen(CheckedBytes::seal($short)), 'a way and a check beside them');
        self::assertSame($short, CheckedBytes::open(CheckedBytes::seal($short)));
        foreach (['', 'abc', "\x03abcd", substr(CheckedBytes::seal($long), 1)] as $wrong) {
            try {
                CheckedBytes::open($wrong);
                self::fail(bin2hex($wrong));
            } catch (DamagedBlock $damage) {
                self::assertStringContainsString('no block of points', $damage->getMessage());
            }
        }
        // Of a way that is not known, with a check that is right.
        $body = "\x07hello";
        $this->expectExceptionMessage('written in a way that is not known');
        CheckedBytes::open($body.pack('N', crc32($body)));
    }

    public function test_points_are_put_into_their_hours(): void
    {
        $points = Points::of([[3_599_999, 1.0], [3_600_000, 2.0], [7_199_999, 3.0], [10_800_000, 4.0]]);
        $hours = $points->byHour();
        self::assertSame([0, 3_600, 10_800], array_keys($hours));
        self::assertSame([[1.0], [2.0, 3.0], [4.0]], array_map(static fn (Points $one): array => $one->values, array_values($hours)));
        self::assertSame([], (new Points([], []))->byHour());
    }

    public function test_the_last_value_is_the_last_that_is_known(): void
    {
        self::assertSame(2.0, (new Readings([[1, 1.0], [2, 2.0], [3, null]], 5))->last());
        self::assertNull((new Readings([[1, null]], 5))->last());
        self::assertNull((new Readings([], 5))->last());
    }
}
