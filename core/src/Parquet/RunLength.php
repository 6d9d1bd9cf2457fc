<?php

declare(strict_types=1);

namespace Fulcrion\Core\Parquet;

/**
 * The hybrid of run-length encoding and bit packing (Apache Parquet, Encodings.md, "RLE").
 *
 * @internal
 */
final class RunLength
{
    /** A run shorter than this costs less bit-packed. */
    private const SHORTEST_RUN = 8;

    /**
     * @param  list<int>  $values
     * @param  int<1, 16>  $width bits a value
     */
    public static function encode(array $values, int $width): string
    {
        $bytes = '';
        $loose = [];
        $count = count($values);
        for ($i = 0; $i < $count; $i += $length) {
            $value = $values[$i];
            $length = 1;
            while ($i + $length < $count && $values[$i + $length] === $value) {
                $length++;
            }
            // Bit-packed groups hold eight values; a run first fills the group in front of it.
            $fill = min($length, (8 - (count($loose) % 8)) % 8);
            if ($length - $fill < self::SHORTEST_RUN) {
                for ($j = 0; $j < $length; $j++) {
                    $loose[] = $value;
                }

                continue;
            }
            for ($j = 0; $j < $fill; $j++) {
                $loose[] = $value;
            }
            $bytes .=
                self::pack($loose, $width).ThriftWriter::varint(($length - $fill) << 1).($width > 8 ? pack('v', $value) : chr($value));
            $loose = [];
        }

        return $bytes.self::pack($loose, $width);
    }

    /**
     * @template T of int|float|string|bool
     *
     * @param  list<T>|null  $dictionary what each number stands for; null where the numbers are the values
     * @return ($dictionary is null ? list<int> : list<T>)
     *
     * @throws ParquetError
     */
    public static function decode(string $bytes, int $width, int $count, ?array $dictionary = null): array
    {
        $values = [];
        $byCharacter = [];
        if ($dictionary !== null && $width === 8) {
            foreach (array_slice($dictionary, 0, 256) as $number => $value) {
                $byCharacter[chr($number)] = $value;
            }
        }
        $at = 0;
        $have = 0;
        $valueBytes = ($width + 7) >> 3;
        while ($have < $count) {
            $head = Bytes::varint($bytes, $at);
            if (($head & 1) === 0) {
                $value = 0;
                for ($i = 0; $i < $valueBytes; $i++) {
                    $value |= ord($bytes[$at + $i] ?? throw ParquetError::damaged('a run in a page ends too early')) << (8 * $i);
                }
                $at += $valueBytes;
                $length = min($head >> 1, $count - $have);
                if ($length === 0) {
                    throw ParquetError::damaged('a run in a page is empty');
                }
                $value = $dictionary === null ? $value : $dictionary[$value] ?? throw self::outside();
                if ($have === 0) {
                    $values = array_fill(0, $length, $value);
                } else {
                    for ($i = 0; $i < $length; $i++) {
                        $values[] = $value;
                    }
                }
            } else {
                $length = min(($head >> 1) * 8, $count - $have);
                $size = ($head >> 1) * $width;
                $packed = substr($bytes, $at, $size);
                // A last group may be cut where the values end.
                if ($length === 0 || strlen($packed) * 8 < $length * $width) {
                    throw ParquetError::damaged('a run in a page ends too early');
                }
                $at += $size;
                if ($byCharacter !== []) {
                    // Looking up characters is twice as fast as unpacking numbers first.
                    for ($i = 0; $i < $length; $i++) {
                        $values[] = $byCharacter[$packed[$i]] ?? throw self::outside();
                    }
                } else {
                    foreach (self::unpack($packed, $width, $length) as $value) {
                        $values[] = $dictionary === null ? $value : $dictionary[$value] ?? throw self::outside();
                    }
                }
            }
            $have += $length;
        }

        return $values;
    }

    private static function outside(): ParquetError
    {
        return ParquetError::damaged('a column points behind its dictionary');
    }

    /**
     * @param  list<int>  $values
     */
    private static function pack(array $values, int $width): string
    {
        if ($values === []) {
            return '';
        }
        $groups = intdiv(count($values) + 7, 8);
        $values = array_pad($values, $groups * 8, 0);
        $head = ThriftWriter::varint(($groups << 1) | 1);
        if ($width === 8 || $width === 16) {
            return $head.pack($width === 8 ? 'C*' : 'v*', ...$values);
        }
        if ($width > 1) {
            return $head.Delta::pack($values, $width);
        }
        $bytes = '';
        foreach (array_chunk($values, 8) as $bits) {
            $byte = 0;
            foreach ($bits as $i => $bit) {
                $byte |= $bit << $i;
            }
            $bytes .= chr($byte);
        }

        return $head.$bytes;
    }

    /**
     * @return list<int>
     *
     * @throws ParquetError
     */
    private static function unpack(string $bytes, int $width, int $count): array
    {
        if ($width === 8 || $width === 16) {
            /** @var list<int> $values */
            $values = Bytes::list($width === 8 ? 'C*' : 'v*', substr($bytes, 0, $count * ($width >> 3)));

            return $values;
        }
        $values = [];
        $buffer = 0;
        $bits = 0;
        $mask = (1 << $width) - 1;
        $at = 0;
        for ($i = 0; $i < $count; $i++) {
            while ($bits < $width) {
                $buffer |= ord($bytes[$at++]) << $bits;
                $bits += 8;
            }
            $values[] = $buffer & $mask;
            $buffer >>= $width;
            $bits -= $width;
        }

        return $values;
    }
}
