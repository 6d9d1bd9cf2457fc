<?php

declare(strict_types=1);

namespace Tests\Core;

use Fulcrion\Core\Text\TypedRate;
use InvalidArgumentException;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class TypedRateTest extends TestCase
{
    /**
     * @return iterable<string, array{string, float}>
     */
    public static function rates(): iterable
    {
        yield 'bits' => ['100 Mbit/s', 12_500_000.0];
        yield 'bytes' => ['120 MB/s', 120_000_000.0];
        yield 'without a space' => ['10Gbit/s', 1_250_000_000.0];
        yield 'powers of two' => ['1 MiB/s', 1_048_576.0];
        yield 'a fraction' => ['1.5 kB/s', 1_500.0];
        yield 'plain' => ['800 bit/s', 100.0];
    }

    #[DataProvider('rates')]
    public function test_a_rate_is_read(string $text, float $bytes): void
    {
        self::assertSame($bytes, TypedRate::of($text));
    }

    #[DataProvider('wrong')]
    public function test_anything_else_is_refused(string $text): void
    {
        $this->expectException(InvalidArgumentException::class);
        $this->expectExceptionMessage('is no rate. Try: 100 Mbit/s');
        TypedRate::of($text);
    }

    /**
     * @return iterable<array{string}>
     */
    public static function wrong(): iterable
    {
        foreach (['', 'fast', '100', '100 Mbit', '100 mbit/s', '-1 MB/s', '0 MB/s', '1e9 MB/s', '1 PB/s', '999999999999 TB/s'] as $text) {
            yield [$text];
        }
    }

    public function test_links_are_told_in_bits(): void
    {
        self::assertSame(['0 bit/s', '800 bit/s', '100 Mbit/s', '10 Gbit/s'],
            array_map(TypedRate::bits(...), [0.0, 100.0, 12.5e6, 1.25e9]));
    }
}
