<?php

declare(strict_types=1);

namespace Fulcrion\Core\Metrics;

/**
 * Numbers in few bytes: differences of whole numbers where all of them have few decimals, else what each has other bits in than the one
 * before (Pelkonen et al., VLDB 2015), by bytes. What comes again and again is told once with how often.
 */
final class ValueColumn
{
    /** Way of values: this many decimals, or by bits. */
    private const BY_BITS = 15;

    private const MOST_DECIMALS = 6;

    /** Whole numbers up to here are exact as floats. */
    private const EXACT = 9_007_199_254_740_992.0;

    /** How numbers of so many bytes with a sign are packed, the lowest byte first on every machine this runs on. */
    private const PACKED = [1 => 'c', 2 => 's', 4 => 'l', 8 => 'q'];

    /**
     * @param  list<float>  $values
     */
    public static function encode(array $values): string
    {
        $decimals = self::decimals($values);

        return $decimals === null ? chr(self::BY_BITS).self::bits($values) : chr($decimals).self::whole($values, $decimals);
    }

    /**
     * @param  int  $at where the column begins; where it ended, afterwards
     * @return list<float>
     *
     * @throws DamagedBlock
     */
    public static function decode(string $body, int &$at, int $count): array
    {
        $way = ord($body[$at++] ?? throw new DamagedBlock('A block of points ends early.'));

        return $way === self::BY_BITS ? self::readBits($body, $at, $count) : self::readWhole($body, $at, $count, $way);
    }

    /**
     * How many decimals all of them have at most; null where some have too many.
     *
     * @param  list<float>  $values
     */
    private static function decimals(array $values): ?int
    {
        // floor(), as round() leaves what is large as it is, halves and all.
        $decimals = 0;
        $factor = 1.0;
        foreach ($values as $value) {
            while (floor($value * $factor + 0.5) / $factor !== $value || abs($value * $factor) >= self::EXACT) {
                if (++$decimals > self::MOST_DECIMALS || abs($value * $factor) >= self::EXACT) {
                    return null;
                }
                $factor *= 10.0;
            }
            // A zero with a sign is no whole number.
            if ($value === 0.0 && fdiv(1.0, $value) < 0) {
                return null;
            }
        }
        foreach ($values as $value) {
            if (floor($value * $factor + 0.5) / $factor !== $value || abs($value * $factor) >= self::EXACT) {
                return null;
            }
        }

        return $decimals;
    }

    /**
     * The first number, and differences in as few bytes each as the largest needs.
     *
     * @param  list<float>  $values
     */
    private static function whole(array $values, int $decimals): string
    {
        $factor = 10.0 ** $decimals;
        $first = $before = (int) floor(($values[0] ?? 0.0) * $factor + 0.5);
        $differences = [];
        $low = $high = 0;
        for ($i = 1, $count = count($values); $i < $count; $i++) {
            $whole = (int) floor($values[$i] * $factor + 0.5);
            $differences[] = $difference = $whole - $before;
            $before = $whole;
            $low = min($low, $difference);
            $high = max($high, $difference);
        }
        $width = self::width($low, $high);

        return self::signed($first).chr($width).($width === 0 ? '' : pack(self::PACKED[$width].'*', ...$differences));
    }

    /** @return 0|1|2|4|8 */
    private static function width(int $low, int $high): int
    {
        return match (true) {
            $low === 0 && $high === 0 => 0,
            $low >= -0x80 && $high < 0x80 => 1,
            $low >= -0x8000 && $high < 0x8000 => 2,
            $low >= -0x8000_0000 && $high < 0x8000_0000 => 4,
            default => 8,
        };
    }

    /**
     * @return list<float>
     *
     * @throws DamagedBlock
     */
    private static function readWhole(string $body, int &$at, int $count, int $decimals): array
    {
        if ($decimals > self::MOST_DECIMALS) {
            throw new DamagedBlock('Values of a block are written in a way that is not known here.');
        }
        $factor = 10.0 ** $decimals;
        $whole = self::readSigned($body, $at);
        $width = ord($body[$at++] ?? throw new DamagedBlock('A block of points ends early.'));
        if ($width === 0) {
            return array_fill(0, $count, $whole / $factor);
        }
        $format = self::PACKED[$width] ?? throw new DamagedBlock('Values of a block are written in a way that is not known here.');
        $length = $width * ($count - 1);
        $differences = $at + $length > strlen($body) ? false : unpack("{$format}*", substr($body, $at, $length));
        if ($differences === false) {
            throw new DamagedBlock('A block of points ends early.');
        }
        $at += $length;
        $values = [$whole / $factor];
        foreach ($differences as $difference) {
            $whole += is_int($difference) ? $difference : 0;
            $values[] = $whole / $factor;
        }

        return $values;
    }

