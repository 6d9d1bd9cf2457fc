<?php

declare(strict_types=1);

namespace Tests\Core\Time;

use DateTimeImmutable;
use DateTimeZone;
use Fulcrion\Core\Time\MomentReader;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * PHP's own dates are the oracle.
 */
final class MomentReaderTest extends TestCase
{
    public function test_moments_in_any_zone_and_form_are_those_php_reads(): void
    {
        $random = new Randomizer(new Mt19937(4));
        $reader = new MomentReader();
        for ($i = 0; $i < 3000; $i++) {
            $second = $random->getInt(0, 4_102_444_800);
            $micro = $random->getInt(0, 999_999);
            $minutes = 15 * $random->getInt(-48, 56);
            $zone = sprintf('%s%02d:%02d', $minutes < 0 ? '-' : '+', intdiv(abs($minutes), 60), abs($minutes) % 60);
            $there = (new DateTimeImmutable("@{$second}"))->setTimezone(new DateTimeZone($zone));
            $digits = $random->getInt(0, 9);
            $fraction = $digits === 0 ? '' : '.'.substr(sprintf('%06d123', $micro), 0, $digits);
            $kept = $digits === 0 ? 0 : (int) str_pad(substr(sprintf('%06d', $micro), 0, min(6, $digits)), 6, '0');
            $expected = $second * 1_000_000 + $kept;
            self::assertSame($expected, $reader->microseconds($there->format('Y-m-d\TH:i:s').$fraction.$zone), "{$second} in {$zone}");
            self::assertSame($expected, $reader->microseconds($there->format('Y-m-d H:i:s').$fraction.str_replace(':', '', $zone)));
            $utc = gmdate('Y-m-d\TH:i:s', $second);
            self::assertSame($expected, $reader->microseconds($utc.$fraction.'Z'));
            self::assertSame($expected, $reader->microseconds($utc.str_replace('.', ',', $fraction)));
            self::assertSame($second * 1_000_000 + $micro, $reader->microseconds($utc.sprintf('.%06dZ', $micro)));
        }
    }

    public function test_what_was_read_before_never_shows_in_what_is_read_next(): void
    {
        $reader = new MomentReader();
        $texts = ['2026-11-20T06:00:00.000001Z',
            '2026-11-20T06:00:00.999999Z', '2026-11-20T06:00:01.000001Z', '2026-11-20T06:00:00.00001xZ',
            '2026-11-20T06:00:00.000001+01:00', '2026-11-20T06:00:00.000002Z', '2026-02-30T06:00:00.000001Z', '2026-11-20T06:00:00Z'];
        foreach ([...$texts, ...array_reverse($texts)] as $text) {
            self::assertSame((new MomentReader())->microseconds($text), $reader->microseconds($text), $text);
        }
    }

    #[TestWith([0, 0])]
    #[TestWith([1.5, 1_500_000])]
    #[TestWith(['1795154400.25', 1_795_154_400_250_000])]
    #[TestWith([99_999_999_999, 99_999_999_999_000_000])]
    #[TestWith([100_000_000_000, null])]
    #[TestWith([-100_000_000_000, null])]
    #[TestWith([INF, null])]
    #[TestWith([NAN, null])]
    #[TestWith(['', null])]
    #[TestWith([null, null])]
    #[TestWith([true, null])]
    #[TestWith([['2026-11-20T06:00:00Z'], null])]
    #[TestWith(['2026-11-20', null])]
    #[TestWith(['2026-11-20T24:00:00Z', null])]
    #[TestWith(['2026-11-20T23:60:00Z', null])]
    #[TestWith(['2026-11-20T23:59:61Z', null])]
    #[TestWith(['2026-13-01T00:00:00Z', null])]
    #[TestWith(['2025-02-29T00:00:00Z', null])]
    #[TestWith(["2026-11-20T06:00:00Z\n", null])]
    #[TestWith(['2026-11-20T06:00:00.1234567890Z', null])]
    #[TestWith(['2024-02-29T00:00:00Z', 1_709_164_800_000_000])]
    #[TestWith(['2026-12-31T23:59:60Z', 1_798_761_600_000_000])]
    #[TestWith(['2026-11-20t06:00:00z', null])]
    #[TestWith(['2026-11-20T06:00:00 z', 1_795_154_400_000_000])]
    public function test_what_is_no_moment_is_none(mixed $value, ?int $microseconds): void
    {
        $odd = is_string($value) && str_contains($value, 't06') ? (new DateTimeImmutable($value))->getTimestamp() * 1_000_000 : null;
        self::assertSame($odd ?? $microseconds, (new MomentReader())->microseconds($value));
    }
}
