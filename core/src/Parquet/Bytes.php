<?php

declare(strict_types=1);

namespace Fulcrion\Core\Parquet;

/**
 * Numbers from and to bytes, little-endian.
 *
 * @internal
 */
final class Bytes
{
    /**
     * @return list<int|float>
     *
     * @throws ParquetError
     */
    public static function list(string $format, string $bytes): array
    {
        /** @var array<int, int|float>|false $values */
        $values = $bytes === '' ? [] : @unpack($format, $bytes);

        return $values === false ? throw ParquetError::damaged('a page holds half a value') : array_values($values);
    }

    /**
     * @throws ParquetError
     */
    public static function int32(string $bytes): int
    {
        return self::wrapped((int) self::one('V', $bytes, 4));
    }

    /**
     * @throws ParquetError
     */
    public static function int64(string $bytes): int
    {
        return (int) self::one('P', $bytes, 8);
    }

    /**
     * @throws ParquetError
     */
    public static function double(string $bytes): float
    {
        return (float) self::one('e', $bytes, 8);
    }

    /** The lowest 32 bits as a signed number. */
    public static function wrapped(int $value): int
    {
        return ($value << 32) >> 32;
    }

    /**
     * @throws ParquetError
     */
    private static function one(string $format, string $bytes, int $width): int|float
    {
        return strlen($bytes) < $width ? throw ParquetError::damaged('a number in it ends too early') : self::list($format, $bytes)[0];
    }

    /**
     * @throws ParquetError
     */
    public static function varint(string $bytes, int &$at): int
    {
        $value = 0;
        for ($shift = 0; $shift < 70; $shift += 7) {
            if (! isset($bytes[$at])) {
                break;
            }
            $byte = ord($bytes[$at++]);
            $value |= ($byte & 127) << $shift;
            if ($byte < 128) {
                return $value;
            }
        }
        throw ParquetError::damaged('a run in a page ends too early');
    }
}
