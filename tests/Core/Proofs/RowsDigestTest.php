<?php

declare(strict_types=1);

namespace Tests\Core\Proofs;

use Fulcrion\Core\Proofs\RowsDigest;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * When two answers count as the same.
 */
final class RowsDigestTest extends TestCase
{
    public function test_the_order_of_rows_does_not_count_and_how_often_they_come_does(): void
    {
        $random = new Randomizer(new Mt19937(3));
        $digests = [];
        for ($i = 0; $i < 200; $i++) {
            $rows = array_map(
                static fn (): array => [$random->getInt(0, 3), ['a', 'b', null][$random->getInt(0, 2)], $random->getInt(0, 1) === 1],
                range(1, $random->getInt(1, 6)),
            );
            $sorted = array_map(static fn (array $row): string => serialize($row), $rows);
            sort($sorted);
            $key = implode('', $sorted);
            $digest = self::digest($rows);
            self::assertSame($digest, self::digest($random->shuffleArray($rows)));
            $digests[$key] ??= $digest;
            self::assertSame($digests[$key], $digest);
        }
        self::assertSame(count($digests), count(array_unique($digests)), 'other rows, another digest');
        self::assertNotSame(self::digest([[1]]), self::digest([[1], [1]]));
        self::assertNotSame(self::digest([]), self::digest([[null]]));
        self::assertStringEndsWith('-3', self::digest([[1], [2], [3]]), 'the number of rows can be read');
        self::assertSame('0000000000000000-0', self::digest([]));
    }

    /**
     * @return iterable<string, array{list<int|float|string|bool|null>, list<int|float|string|bool|null>, bool}>
     */
    public static function rows(): iterable
    {
        yield 'a number and its digits' => [[1], ['1'], true];
        yield 'NULL and an empty text' => [[null], [''], false];
        yield 'NULL and its letter' => [[null], ['n'], false];
        yield 'NULL and its own mark' => [[null], ["\0n"], false];
        yield 'true and 1' => [[true], [1], false];
        yield 'true and false' => [[true], [false], false];
        yield 'where one text ends' => [['ab', 'c'], ['a', 'bc'], false];
        yield 'a zero byte at the end and at the beginning' => [["a\0", 'b'], ['a', "\0b"], false];
        yield 'zero bytes and marks' => [["\0\1", ''], ["\0", "\1"], false];
        yield 'two values changed places' => [[1, 2], [2, 1], false];
        yield 'a sum in another order' => [[0.1 + 0.2 + 0.3], [0.3 + 0.2 + 0.1], true];
        yield 'the seventh digit' => [[1.234567], [1.234568], false];
        yield 'beyond the seventh digit' => [[1.23456701], [1.23456702], true];
        yield 'of a large number' => [[123_456_789.0], [123_456_789.4], true];
        yield 'a tenth of one' => [[1.0], [0.1], false];
        yield 'below 0' => [[-1.5], [1.5], false];
        yield 'nothing with either sign' => [[0.0], [-0.0], true];
        yield 'next to nothing' => [[1e-10], [0.0], true];
        yield 'little' => [[1e-8], [0.0], false];
        yield 'infinite and not' => [[INF], [-INF], false];
        yield 'no number' => [[NAN], [NAN], true];
        yield 'a mean that ends in five' => [[12.34565], [12.345650000000001], true];
    }

    /**
     * @param  list<int|float|string|bool|null>  $one
     * @param  list<int|float|string|bool|null>  $other
     */
    #[DataProvider('rows')]
    public function test_rows_are_equal_as_somebody_reading_them_would_say(array $one, array $other, bool $equal): void
    {
        self::assertSame($equal, RowsDigest::key($one) === RowsDigest::key($other));
        self::assertSame($equal, self::digest([$one]) === self::digest([$other]));
    }

    public function test_sums_in_any_order_are_equal(): void
    {
        $random = new Randomizer(new Mt19937(4));
        for ($i = 0; $i < 300; $i++) {
            // As measured values are: with up to three places.
            $values = array_map(static fn (): float => $random->getInt(-100_000, 900_000) / 1_000, range(1, 60));
            $sum = array_sum($values);
            $other = array_sum($random->shuffleArray($values));
            self::assertSame(RowsDigest::key([$sum, $sum / 60]), RowsDigest::key([$other, $other / 60]), "{$sum} and {$other}");
        }
    }

    /**
     * @param  array<array-key, list<int|float|string|bool|null>>  $rows
     */
    private static function digest(array $rows): string
    {
        $digest = new RowsDigest();
        foreach ($rows as $row) {
            $digest->add($row);
        }

        return $digest->text();
    }
}
