<?php

declare(strict_types=1);

namespace Fulcrion\Core\Telemetry;

/**
 * Takes the data out of what engines say: quoted values become '?', names that a telling word announces stay.
 */
final class MessageMask
{
    private const QUOTED = "~(\\b(?:table|column|key|index|database|schema|field|function|procedure|view|role|user|constraint|in)\\s+)?('"
        ."(?:[^']|'')*'|\"[^\"]*\")~i";

    public static function mask(string $message): string
    {
        return preg_replace_callback(self::QUOTED, static fn (array $m): string => $m[1] !== '' ? $m[0] : "'?'", $message) ?? '';
    }
}
