<?php

declare(strict_types=1);

namespace Fulcrion\Core\Parquet;

use Fulcrion\Core\Catalog\TypeKind;

/**
 * How values of a page are written (Apache Parquet, Encodings.md).
 */
enum Encoding: int
{
    case Plain = 0;
    /** Runs and bit-packed groups; of booleans. */
    case RunLength = 3;
    /** Differences between neighbours, bit-packed in blocks; of whole numbers, dates and moments. */
    case DeltaPacked = 5;
    /** Lengths as differences, then all bytes; of texts. */
    case DeltaLength = 6;
    /** What a text shares with the one before it is left out. */
    case DeltaText = 7;
    /** Distinct values once, then their numbers as runs and bit-packed groups. */
    case Dictionary = 8;
    /** First bytes of all values, then second bytes, and so on; of floating point numbers. */
    case ByteSplit = 9;

    public function label(): string
    {
        return match ($this) {
            self::Plain => 'plain',
            self::RunLength => 'run length',
            self::DeltaPacked => 'delta',
            self::DeltaLength => 'delta of lengths',
            self::DeltaText => 'shared beginnings',
            self::Dictionary => 'dictionary',
            self::ByteSplit => 'bytes apart',
        };
    }

    /** The word SQL and URLs use. */
    public function word(): string
    {
        return str_replace(' ', '_', $this->label());
    }

    public static function named(string $word): ?self
    {
        foreach (self::cases() as $case) {
            if ($case->word() === $word) {
                return $case;
            }
        }

        return null;
    }

    public function fits(TypeKind $kind): bool
    {
        return match ($this) {
            self::Plain => true,
            self::RunLength => $kind === TypeKind::Boolean,
            self::DeltaPacked => in_array($kind, [TypeKind::Bigint, TypeKind::Decimal, TypeKind::Date, TypeKind::Timestamp], true),
            self::DeltaLength, self::DeltaText => $kind === TypeKind::Text,
            self::Dictionary => $kind !== TypeKind::Boolean,
            self::ByteSplit => $kind === TypeKind::Double,
        };
    }
}
