<?php

declare(strict_types=1);

namespace Fulcrion\Core\Text;

use InvalidArgumentException;

/**
 * A number of bytes as people type it: "500 MB", "2 TiB". Units of IEC 80000-13 and SI.
 */
final readonly class TypedBytes
{
    private const POWERS = ['' => 0, 'k' => 1, 'm' => 2, 'g' => 3, 't' => 4, 'p' => 5];

    private const MOST = 1e17;

    /**
     * @return int bytes, above 0
     *
     * @throws InvalidArgumentException naming what can be typed
     */
    public static function of(string $text): int
    {
        $bytes = preg_match('~^(\d{1,15}(?:\.\d{1,6})?)\s*([kmgtp]?)(i?)b$~Di', trim($text), $match) === 1
            ? (float) $match[1] * ($match[3] === '' ? 1000 : 1024) ** self::POWERS[strtolower($match[2])] : 0.0;
        if ($bytes < 1 || $bytes > self::MOST) {
            throw new InvalidArgumentException('"'.trim($text).'" is no number of bytes. Try: 500 MB, 20 GiB, 1.5 TiB.');
        }

        return (int) round($bytes);
    }
}
