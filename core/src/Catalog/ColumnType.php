<?php

declare(strict_types=1);

namespace Fulcrion\Core\Catalog;

use Fulcrion\Core\Sql\Ast\TypeName;
use InvalidArgumentException;
use Stringable;

/**
 * The type of a column or value.
 */
final readonly class ColumnType implements Stringable
{
    /** Digits a 64-bit integer surely holds. */
    public const MOST_DIGITS = 18;

    public function __construct(
        public TypeKind $kind,
        /** Digits in all; of decimals only. */
        public int $precision = 0,
        /** Digits behind the point; of decimals only. */
        public int $scale = 0,
    ) {
        if ($kind === TypeKind::Decimal && ($precision < 1 || $precision > self::MOST_DIGITS || $scale < 0 || $scale > $precision)) {
            throw new InvalidArgumentException(
                "decimal({$precision}, {$scale}) is not possible: 1 to ".
                    self::MOST_DIGITS.
                    ' digits, at most all of them behind the point',
            );
        }
    }

    public static function of(TypeKind $kind): self
    {
        return new self($kind);
    }

    public static function decimal(int $precision, int $scale): self
    {
        return new self(TypeKind::Decimal, $precision, $scale);
    }

    /**
     * The type a name of SQL stands for.
     *
     * @throws InvalidArgumentException
     */
    public static function named(TypeName $type): self
    {
        $arguments = $type->arguments;

        return match ($type->name) {
            'bigint', 'int', 'integer', 'smallint', 'tinyint', 'signed', 'int8', 'int4' => self::of(TypeKind::Bigint),
            'double', 'double precision', 'real', 'float', 'float8' => self::of(TypeKind::Double),
            'decimal', 'numeric' => self::decimal($arguments[0] ?? 18, $arguments[1] ?? 0),
            'text', 'varchar', 'char', 'character varying', 'character', 'string' => self::of(TypeKind::Text),
            'boolean', 'bool' => self::of(TypeKind::Boolean),
            'date' => self::of(TypeKind::Date),
            'timestamp', 'datetime' => self::of(TypeKind::Timestamp),
            default => throw new InvalidArgumentException(
                "the type {$type->name} is not known; known are bigint, double, decimal(p, s), text, boolean, date and timestamp",
            ),
        };
    }

    public function is(TypeKind ...$kinds): bool
    {
        return in_array($this->kind, $kinds, true);
    }

    public function isNumber(): bool
    {
        return $this->is(TypeKind::Bigint, TypeKind::Double, TypeKind::Decimal);
    }

    public function __toString(): string
    {
        return $this->kind === TypeKind::Decimal ? "decimal({$this->precision}, {$this->scale})" : $this->kind->value;
    }

    /**
     * A value as people and CSV files write it.
     *
     * @param  int|float|string|bool|null  $value
     */
    public function show(mixed $value): string
    {
        return match (true) {
            $value === null => 'NULL',
            $this->kind === TypeKind::Decimal && is_int($value) => self::point($value, $this->scale),
            $this->kind === TypeKind::Date && is_int($value) => gmdate('Y-m-d', $value * 86400),
            $this->kind === TypeKind::Timestamp && is_int($value) => self::moment($value),
            is_bool($value) => $value ? 'true' : 'false',
            is_float($value) => self::float($value),
            default => (string) $value,
        };
    }

    private static function float(float $value): string
    {
        // Zero has no sign.
        return is_finite($value) ? (string) json_encode($value + 0.0) : (is_nan($value) ? 'NaN' : ($value > 0 ? 'Infinity' : '-Infinity'));
    }

    private static function point(int $value, int $scale): string
    {
        if ($scale === 0) {
            return (string) $value;
        }
        $digits = str_pad(ltrim((string) $value, '-'), $scale + 1, '0', STR_PAD_LEFT);

        return ($value < 0 ? '-' : '').substr($digits, 0, -$scale).'.'.substr($digits, -$scale);
    }

    private static function moment(int $us): string
    {
        $seconds = intdiv($us, 1_000_000);
        $rest = $us % 1_000_000;
        if ($rest < 0) {
            $seconds--;
            $rest += 1_000_000;
        }

        return gmdate('Y-m-d H:i:s', $seconds).($rest === 0 ? '' : sprintf('.%06d', $rest));
    }
}
