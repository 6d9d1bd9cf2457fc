<?php

declare(strict_types=1);

namespace Fulcrion\Core\Text;

use InvalidArgumentException;

/**
 * A rate of bytes or bits as people type it: "100 Mbit/s", "1.2 GB/s". Units of IEC 80000-13 and SI.
 */
final readonly class TypedRate
{
    private const POWERS = ['' => 0, 'k' => 1, 'm' => 2, 'g' => 3, 't' => 4];

    private const MOST = 1e14;

    /**
     * @return float bytes a second, at least 1
     *
     * @throws InvalidArgumentException naming what can be typed
     */
    public static function of(string $text): float
    {
        $isRate = preg_match('~^(\d{1,12}(?:\.\d{1,6})?)\s*([kKMGT]?)(i?)(bit|B)/s$~D', trim($text), $match) === 1;
        $rate = $isRate ? (float) $match[1] * ($match[3] === '' ? 1000 : 1024) ** self::POWERS[strtolower($match[2])]
            / ($match[4] === 'bit' ? 8 : 1) : 0.0;
        if ($rate < 1 || $rate > self::MOST) {
            throw new InvalidArgumentException('"'.trim($text).'" is no rate. Try: 100 Mbit/s, 10 Gbit/s, 120 MB/s.');
        }

        return $rate;
    }

    /** The same for people who think of links: bits a second. */
    public static function bits(float $bytesPerSecond): string
    {
        $bits = $bytesPerSecond * 8;
        $units = ['bit/s', 'kbit/s', 'Mbit/s', 'Gbit/s', 'Tbit/s'];
        $unit = $bits < 1 ? 0 : min(4, (int) floor(log($bits, 1_000)));

        return Quantity::digits($bits / 1_000 ** $unit).' '.$units[$unit];
    }
}
