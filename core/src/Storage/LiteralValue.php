<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

use DateTimeImmutable;
use DateTimeZone;
use Exception;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Sql\Ast\BooleanLiteral;
use Fulcrion\Core\Sql\Ast\Cast;
use Fulcrion\Core\Sql\Ast\Expression;
use Fulcrion\Core\Sql\Ast\NumberLiteral;
use Fulcrion\Core\Sql\Ast\TextLiteral;
use Fulcrion\Core\Sql\Ast\TimeLiteral;
use Fulcrion\Core\Sql\Ast\Unary;

/**
 * The value a literal stands for beside a column of some type.
 */
final readonly class LiteralValue
{
    /** Null where the expression is no literal or does not fit. */
    public static function of(Expression $e, ColumnType $type): int|float|string|bool|null
    {
        if ($e instanceof Cast) {
            return self::of($e->value, $type);
        }
        if ($e instanceof Unary && $e->operator === '-') {
            $value = self::of($e->operand, $type);

            return is_int($value) || is_float($value) ? -$value : null;
        }
        $text = match (true) {
            $e instanceof TextLiteral => $e->value,
            $e instanceof TimeLiteral, $e instanceof NumberLiteral => $e->text,
            $e instanceof BooleanLiteral => $e->value,
            default => null,
        };
        if (is_bool($text) || $text === null) {
            return $type->kind === TypeKind::Boolean ? $text : null;
        }

        return match ($type->kind) {
            TypeKind::Text => $e instanceof TextLiteral ? $text : null,
            TypeKind::Bigint => is_numeric($text) ? (ctype_digit($text) && strlen($text) < 19 ? (int) $text : (float) $text) : null,
            TypeKind::Double => is_numeric($text) ? (float) $text : null,
            TypeKind::Decimal => is_numeric($text) ? (float) $text * 10 ** $type->scale : null,
            TypeKind::Date => ($us = self::moment($text)) === null
                ? null
                : intdiv($us - ((($us % 86_400_000_000) + 86_400_000_000) % 86_400_000_000), 86_400_000_000),
            TypeKind::Timestamp => self::moment($text),
            TypeKind::Boolean => null,
        };
    }

    private static function moment(string $text): ?int
    {
        if (preg_match('~^\d{4}-\d{2}-\d{2}([ T]\d{2}:\d{2}(:\d{2}(\.\d{1,6})?)?)?$~', $text) !== 1) {
            return null;
        }
        try {
            $at = new DateTimeImmutable($text, new DateTimeZone('UTC'));
        } catch (Exception) {
            return null;
        }

        return $at->getTimestamp() * 1_000_000 + (int) $at->format('u');
    }
}
