<?php

declare(strict_types=1);

namespace Fulcrion\Core\Metrics;

/**
 * Points of one series in few bytes. Moments are kept as differences of their differences, which are mostly nothing; values as differences
 * of whole numbers where all of them have few decimals, else as what each has other bits in than the one before (Pelkonen et al.,
 * VLDB 2015), by bytes; what comes again and again is told once with how often. All of it is deflated (RFC 1951) where that is shorter.
 */
final class PointBlock
{
    private const PLAIN = 1;

    private const DEFLATED = 2;

    /** Way of values: this many decimals, or by bits. */
    private const BY_BITS = 15;

    private const MOST_DECIMALS = 6;

    /** Whole numbers up to here are exact as floats. */
    private const EXACT = 9_007_199_254_740_992.0;

    /** A point a millisecond for an hour, and some. */
    private const MOST = 4_000_000;

    private const CHECK_BYTES = 4;

    private const LEVEL = 6;

    public static function encode(Points $points): string
    {
        $body = self::number($points->count());
        if ($points->timesMs !== []) {
            $body .= self::times($points->timesMs);
            $decimals = self::decimals($points->values);
            $body .= $decimals === null ? chr(self::BY_BITS).self::bits($points->values)
                : chr($decimals).self::whole($points->values, $decimals);
        }
        $deflated = (string) gzdeflate($body, self::LEVEL);
        $isShorter = strlen($deflated) < strlen($body);
        $kept = chr($isShorter ? self::DEFLATED : self::PLAIN).($isShorter ? $deflated : $body);

        return $kept.pack('N', crc32($kept));
    }

    /** @throws DamagedBlock */
    public static function decode(string $block): Points
    {
        $kept = substr($block, 0, -self::CHECK_BYTES);
        if ($kept === '' || substr($block, -self::CHECK_BYTES) !== pack('N', crc32($kept))) {
            throw new DamagedBlock('These bytes are no block of points, or some of them changed.');
        }
        $body = substr($kept, 1);
        if (ord($kept[0]) === self::DEFLATED) {
            $body = @gzinflate($body);
        } elseif (ord($kept[0]) !== self::PLAIN) {
            throw new DamagedBlock('This block was written in a way that is not known here.');
        }
        if ($body === false) {
            throw new DamagedBlock('A block of points cannot be inflated.');
        }
        $at = 0;
        $count = self::readNumber($body, $at);
        if ($count < 0 || $count > self::MOST) {
            throw new DamagedBlock('A block of points has more points than there can be.');
        }
        $times = $values = [];
        if ($count > 0) {
            $times = self::readTimes($body, $at, $count);
            $way = ord($body[$at++] ?? throw new DamagedBlock('A block of points ends early.'));
            $values = $way === self::BY_BITS ? self::readBits($body, $at, $count) : self::readWhole($body, $at, $count, $way);
        }
        if ($at !== strlen($body)) {
            throw new DamagedBlock('A block of points has more bytes than points.');
        }

        return new Points($times, $values);
    }

    /**
     * @param  non-empty-list<int>  $times
     */
    private static function times(array $times): string
    {
        $bytes = self::signed($times[0]);
        $differences = [];
        $before = 0;
        for ($i = 1, $count = count($times); $i < $count; $i++) {
            $step = $times[$i] - $times[$i - 1];
            $differences[] = $step - $before;
            $before = $step;
        }

        return $bytes.self::runs($differences);
    }

    /**
     * @return list<int>
     *
     * @throws DamagedBlock
     */
    private static function readTimes(string $body, int &$at, int $count): array
    {
        $times = [self::readSigned($body, $at)];
        $step = 0;
        foreach (self::readRuns($body, $at, $count - 1) as $difference) {
            $step += $difference;
            $times[] = $times[count($times) - 1] + $step;
        }

        return $times;
    }

    /**
     * How many decimals all of them have at most; null where some have too many.
     *
     * @param  list<float>  $values
     */
    private static function decimals(array $values): ?int
    {
        $decimals = 0;
        $factor = 1.0;
        foreach ($values as $value) {
            while (round($value * $factor) / $factor !== $value || abs($value * $factor) >= self::EXACT) {
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
            if (round($value * $factor) / $factor !== $value || abs($value * $factor) >= self::EXACT) {
                return null;
            }
        }

        return $decimals;
    }

    /**
     * @param  list<float>  $values
     */
    private static function whole(array $values, int $decimals): string
    {
        $factor = 10.0 ** $decimals;
        $differences = [];
        $before = 0;
        foreach ($values as $value) {
            $whole = (int) round($value * $factor);
            $differences[] = $whole - $before;
            $before = $whole;
        }

        return self::runs($differences);
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
        $values = [];
        $whole = 0;
        foreach (self::readRuns($body, $at, $count) as $difference) {
            $whole += $difference;
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
    private static function runs(array $numbers): string
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
    private static function readRuns(string $body, int &$at, int $count): array
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

    private static function signed(int $number): string
    {
        return self::number($number << 1 ^ $number >> 63);
    }

    /** @throws DamagedBlock */
    private static function readSigned(string $body, int &$at): int
    {
        $number = self::readNumber($body, $at);

        return $number >> 1 & PHP_INT_MAX ^ -($number & 1);
    }

    /** Seven bits a byte, the lowest first. */
    private static function number(int $number): string
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
    private static function readNumber(string $body, int &$at): int
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
