<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Expression;

use Fulcrion\Practice\WarehouseError;

/**
 * What compiled expressions call at run time. No argument is ever null.
 *
 * @internal
 */
final class Scalar
{
    /** Bytes of a text that is computed. */
    public const LONGEST_TEXT = 16_777_216;

    private const DAY_US = 86_400_000_000;

    /** The years 1 to 9999, in days from 1970. */
    private const FIRST_DAY = -719_162;

    private const LAST_DAY = 2_932_896;

    /** @var array<int, array{int, int, int}> day => year, month, day of month */
    private static array $civil = [];

    /** By a key nobody who reads has (RFC 2104), so equal values stay equal and others cannot be tried out. */
    public static function keyedHash(int|string $value, string $key): int|string
    {
        $hash = hash_hmac('sha256', (string) $value, $key);

        return is_int($value) ? (int) hexdec(substr($hash, 0, 15)) : substr($hash, 0, 24);
    }

    public static function overflow(): never
    {
        throw new WarehouseError('A number grew beyond what 64 bits hold. Cast an operand to double.');
    }

    /** What grew beyond 64 bits has become a double. */
    private static function int64(int|float $value): int
    {
        return is_int($value) ? $value : self::overflow();
    }

    public static function tooLarge(): never
    {
        throw new WarehouseError('A number grew beyond what a double holds, or is none, such as a root of a negative number.');
    }

    public static function tooLong(): never
    {
        throw new WarehouseError('A text grew beyond 16 MiB.');
    }

    /** A decimal that has no more digits than its type. */
    public static function fits(int $value, int $precision, int $scale): int
    {
        if (abs($value) >= 10 ** $precision) {
            throw new WarehouseError(
                "A number does not fit into decimal({$precision}, {$scale}): it has more than ".
                    ($precision - $scale).
                    ' digits before the point.',
            );
        }

        return $value;
    }

    /** Whole-number division, cut towards zero. */
    public static function quotient(int $a, int $b): int
    {
        return $b === -1 && $a === PHP_INT_MIN ? self::overflow() : intdiv($a, $b);
    }

    public static function cut(float $value): int
    {
        return abs($value) < 9.2e18 ? (int) $value : self::overflow();
    }

    /** Division of scaled whole numbers, half rounded away from zero: a × 10^up ÷ b. */
    public static function divide(int $a, int $b, int $up): ?int
    {
        if ($b === 0) {
            return null;
        }
        $factor = 10 ** $up;
        $whole = self::quotient($a, $b);
        $rest = $a % $b;
        $high = $whole * $factor;
        $low = $rest * $factor;
        if (! is_int($high) || ! is_int($low)) {
            $value = round(($a / $b) * $factor);

            return abs($value) < 9.2e18 ? (int) $value : self::overflow();
        }
        $quotient = intdiv($low, $b);
        $left = abs($low % $b);
        $sum = $high + $quotient + ($left >= abs($b) - $left ? ($a < 0 === $b < 0 ? 1 : -1) : 0);

        return self::int64($sum);
    }

    /** Fewer digits behind the point, half rounded away from zero. */
    public static function drop(int $value, int $digits): int
    {
        $factor = 10 ** $digits;
        if (! is_int($factor)) {
            return 0;
        }
        $whole = intdiv($value, $factor);
        $rest = abs($value % $factor);

        return $factor > 1 && $rest >= $factor - $rest ? $whole + ($value < 0 ? -1 : 1) : $whole;
    }

    public static function roundWhole(float $value): int
    {
        $value = round($value);

        return abs($value) < 9.2e18 ? (int) $value : self::overflow();
    }

    /** round(x, n) of a scaled number, the scale kept. */
    public static function roundScaled(int $value, int $scale, int $digits): int
    {
        if ($digits >= $scale) {
            return $value;
        }
        if ($scale - $digits > 18) {
            return 0;
        }
        $rounded = self::drop($value, $scale - $digits) * 10 ** ($scale - $digits);

        return self::int64($rounded);
    }

    public static function floorDiv(int $a, int $b): int
    {
        $q = intdiv($a, $b);

        return $a % $b !== 0 && $a < 0 !== $b < 0 ? $q - 1 : $q;
    }

