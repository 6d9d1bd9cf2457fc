<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use DateTimeImmutable;
use DateTimeZone;
use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Time\MomentReader;

/**
 * What a MariaDB sends, as values of our own types. It sends texts; a column any value of which does not fit its type stays text, so
 * that nothing is rounded, cut or moved.
 */
final class MariaDbValues
{
    private const DIGITS = 18;

    /**
     * @param  list<array<string, mixed>>  $meta of the columns, as the driver tells it
     * @param  list<list<mixed>>  $rows
     * @return array{list<Column>, list<list<int|float|string|null>>}
     */
    public static function read(array $meta, array $rows): array
    {
        $columns = [];
        foreach ($meta as $i => $of) {
            [$type, $values] = self::column($of, array_column($rows, $i));
            $columns[] = new Column(is_string($of['name'] ?? null) ? $of['name'] : "column{$i}", $type);
            foreach ($values as $r => $value) {
                $rows[$r][$i] = $value;
            }
        }
        /** @var list<list<int|float|string|null>> $rows */

        return [$columns, $rows];
    }

    /**
     * @param  array<string, mixed>  $meta
     * @param  list<mixed>  $values
     * @return array{ColumnType, list<int|float|string|null>}
     */
    private static function column(array $meta, array $values): array
    {
        $scale = is_int($meta['precision'] ?? null) ? $meta['precision'] : 0;
        $kind = match ($meta['native_type'] ?? '') {
            'LONGLONG', 'LONG', 'INT24', 'SHORT', 'TINY', 'YEAR' => TypeKind::Bigint,
            'DOUBLE', 'FLOAT' => TypeKind::Double,
            'NEWDECIMAL', 'DECIMAL' => $scale <= self::DIGITS ? TypeKind::Decimal : TypeKind::Text,
            'DATE', 'NEWDATE' => TypeKind::Date,
            'DATETIME', 'TIMESTAMP' => TypeKind::Timestamp,
            default => TypeKind::Text,
        };
        $moments = new MomentReader();
        $read = [];
        foreach ($values as $value) {
            $own = $value === null ? null : self::value($kind, $scale, $moments, is_scalar($value) ? (string) $value : '');
            if ($value !== null && $own === null) {
                return [ColumnType::of(TypeKind::Text), array_map(self::text(...), $values)];
            }
            $read[] = $own;
        }

        return [$kind === TypeKind::Decimal ? ColumnType::decimal(self::DIGITS, $scale) : ColumnType::of($kind), $read];
    }

    /** Null where it does not fit. */
    private static function value(TypeKind $kind, int $scale, MomentReader $moments, string $text): int|float|string|null
    {
        return match ($kind) {
            TypeKind::Bigint => (string) (int) $text === $text ? (int) $text : null,
            TypeKind::Double => is_numeric($text) ? (float) $text : null,
            TypeKind::Decimal => self::decimal($text, $scale),
            TypeKind::Date => self::days($text),
            TypeKind::Timestamp => str_starts_with($text, '0000') ? null : $moments->microseconds($text),
            default => $text,
        };
    }

    private static function decimal(string $text, int $scale): ?int
    {
        if (preg_match('~^(-?)(\d+)(?:\.(\d+))?$~', $text, $parts) !== 1 || strlen($parts[3] ?? '') !== $scale) {
            return null;
        }
        $digits = ltrim($parts[2].($parts[3] ?? ''), '0');

        return strlen($digits) > self::DIGITS ? null : (int) ($parts[1].($digits === '' ? '0' : $digits));
    }

    private static function days(string $text): ?int
    {
        $day = DateTimeImmutable::createFromFormat('!Y-m-d', $text, new DateTimeZone('UTC'));

        return $day !== false && $day->format('Y-m-d') === $text ? intdiv($day->getTimestamp(), 86_400) : null;
    }

    private static function text(mixed $value): ?string
    {
        return $value === null ? null : (is_scalar($value) ? (string) $value : '');
    }
}
