<?php

declare(strict_types=1);

namespace Fulcrion\Core\Text;

use InvalidArgumentException;

/**
 * A duration as people type it: "500 ms", "10 s", "1.5 min", "2 h".
 */
final readonly class TypedDuration
{
    private const UNITS = ['us' => 1, 'µs' => 1, 'ms' => 1_000, 's' => 1_000_000, 'min' => 60_000_000, 'h' => 3_600_000_000];

    private const MOST_US = 31 * 86_400_000_000;

    /**
     * @return int microseconds, above 0
     *
     * @throws InvalidArgumentException naming what can be typed
     */
    public static function us(string $text): int
    {
        $text = mb_strtolower(trim($text));
        $us = preg_match('~^(\d{1,12}(?:\.\d{1,6})?)\s*(us|µs|ms|s|min|h)$~Du', $text, $match) === 1
            ? (float) $match[1] * self::UNITS[$match[2]] : 0.0;
        if ($us < 1 || $us > self::MOST_US) {
            throw new InvalidArgumentException("\"{$text}\" is no duration. Try: 500 ms, 10 s, 1.5 min, 2 h.");
        }

        return (int) round($us);
    }
}