    public static function ceilDiv(int $a, int $b): int
    {
        $q = intdiv($a, $b);

        return $a % $b !== 0 && $a < 0 === $b < 0 ? $q + 1 : $q;
    }

    /**
     * @return array{int, int, int} year, month, day (H. Hinnant, "chrono-compatible low-level date algorithms")
     */
    public static function civil(int $day): array
    {
        if (isset(self::$civil[$day])) {
            return self::$civil[$day];
        }
        $z = $day + 719_468;
        $era = self::floorDiv($z, 146_097);
        $doe = $z - $era * 146_097;
        $yoe = intdiv($doe - intdiv($doe, 1460) + intdiv($doe, 36_524) - intdiv($doe, 146_096), 365);
        $doy = $doe - (365 * $yoe + intdiv($yoe, 4) - intdiv($yoe, 100));
        $mp = intdiv(5 * $doy + 2, 153);
        $month = $mp < 10 ? $mp + 3 : $mp - 9;

        return self::$civil[$day] = [$yoe + $era * 400 + ($month <= 2 ? 1 : 0), $month, $doy - intdiv(153 * $mp + 2, 5) + 1];
    }

    public static function day(int $year, int $month, int $day): int
    {
        $year -= $month <= 2 ? 1 : 0;
        $era = self::floorDiv($year, 400);
        $yoe = $year - $era * 400;
        $doy = intdiv(153 * ($month + ($month > 2 ? -3 : 9)) + 2, 5) + $day - 1;

        return $era * 146_097 + $yoe * 365 + intdiv($yoe, 4) - intdiv($yoe, 100) + $doy - 719_468;
    }

    public static function truncateDay(int $day, string $unit): int
    {
        if ($unit === 'day') {
            return $day;
        }
        if ($unit === 'week') {
            return $day - (((($day + 3) % 7) + 7) % 7);
        }
        [$year, $month] = self::civil($day);

        return match ($unit) {
            'month' => self::day($year, $month, 1),
            'quarter' => self::day($year, intdiv($month - 1, 3) * 3 + 1, 1),
            'year' => self::day($year, 1, 1),
            default => throw new WarehouseError(
                "date_trunc does not know the unit \"{$unit}\"; it knows second, minute, hour, day, week, month, quarter and year.",
            ),
        };
    }

    public static function truncateTime(int $us, string $unit): int
    {
        $step = match ($unit) {
            'second' => 1_000_000,
            'minute' => 60_000_000,
            'hour' => 3_600_000_000,
            default => null,
        };

        return $step !== null
            ? self::floorDiv($us, $step) * $step
            : self::truncateDay(self::floorDiv($us, self::DAY_US), $unit) * self::DAY_US;
    }

    public static function extract(int $us, string $unit): int
    {
        $day = self::floorDiv($us, self::DAY_US);
        $within = $us - $day * self::DAY_US;

        return match ($unit) {
            'hour' => intdiv($within, 3_600_000_000),
            'minute' => intdiv($within, 60_000_000) % 60,
            'second' => intdiv($within, 1_000_000) % 60,
            'microsecond' => $within % 1_000_000,
            'epoch' => self::floorDiv($us, 1_000_000),
            default => self::extractDay($day, $unit),
        };
    }

    public static function extractDay(int $day, string $unit): int
    {
        [$year, $month, $dayOfMonth] = self::civil($day);

        return match ($unit) {
            'year' => $year,
            'month' => $month,
            'day' => $dayOfMonth,
            'quarter' => intdiv($month + 2, 3),
            'week' => self::isoWeek($day),
            'dow' => ((($day + 4) % 7) + 7) % 7,
            'isodow' => (((($day + 3) % 7) + 7) % 7) + 1,
            'doy' => $day - self::day($year, 1, 1) + 1,
            'epoch' => $day * 86400,
            'hour', 'minute', 'second', 'microsecond' => 0,
            default => throw new WarehouseError("EXTRACT does not know the unit \"{$unit}\"."),
        };
    }

    private static function isoWeek(int $day): int
    {
        // A week belongs to the year its Thursday is in (ISO 8601).
        $thursday = $day - (((($day + 3) % 7) + 7) % 7) + 3;

        return intdiv($thursday - self::day(self::civil($thursday)[0], 1, 1), 7) + 1;
    }

