<?php

declare(strict_types=1);

namespace Fulcrion\Core\Time;

/**
 * Reads moments as sources write them: ISO 8601 text (UTC where no zone is named) or Unix seconds.
 */
final class MomentReader
{
    private string $secondText = '';

    private int $second = 0;

    /**
     * @return int|null microseconds since 1970-01-01 UTC
     */
    public function microseconds(mixed $value): ?int
    {
        if (is_int($value) || is_float($value)) {
            return is_finite((float) $value) && abs($value) < 1e11 ? (int) round($value * 1_000_000) : null;
        }
        if (! is_string($value)) {
            return null;
        }
        // Records of one source come second by second, mostly in this very form: remember the last second.
        if (
            strlen($value) === 27 &&
            $value[26] === 'Z' &&
            $value[19] === '.' &&
            substr_compare($value, $this->secondText, 0, 19) === 0 &&
            $this->secondText !== '' &&
            ctype_digit($micro = substr($value, 20, 6))
        ) {
            return $this->second * 1_000_000 + (int) $micro;
        }
        if (preg_match('~^(\d{4})-(\d\d)-(\d\d)[T ](\d\d):(\d\d):(\d\d)(?:[.,](\d{1,9}))?\s*(Z|[+-]\d\d:?\d\d)?$~iD', $value, $m) !== 1) {
            return is_numeric($value) ? $this->microseconds((float) $value) : null;
        }
        $text = substr($value, 0, 19);
        if ($text !== $this->secondText) {
            if (! checkdate((int) $m[2], (int) $m[3], (int) $m[1]) || $m[4] > '23' || $m[5] > '59' || $m[6] > '60') {
                return null;
            }
            $this->second = (int) gmmktime((int) $m[4], (int) $m[5], (int) $m[6], (int) $m[2], (int) $m[3], (int) $m[1]);
            $this->secondText = $text;
        }
        $zone = $m[8] ?? 'Z';
        $shift =
            $zone === 'Z' || $zone === 'z'
                ? 0
                : ($zone[0] === '-' ? -1 : 1) * ((int) substr($zone, 1, 2) * 3600 + (int) substr($zone, -2) * 60);

        return ($this->second - $shift) * 1_000_000 + (int) substr(str_pad($m[7] ?? '', 6, '0'), 0, 6);
    }
}
