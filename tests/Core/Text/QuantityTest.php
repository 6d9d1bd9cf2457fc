<?php

declare(strict_types=1);

namespace Tests\Core\Text;

use Fulcrion\Core\Text\Quantity;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class QuantityTest extends TestCase
{
    private const T = Quantity::THIN_SPACE;

    private const M = Quantity::MINUS;

    /**
     * @return iterable<string, array{string, int|float|null, string}>
     */
    public static function said(): iterable
    {
        $cases = [
            'digits' => [
                [0, '0'], [7, '7'], [0.5, '0.5'], [1.005, '1.01'], [9.9949, '9.99'], [9.995, '10.0'], [12.34, '12.3'], [99.94, '99.9'],
                [99.95, '100'], [1234.5, '1'.self::T.'235'], [0.0995, '0.1'], [0.01234, '0.012'], [0.00000123, '0.0000012'],
                [-2.5, self::M.'2.5'], [-1234, self::M.'1'.self::T.'234'],
            ],
            'count' => [
                [null, '–'], [0, '0'], [999, '999'], [1000, '1'.self::T.'000'], [-1000, self::M.'1'.self::T.'000'], [2.6, '3'],
                [1234567, '1'.self::T.'234'.self::T.'567'],
            ],
            'short' => [
                [null, '–'], [9999, '9'.self::T.'999'], [10000, '10 k'], [12345, '12.3 k'], [999_499, '999 k'], [999_500, '1 M'],
                [1e6, '1 M'], [4.56e6, '4.56 M'], [7.8e9, '7.8 G'], [-12345, self::M.'12.3 k'], [0.25, '0.25'],
            ],
            'duration' => [
                [null, '–'], [0, '0 µs'], [840, '840 µs'], [999.4, '999 µs'], [999.5, '1 ms'], [12_400, '12.4 ms'], [999_499, '999 ms'],
                [999_500, '1 s'], [3_200_000, '3.2 s'], [99_949_999, '99.9 s'], [99_950_000, '1 min 40 s'], [250e6, '4 min 10 s'],
                [3599.6e6, '1 h'], [11_100e6, '3 h 5 min'], [2879 * 60e6, '47 h 59 min'], [2880 * 60e6, '2 d'],
                [52 * 3600e6, '2 d 4 h'], [-12_400, self::M.'12.4 ms'],
            ],
            'bytes' => [
                [null, '–'], [0, '0 B'], [999, '999 B'], [1000, '0.977 KiB'], [1024, '1 KiB'], [1536, '1.5 KiB'], [1048576, '1 MiB'],
                [5 * 1024 ** 3, '5 GiB'], [2 * 1024 ** 4, '2 TiB'], [3 * 1024 ** 5, '3 PiB'], [-2048, self::M.'2 KiB'],
            ],
            'percent' => [
                [null, '–'], [0, '0%'], [0.0004, '<0.1%'], [0.001, '0.1%'], [0.0123, '1.2%'], [0.0994, '9.9%'], [0.0995, '10%'],
                [0.5, '50%'], [1, '100%'], [12.5, '1'.self::T.'250%'], [-0.42, self::M.'42%'], [-0.0004, self::M.'<0.1%'],
            ],
        ];
        foreach ($cases as $kind => $values) {
            foreach ($values as [$value, $text]) {
                yield "{$kind} of ".json_encode($value) => [$kind, $value, $text];
            }
        }
    }

    #[DataProvider('said')]
    public function test_a_number_is_said_in_its_unit(string $kind, int|float|null $value, string $text): void
    {
        self::assertSame($text, match ($kind) {
            'digits' => Quantity::digits($value ?? 0),
            'count' => Quantity::count($value),
            'short' => Quantity::short($value),
            'duration' => Quantity::duration($value),
            'bytes' => Quantity::bytes($value),
            default => Quantity::percent($value),
        });
    }

    /** tests/Js/quantity.test.js holds the scripts of the pages to the same file. */
    public function test_the_file_that_scripts_are_held_to_says_what_the_server_says(): void
    {
        $known = json_decode((string) file_get_contents(dirname(__DIR__, 2).'/Js/quantities.json'), true, 8, JSON_THROW_ON_ERROR);
        self::assertIsArray($known);
        self::assertGreaterThan(250, count($known));
        foreach ($known as $one) {
            self::assertIsArray($one);
            $value = $one['value'];
            self::assertTrue(is_int($value) || is_float($value));
            self::assertSame(
                ['value' => $value, 'digits' => Quantity::digits($value), 'duration' => Quantity::duration($value),
                    'bytes' => Quantity::bytes($value), 'percent' => Quantity::percent($value)],
                $one,
            );
        }
    }

    #[TestWith([10.0, 10.05, 'unchanged'])]
    #[TestWith([10.0, 10.1, 'slower by 1%'])]
    #[TestWith([10.0, 13.8, 'slower by 38%'])]
    #[TestWith([10.0, 29.9, 'slower by 199%'])]
    #[TestWith([10.0, 30.0, 'slower by a factor of 3'])]
    #[TestWith([10.0, 9.0, 'faster by 10%'])]
    #[TestWith([10.0, 0.0, 'faster by 100%'])]
    #[TestWith([0.0, 5.0, 'new'])]
    #[TestWith([0.0, 0.0, 'unchanged'])]
    public function test_a_change_is_said_in_words(float $before, float $now, string $words): void
    {
        self::assertSame($words, Quantity::change($before, $now, 'slower', 'faster'));
    }

    /** Whatever is said can be read back to within the three digits it is said in. */
    public function test_three_digits_are_kept_of_any_size(): void
    {
        mt_srand(11);
        for ($i = 0; $i < 2000; $i++) {
            $value = (mt_rand(100_000, 999_999) / 100_000) * 10 ** mt_rand(-4, 9);
            $read = (float) str_replace(self::T, '', Quantity::digits($value));
            self::assertEqualsWithDelta($value, $read, $value < 0.1 ? 0.06 * $value : 0.006 * $value, (string) $value);
        }
    }
}