    public static function plusUnits(int $day, int $amount, string $unit): int
    {
        // Nothing that far away is in the years 1 to 9999.
        $amount = max(-10_000_000, min(10_000_000, $amount));
        if ($unit === 'day' || $unit === 'week') {
            return self::existing($day + $amount * ($unit === 'week' ? 7 : 1));
        }
        [$year, $month, $dayOfMonth] = self::civil($day);
        $months =
            $year * 12 +
            $month -
            1 +
            $amount *
                match ($unit) {
                    'month' => 1,
                    'quarter' => 3,
                    default => 12,
                };
        $year = self::floorDiv($months, 12);
        if ($year < 1 || $year > 9999) {
            self::existing(self::LAST_DAY + 1);
        }
        $month = $months - $year * 12 + 1;
        $last = self::day($month === 12 ? $year + 1 : $year, $month === 12 ? 1 : $month + 1, 1) - self::day($year, $month, 1);

        return self::day($year, $month, min($dayOfMonth, $last));
    }

    public static function plusTime(int $us, int $amount, string $unit): int
    {
        $step = match ($unit) {
            'microsecond' => 1,
            'millisecond' => 1000,
            'second' => 1_000_000,
            'minute' => 60_000_000,
            'hour' => 3_600_000_000,
            default => null,
        };
        if ($step !== null) {
            // Nothing that far away is in the years 1 to 9999.
            $most = intdiv(10_000_000 * self::DAY_US, $step);
            $moved = $us + max(-$most, min($most, $amount)) * $step;
            self::existing(self::floorDiv($moved, self::DAY_US));

            return $moved;
        }
        $day = self::floorDiv($us, self::DAY_US);

        return self::plusUnits($day, $amount, $unit) * self::DAY_US + ($us - $day * self::DAY_US);
    }

    private static function existing(int $day): int
    {
        return $day >= self::FIRST_DAY && $day <= self::LAST_DAY
            ? $day
            : throw new WarehouseError('A date lies outside of the years 1 to 9999.');
    }

    public static function parseDate(string $text): int
    {
        if (
            preg_match('~^\s*(\d{4})-(\d{1,2})-(\d{1,2})(?:[ T]00:00(?::00(?:\.0+)?)?)?\s*$~', $text, $m) !== 1 ||
            ! checkdate((int) $m[2], (int) $m[3], (int) $m[1])
        ) {
            throw WarehouseError::ofValue($text, 'is no date; write 2026-11-23.');
        }

        return self::day((int) $m[1], (int) $m[2], (int) $m[3]);
    }

    public static function parseTime(string $text): int
    {
        if (
            preg_match(
                '~^\s*(\d{4})-(\d{1,2})-(\d{1,2})(?:[ T](\d{1,2}):(\d{2})(?::(\d{2})(?:\.(\d{1,6})\d*)?)?\s*(?:Z|\+00(?::?00)?)?)?\s*$~',
                $text,
                $m,
            ) !== 1 ||
            ! checkdate((int) $m[2], (int) $m[3], (int) $m[1]) ||
            (int) ($m[4] ?? 0) > 23 ||
            (int) ($m[5] ?? 0) > 59 ||
            (int) ($m[6] ?? 0) > 59
        ) {
            throw WarehouseError::ofValue($text, 'is no time; write 2026-11-23 06:30:00, in UTC.');
        }

        return self::day((int) $m[1], (int) $m[2], (int) $m[3]) * self::DAY_US +
            ((int) ($m[4] ?? 0) * 3600 + (int) ($m[5] ?? 0) * 60 + (int) ($m[6] ?? 0)) * 1_000_000 +
            (int) str_pad($m[7] ?? '', 6, '0');
    }

    public static function parseWhole(string $text): int
    {
        $text = trim($text);
        if (preg_match('~^([+-]?)0*(\d{1,19})$~', $text, $m) !== 1) {
            throw WarehouseError::ofValue($text, 'is no whole number of 64 bits.');
        }
        $digits = ($m[1] === '-' && $m[2] !== '0' ? '-' : '').$m[2];

        return (string) (int) $digits === $digits ? (int) $digits : throw WarehouseError::ofValue($text, 'is no whole number of 64 bits.');
    }

