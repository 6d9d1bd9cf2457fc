<?php

declare(strict_types=1);

namespace Fulcrion\Core\Text;

/**
 * Numbers as people read them: narrow spaces between thousands, at which no line breaks, a unit that fits, three telling digits.
 */
final class Quantity
{
    public const THIN_SPACE = "\u{202F}";

    public const NONE = '–';

    public const MINUS = "\u{2212}";

    public static function count(int|float|null $number, int $decimals = 0): string
    {
        return $number === null ? self::NONE : str_replace('-', self::MINUS, number_format($number, $decimals, '.', self::THIN_SPACE));
    }

    /** Large counts in short form: 12.3 k, 4.56 M. */
    public static function short(int|float|null $number): string
    {
        if ($number === null) {
            return self::NONE;
        }
        // What would round up to a thousand of a unit is one of the next.
        foreach (['G' => [1e9, 999.5e6], 'M' => [1e6, 999_500], 'k' => [1e3, 1e4]] as $prefix => [$size, $from]) {
            if (abs($number) >= $from) {
                return self::digits($number / $size)." {$prefix}";
            }
        }

        return is_int($number) || abs($number) >= 1000 ? self::count($number) : self::digits($number);
    }

    /** 840 µs, 12.4 ms, 3.2 s, 4 min 10 s, 3 h 5 min, 2 d 4 h. */
    public static function duration(int|float|null $durationUs): string
    {
        if ($durationUs === null) {
            return self::NONE;
        }
        $sign = $durationUs < 0 ? self::MINUS : '';
        $us = abs($durationUs);
        if ($us < 999.5) {
            return $sign.self::digits($us).' µs';
        }
        if ($us < 999_500) {
            return $sign.self::digits($us / 1e3).' ms';
        }
        if ($us < 99_950_000) {
            return $sign.self::digits($us / 1e6).' s';
        }
        $seconds = (int) round($us / 1e6);
        if ($seconds < 3600) {
            return $sign.self::pair(intdiv($seconds, 60), 'min', $seconds % 60, 's');
        }
        $minutes = (int) round($seconds / 60);
        if ($minutes < 2880) {
            return $sign.self::pair(intdiv($minutes, 60), 'h', $minutes % 60, 'min');
        }
        $hours = (int) round($minutes / 60);

        return $sign.self::pair(intdiv($hours, 24), 'd', $hours % 24, 'h');
    }

    public static function bytes(int|float|null $bytes): string
    {
        if ($bytes === null) {
            return self::NONE;
        }
        $value = (float) $bytes;
        foreach (['B', 'KiB', 'MiB', 'GiB', 'TiB'] as $unit) {
            if (abs($value) < 999.5) {
                return self::digits($unit === 'B' ? round($value) : $value).' '.$unit;
            }
            $value /= 1024;
        }

        return self::digits($value).' PiB';
    }

    /** A share between 0 and 1. */
    public static function percent(int|float|null $share): string
    {
        if ($share === null) {
            return self::NONE;
        }
        $percent = $share * 100;

        $size = abs($percent);

        return ($percent < 0 ? self::MINUS : '').match (true) {
            $size === 0 || $size === 0.0 => '0%',
            $size < 0.1 => '<0.1%',
            $size < 9.95 => number_format($size, 1).'%',
            default => number_format($size, 0, '.', self::THIN_SPACE).'%',
        };
    }

    /** A plain number with three telling digits. */
    public static function digits(int|float $number): string
    {
        $size = abs($number);

        return ($number < 0 ? self::MINUS : '').match (true) {
            $size >= 99.95 || floor($size) === (float) $size => number_format($size, 0, '.', self::THIN_SPACE),
            $size >= 9.995 => number_format($size, 1),
            $size >= 0.995 => rtrim(rtrim(number_format($size, 2), '0'), '.'),
            $size >= 0.0995 => rtrim(rtrim(number_format($size, 3), '0'), '.'),
            // Two telling digits, however small.
            default => rtrim(number_format($size, min(9, 1 - (int) floor(log10($size)))), '0'),
        };
    }

    /** 12.3 times. */
    public static function factor(float $factor): string
    {
        return self::digits($factor).' times';
    }

    /** How $now stands to $before, in words: "slower by 38%", "slower by a factor of 6.1", "unchanged". */
    public static function change(float $before, float $now, string $more, string $less): string
    {
        if ($before <= 0.0) {
            return $now <= 0.0 ? 'unchanged' : 'new';
        }
        $factor = $now / $before;

        return match (true) {
            $factor >= 3 => $more.' by a factor of '.self::digits($factor),
            $factor >= 1.01 => $more.' by '.number_format(($factor - 1) * 100).'%',
            $factor <= 0.99 => $less.' by '.number_format((1 - $factor) * 100).'%',
            default => 'unchanged',
        };
    }

    private static function pair(int $large, string $largeUnit, int $small, string $smallUnit): string
    {
        return "{$large} {$largeUnit}".($small > 0 ? " {$small} {$smallUnit}" : '');
    }
}
