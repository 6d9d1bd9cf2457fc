<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Sql;

use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Practice\Expression\Compiler;
use Fulcrion\Practice\Expression\Constant;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Expression\Op;
use Fulcrion\Practice\WarehouseError;

/**
 * Brings values to common types, and computes what is constant.
 */
final class Coercion
{
    /** @var array<string, callable> */
    private static array $folded = [];

    public static function common(ColumnType $a, ColumnType $b, int $at): ColumnType
    {
        if ((string) $a === (string) $b) {
            return $a;
        }
        if ($a->isNumber() && $b->isNumber()) {
            if ($a->is(TypeKind::Double) || $b->is(TypeKind::Double)) {
                return ColumnType::of(TypeKind::Double);
            }

            return ColumnType::decimal(ColumnType::MOST_DIGITS, max($a->scale, $b->scale));
        }
        foreach ([[$a, $b], [$b, $a]] as [$x, $y]) {
            if ($x->is(TypeKind::Timestamp) && $y->is(TypeKind::Date)) {
                return $x;
            }
            if ($x->isNumber() && $y->is(TypeKind::Boolean)) {
                return $x;
            }
        }
        throw new WarehouseError("{$a} and {$b} cannot be compared or combined; CAST one of them.", $at);
    }

    /**
     * @param  list<Expr>  $list
     * @return array{list<Expr>, ColumnType}
     */
    public static function unify(array $list, int $at): array
    {
        $type = null;
        $soft = null;
        foreach ($list as $e) {
            // NULL fits everything, and a text literal takes the type of what it stands beside.
            if ($e instanceof Constant && ($e->value === null || $e->type->is(TypeKind::Text))) {
                $soft ??= $e->value === null ? null : $e->type;

                continue;
            }
            $type = $type === null ? $e->type : self::common($type, $e->type, $at);
        }
        $type ??= $soft ?? ColumnType::of(TypeKind::Text);

        return [array_map(static fn (Expr $e): Expr => self::to($e, $type), $list), $type];
    }

    public static function to(Expr $e, ColumnType $type): Expr
    {
        if ((string) $e->type === (string) $type) {
            return $e;
        }
        if ($e instanceof Constant && $e->value === null) {
            return new Constant(null, $type);
        }
        $decimals = $e->type->is(TypeKind::Decimal) && $type->is(TypeKind::Decimal);
        if ($decimals && $e->type->scale === $type->scale && $e->type->precision <= $type->precision) {
            // Only the number of digits differs, and there is room for more.
            return $e;
        }

        return self::op('cast', [$e], $type, $e->nullable);
    }

    /**
     * @param  list<Expr>  $args
     */
    public static function op(string $name, array $args, ColumnType $type, bool $nullable, int|string|null $extra = null): Expr
    {
        $op = new Op($name, $args, $type, $nullable, $extra);
        foreach ($args as $arg) {
            if (! $arg instanceof Constant) {
                return $op;
            }
        }

        return new Constant(self::compute($op), $type);
    }

    /** The value of an expression without columns. */
    public static function compute(Expr $e): int|float|string|bool|null
    {
        $source = (new Compiler([], static fn () => throw new WarehouseError('A subquery cannot stand here.')))->value($e);
        if (count(self::$folded) > 5000) {
            self::$folded = [];
        }

        return (self::$folded[$source] ??= eval("return static fn () => {$source};"))();
    }
}
