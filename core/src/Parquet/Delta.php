<?php

declare(strict_types=1);

namespace Fulcrion\Core\Parquet;

/**
 * DELTA_BINARY_PACKED, DELTA_LENGTH_BYTE_ARRAY and DELTA_BYTE_ARRAY (Apache Parquet, Encodings.md; the first after
 * Lemire and Boytsov, "Decoding billions of integers per second through vectorization", 2012).
 *
 * @internal
 */
final class Delta
{
    private const BLOCK = 128;

    private const MINI = 32;

    /**
     * @param  list<int>  $values
     * @return string|null null where a difference does not fit 64 bits
     */
    public static function encode(array $values): ?string
    {
        $count = count($values);
        $bytes =
            ThriftWriter::varint(self::BLOCK).
            ThriftWriter::varint(intdiv(self::BLOCK, self::MINI)).
            ThriftWriter::varint($count).
            self::zigzag($values[0] ?? 0);
        $deltas = [];
        for ($i = 1; $i < $count; $i++) {
            $delta = self::difference($values[$i], $values[$i - 1]);
            if (! is_int($delta)) {
                return null;
            }
            $deltas[] = $delta;
        }
        foreach (array_chunk($deltas, self::BLOCK) as $block) {
            $least = min($block);
            $widths = '';
            $packed = '';
            foreach (array_chunk($block, self::MINI) as $mini) {
                $most = self::difference(max($mini), $least);
                if (! is_int($most)) {
                    return null;
                }
                $width = $most === 0 ? 0 : strlen(decbin($most));
                $widths .= chr($width);
                $packed .=
                    $width === 0
                        ? ''
                        : self::pack(
                            array_map(static fn (int $delta): int => $delta - $least, array_pad($mini, self::MINI, $least)),
                            $width,
                        );
            }
            $bytes .= self::zigzag($least).str_pad($widths, intdiv(self::BLOCK, self::MINI), "\0").$packed;
        }

        return $bytes;
    }

    /**
     * @param  int  $at where the numbers begin; behind them afterwards
     * @return list<int>
     *
     * @throws ParquetError
     */
    public static function decode(string $bytes, int &$at): array
    {
        $block = Bytes::varint($bytes, $at);
        $minis = Bytes::varint($bytes, $at);
        $count = Bytes::varint($bytes, $at);
        if ($minis < 1 || $block < $minis || $block % $minis !== 0) {
            throw ParquetError::damaged('a page of differences has blocks of no size');
        }
        $mini = intdiv($block, $minis);
        $value = self::signed(Bytes::varint($bytes, $at));
        $values = $count > 0 ? [$value] : [];
        while (count($values) < $count) {
            $least = self::signed(Bytes::varint($bytes, $at));
            $widths = substr($bytes, $at, $minis);
            if (strlen($widths) < $minis) {
                throw ParquetError::damaged('a page of differences ends too early');
            }
            $at += $minis;
            for ($m = 0; $m < $minis && count($values) < $count; $m++) {
                $width = ord($widths[$m]);
                $size = intdiv($mini * $width + 7, 8);
                if ($width > 64 || strlen($bytes) < $at + $size) {
                    throw ParquetError::damaged('a page of differences ends too early');
                }
                $left = min($mini, $count - count($values));
                foreach ($width === 0 ? array_fill(0, $left, 0) : self::unpack(substr($bytes, $at, $size), $width, $left) as $delta) {
                    $value = self::sum(self::sum($value, $least), $delta);
                    $values[] = $value;
                }
                $at += $size;
            }
        }

        return $values;
    }

    /**
     * @param  list<string>  $texts
     */
    public static function lengths(array $texts): string
    {
        return self::encode(array_map(strlen(...), $texts)).implode('', $texts);
    }

    /**
     * @param  list<string>  $texts
     */
    public static function beginnings(array $texts): string
    {
        $shared = $rest = [];
        $before = '';
        foreach ($texts as $text) {
            // Where two texts are equal, their difference is a run of NUL.
            $same = strspn($text ^ $before, "\0");
            $shared[] = $same;
            $rest[] = substr($text, $same);
            $before = $text;
        }

        return self::encode($shared).self::lengths($rest);
    }

    /**
     * @return list<string>
     *
     * @throws ParquetError
     */
    public static function textsByLength(string $bytes, int &$at): array
    {
        $texts = [];
        foreach (self::decode($bytes, $at) as $length) {
            if ($length < 0 || strlen($bytes) < $at + $length) {
                throw ParquetError::damaged('a page of texts ends too early');
            }
            $texts[] = substr($bytes, $at, $length);
            $at += $length;
        }

        return $texts;
    }

    /**
     * @return list<string>
     *
     * @throws ParquetError
     */
    public static function textsByBeginning(string $bytes): array
    {
        $at = 0;
        $shared = self::decode($bytes, $at);
        $texts = [];
        $before = '';
        foreach (self::textsByLength($bytes, $at) as $i => $rest) {
            $before = substr($before, 0, $shared[$i] ?? 0).$rest;
            $texts[] = $before;
        }

        return $texts;
    }

    /**
     * Numbers of some bits each, the lowest bits first.
     *
     * @param  list<int>  $values
     */
    public static function pack(array $values, int $width): string
    {
        $bytes = [];
        $buffer = 0;
        $bits = 0;
        foreach ($values as $value) {
            for ($left = $width; $left > 0; $left -= 32) {
                $take = min(32, $left);
                $buffer |= ($value & ((1 << $take) - 1)) << $bits;
                $bits += $take;
                $value >>= 32;
                while ($bits >= 8) {
                    $bytes[] = $buffer & 255;
                    $buffer >>= 8;
                    $bits -= 8;
                }
            }
        }
        if ($bits > 0) {
            $bytes[] = $buffer & 255;
        }

        return pack('C*', ...$bytes);
    }

    /**
     * @return list<int>
     */
    public static function unpack(string $bytes, int $width, int $count): array
    {
        $values = [];
        $buffer = 0;
        $bits = 0;
        $at = 0;
        for ($i = 0; $i < $count; $i++) {
            $value = 0;
            for ($done = 0; $done < $width; $done += 32) {
                $take = min(32, $width - $done);
                while ($bits < $take) {
                    $buffer |= ord($bytes[$at++]) << $bits;
                    $bits += 8;
                }
                $value |= ($buffer & ((1 << $take) - 1)) << $done;
                $buffer >>= $take;
                $bits -= $take;
            }
            $values[] = $value;
        }

        return $values;
    }

    private static function zigzag(int $value): string
    {
        return ThriftWriter::varint(($value << 1) ^ ($value >> 63));
    }

    private static function signed(int $value): int
    {
        return (($value >> 1) & PHP_INT_MAX) ^ -($value & 1);
    }

    /** A float where 64 bits do not hold it. */
    private static function difference(int $a, int|float $b): int|float
    {
        return $a - $b;
    }

    /** As 64-bit machines add, beyond the end to the beginning. */
    private static function sum(int $a, int $b): int
    {
        $sum = self::difference($a, -$b);
        if (is_int($sum)) {
            return $sum;
        }
        $low = ($a & 0xFFFFFFFF) + ($b & 0xFFFFFFFF);
        $high = (($a >> 32) + ($b >> 32) + ($low >> 32)) & 0xFFFFFFFF;

        return ($high << 32) | ($low & 0xFFFFFFFF);
    }
}