    /**
     * @param  list<float>  $values
     */
    private static function bits(array $values): string
    {
        $bytes = '';
        $before = str_repeat("\0", 8);
        foreach ($values as $value) {
            $now = pack('E', $value);
            $other = $now ^ $before;
            $before = $now;
            $rest = ltrim($other, "\0");
            $leading = 8 - strlen($rest);
            $meant = rtrim($rest, "\0");
            $bytes .= chr($leading << 4 | strlen($meant)).$meant;
        }

        return $bytes;
    }

    /**
     * @return list<float>
     *
     * @throws DamagedBlock
     */
    private static function readBits(string $body, int &$at, int $count): array
    {
        $values = [];
        $before = str_repeat("\0", 8);
        for ($i = 0; $i < $count; $i++) {
            $told = ord($body[$at++] ?? throw new DamagedBlock('A block of points ends early.'));
            [$leading, $length] = [$told >> 4, $told & 15];
            if ($leading + $length > 8 || $at + $length > strlen($body)) {
                throw new DamagedBlock('A block of points ends early.');
            }
            $before ^= str_pad(str_repeat("\0", $leading).substr($body, $at, $length), 8, "\0");
            $at += $length;
            $read = unpack('E', $before);
            $values[] = is_array($read) && is_float($read[1]) && is_finite($read[1]) ? $read[1]
                : throw new DamagedBlock('A value of a block is no number.');
        }

        return $values;
    }

    /**
     * Nothing is told with how often it comes.
     *
     * @param  list<int>  $numbers
     */
    public static function runs(array $numbers): string
    {
        $bytes = '';
        $nothing = 0;
        foreach ($numbers as $number) {
            if ($number === 0) {
                $nothing++;

                continue;
            }
            if ($nothing > 0) {
                $bytes .= "\0".self::number($nothing);
                $nothing = 0;
            }
            $bytes .= self::signed($number);
        }

        return $nothing === 0 ? $bytes : $bytes."\0".self::number($nothing);
    }

    /**
     * @return list<int>
     *
     * @throws DamagedBlock
     */
    public static function readRuns(string $body, int &$at, int $count): array
    {
        $numbers = [];
        while (count($numbers) < $count) {
            $number = self::readSigned($body, $at);
            if ($number !== 0) {
                $numbers[] = $number;

                continue;
            }
            $times = self::readNumber($body, $at);
            if ($times < 1 || count($numbers) + $times > $count) {
                throw new DamagedBlock('A block of points has more values than points.');
            }
            array_push($numbers, ...array_fill(0, $times, 0));
        }

        return $numbers;
    }

    public static function signed(int $number): string
    {
        return self::number($number << 1 ^ $number >> 63);
    }

    /** @throws DamagedBlock */
    public static function readSigned(string $body, int &$at): int
    {
        $number = self::readNumber($body, $at);

        return $number >> 1 & PHP_INT_MAX ^ -($number & 1);
    }

    /** Seven bits a byte, the lowest first. */
    public static function number(int $number): string
    {
        if ($number >= 0 && $number < 128) {
            return chr($number);
        }
        $bytes = '';
        do {
            $low = $number & 127;
            // Without its sign, which is a bit like the others.
            $number = $number >> 7 & 0x01FF_FFFF_FFFF_FFFF;
            $bytes .= chr($number === 0 ? $low : $low | 128);
        } while ($number !== 0);

        return $bytes;
    }

    /** @throws DamagedBlock */
    public static function readNumber(string $body, int &$at): int
    {
        $number = 0;
        for ($shift = 0; $shift < 64; $shift += 7) {
            $byte = ord($body[$at++] ?? throw new DamagedBlock('A block of points ends early.'));
            $number |= ($byte & 127) << $shift;
            if ($byte < 128) {
                return $number;
            }
        }
        throw new DamagedBlock('A number of a block has too many bytes.');
    }
}
