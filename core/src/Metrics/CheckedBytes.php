<?php

declare(strict_types=1);

namespace Fulcrion\Core\Metrics;

/**
 * Bytes with what tells whether they are still the same, deflated (RFC 1951) where that is shorter.
 */
final class CheckedBytes
{
    private const PLAIN = 1;

    private const DEFLATED = 2;

    private const CHECK_BYTES = 4;

    private const LEVEL = 6;

    public static function seal(string $body): string
    {
        $deflated = (string) gzdeflate($body, self::LEVEL);
        $isShorter = strlen($deflated) < strlen($body);
        $kept = chr($isShorter ? self::DEFLATED : self::PLAIN).($isShorter ? $deflated : $body);

        return $kept.pack('N', crc32($kept));
    }

    /** @throws DamagedBlock */
    public static function open(string $block): string
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

        return $body === false ? throw new DamagedBlock('A block of points cannot be inflated.') : $body;
    }
}