    public static function parseDouble(string $text): float
    {
        if (! is_numeric(trim($text))) {
            throw WarehouseError::ofValue($text, 'is no number.');
        }
        $value = (float) trim($text) + 0.0;

        return is_finite($value) ? $value : throw WarehouseError::ofValue($text, 'is beyond what a double holds.');
    }

    public static function parseDecimal(string $text, int $scale): int
    {
        if (preg_match('~^\s*([+-]?)(\d*)(?:\.(\d*))?\s*$~', $text, $m) !== 1 || $m[2].($m[3] ?? '') === '') {
            if (is_numeric(trim($text))) {
                return self::roundWhole((float) $text * 10 ** $scale);
            }
            throw WarehouseError::ofValue($text, 'is no number.');
        }
        $fraction = $m[3] ?? '';
        $kept = str_pad(substr($fraction, 0, $scale), $scale, '0');
        $digits = ltrim($m[2].$kept, '0');
        if (strlen($digits) > 18) {
            throw WarehouseError::ofValue($text, 'has more than 18 digits.');
        }
        $value = (int) $digits + (strlen($fraction) > $scale && substr($fraction, $scale, 1) >= '5' ? 1 : 0);

        return $m[1] === '-' ? -$value : $value;
    }

    public static function parseBoolean(string $text): bool
    {
        return match (strtolower(trim($text))) {
            'true', 't', '1', 'yes' => true,
            'false', 'f', '0', 'no' => false,
            default => throw WarehouseError::ofValue($text, 'is neither true nor false.'),
        };
    }

    public static function substring(string $text, int $from, ?int $length): string
    {
        if ($from < 0) {
            $from = mb_strlen($text) + $from + 1;
        }
        if ($from < 1 || ($length !== null && $length < 1)) {
            return '';
        }

        return mb_substr($text, $from - 1, $length);
    }

    /** Without a text at its ends, as often as it is there. */
    public static function trim(string $text, string $mark, bool $left, bool $right): string
    {
        $size = strlen($mark);
        $from = 0;
        $to = strlen($text);
        for (;
            $left && $size > 0 && substr_compare($text, $mark, $from, $size) === 0 && $from + $size <= $to;
            $from += $size
        ) {
        }
        for (; $right && $size > 0 && $to - $size >= $from && substr_compare($text, $mark, $to - $size, $size) === 0; $to -= $size) {
        }

        return substr($text, $from, $to - $from);
    }

    public static function replaced(string $text, string $old, string $new): string
    {
        if (
            $old !== '' &&
            strlen($new) > strlen($old) &&
            strlen($text) + substr_count($text, $old) * (strlen($new) - strlen($old)) > self::LONGEST_TEXT
        ) {
            self::tooLong();
        }

        return str_replace($old, $new, $text);
    }

    public static function pad(string $text, int $length, string $mark, bool $left): ?string
    {
        if ($length > self::LONGEST_TEXT) {
            self::tooLong();
        }
        $missing = $length - mb_strlen($text);
        if ($length < 0 || ($mark === '' && $missing > 0)) {
            return null;
        }
        if ($missing <= 0) {
            return mb_substr($text, 0, $length);
        }
        $fill = mb_substr(str_repeat($mark, intdiv($missing, max(1, mb_strlen($mark))) + 1), 0, $missing);

        return $left ? $fill.$text : $text.$fill;
    }

    public static function pattern(string $like, string $escape): string
    {
        // Pieces between two % are looked for from the left and kept where they are found first, or long texts would be
        // tried in every way.
        $pieces = [''];
        $characters = mb_str_split($like);
        for ($i = 0; $i < count($characters); $i++) {
            $c = $characters[$i];
            if ($c === $escape && isset($characters[$i + 1])) {
                $pieces[count($pieces) - 1] .= preg_quote($characters[++$i], '~');
            } elseif ($c === '%') {
                $pieces[] = '';
            } else {
                $pieces[count($pieces) - 1] .= $c === '_' ? '.' : preg_quote($c, '~');
            }
        }
        $last = count($pieces) > 1 ? '.*'.array_pop($pieces) : '';
        $pattern = (string) array_shift($pieces);
        foreach ($pieces as $piece) {
            $pattern .= $piece === '' ? '' : "(?>.*?{$piece})";
        }

        return "~^{$pattern}{$last}\$~Dsu";
    }
}
