<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Sql;

use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Practice\Expression\Constant;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\WarehouseError;

/**
 * The functions by name: what they take and what type they give.
 */
final class FunctionLibrary
{
    private const ALIASES = [
        'ceiling' => 'ceil',
        'pow' => 'power',
        'ifnull' => 'coalesce',
        'nvl' => 'coalesce',
        'substr' => 'substring',
        'ucase' => 'upper',
        'lcase' => 'lower',
        'character_length' => 'char_length',
        'log' => 'ln',
        'octet_length' => 'length',
        'dayofmonth' => 'day',
        'dayofyear' => 'doy',
        'weekofyear' => 'week',
    ];

    /** name => least and most arguments */
    private const COUNTS = [
        'abs' => [1, 1],
        'ceil' => [1, 1],
        'floor' => [1, 1],
        'round' => [1, 2],
        'sign' => [1, 1],
        'sqrt' => [1, 1],
        'power' => [2, 2],
        'exp' => [1, 1],
        'ln' => [1, 1],
        'mod' => [2, 2],
        'greatest' => [2, 99],
        'least' => [2, 99],
        'coalesce' => [1, 99],
        'nullif' => [2, 2],
        'if' => [3, 3],
        'upper' => [1, 1],
        'lower' => [1, 1],
        'length' => [1, 1],
        'char_length' => [1, 1],
        'substring' => [2, 3],
        'left' => [2, 2],
        'right' => [2, 2],
        'trim' => [1, 2],
        'ltrim' => [1, 2],
        'rtrim' => [1, 2],
        'replace' => [3, 3],
        'concat' => [1, 99],
        'concat_ws' => [2, 99],
        'position' => [2, 2],
        'locate' => [2, 2],
        'instr' => [2, 2],
        'lpad' => [2, 3],
        'rpad' => [2, 3],
        'reverse' => [1, 1],
        'starts_with' => [2, 2],
        'year' => [1, 1],
        'month' => [1, 1],
        'day' => [1, 1],
        'hour' => [1, 1],
        'minute' => [1, 1],
        'second' => [1, 1],
        'quarter' => [1, 1],
        'week' => [1, 1],
        'doy' => [1, 1],
        'date' => [1, 1],
        'date_trunc' => [2, 2],
        'datediff' => [2, 2],
    ];

    private const TEXT_ARGUMENTS = [
        'upper' => 1,
        'lower' => 1,
        'length' => 1,
        'char_length' => 1,
        'reverse' => 1,
        'replace' => 3,
        'trim' => 2,
        'ltrim' => 2,
        'rtrim' => 2,
        'starts_with' => 2,
        'position' => 2,
        'left' => 1,
        'right' => 1,
        'substring' => 1,
        'concat' => 99,
        'concat_ws' => 99,
        'lpad' => 1,
        'rpad' => 1,
    ];

    /**
     * @return list<string> for completion
     */
    public static function names(): array
    {
        return array_keys(self::COUNTS);
    }

    /**
     * @param  list<Expr>  $args
     */
    public static function call(string $name, array $args, int $at): Expr
    {
        $name = self::ALIASES[$name] ?? $name;
        $counts = self::COUNTS[$name] ?? throw new WarehouseError("There is no function {$name}.", $at);
        if (count($args) < $counts[0] || count($args) > $counts[1]) {
            throw new WarehouseError(
                "The function {$name} takes ".
                    ($counts[0] === $counts[1]
                        ? $counts[0]
                        : ($counts[1] === 99
                            ? "at least {$counts[0]}"
                            : "{$counts[0]} or {$counts[1]}")).
                    ($counts[1] === 1 ? ' argument, not ' : ' arguments, not ').
                    count($args).
                    '.',
                $at,
            );
        }
        if (in_array($name, ['position', 'locate', 'instr'], true)) {
            // instr() names the text first, the others what is looked for.
            $args = $name === 'instr' ? $args : [$args[1], $args[0]];
            $name = 'position';
        }
        foreach ($args as $i => $arg) {
            if ($i < (self::TEXT_ARGUMENTS[$name] ?? 0)) {
                $args[$i] = Coercion::to($arg, ColumnType::of(TypeKind::Text));
            }
        }
        $nullable = array_reduce($args, static fn (bool $any, Expr $arg): bool => $any || $arg->nullable, false);

        return match ($name) {
            'abs', 'sign', 'ceil', 'floor', 'round', 'sqrt', 'ln', 'exp', 'power', 'mod' => self::ofNumbers($name, $args, $nullable, $at),
            'greatest', 'least', 'coalesce', 'nullif', 'if' => self::ofChoice($name, $args, $nullable, $at),
            'date', 'date_trunc', 'datediff' => self::ofMoments($name, $args, $nullable, $at),
            'upper', 'lower', 'reverse', 'replace', 'trim', 'ltrim', 'rtrim', 'concat', 'concat_ws', 'length', 'char_length', 'position',
            'starts_with', 'left', 'right', 'substring', 'lpad', 'rpad' => self::ofTexts($name, $args, $nullable, $at),
            default => self::extract($name, $args[0], $at),
        };
    }

    /**
     * @param  non-empty-list<Expr>  $args
     */
    private static function ofNumbers(string $name, array $args, bool $nullable, int $at): Expr
    {
        [$first, $double, $whole] = [$args[0], ColumnType::of(TypeKind::Double), ColumnType::of(TypeKind::Bigint)];
        if ($name === 'mod') {
            return self::arithmetic('mod', $first, $args[1], $at);
        }
        if ($name === 'round') {
            return self::round($args, $nullable, $at);
        }
        self::number($first, $name, $at);

        return match ($name) {
            'abs' => Coercion::op('abs', $args, $first->type, $nullable),
            'sign' => Coercion::op('sign', $args, $whole, $nullable),
            'ceil', 'floor' => $first->type->is(TypeKind::Bigint)
                ? $first
                : Coercion::op($name, $args, $first->type->is(TypeKind::Double) ? $double : $whole, $nullable),
            default => Coercion::op(
                $name,
                array_map(static fn (Expr $arg): Expr => Coercion::to($arg, $double), $args),
                $double,
                $nullable || $name === 'sqrt' || $name === 'ln',
            ),
        };
    }

    /**
     * @param  non-empty-list<Expr>  $args
     */
    private static function ofChoice(string $name, array $args, bool $nullable, int $at): Expr
    {
        [$same, $type] = Coercion::unify($name === 'if' ? [$args[1], $args[2]] : $args, $at);
        $every = array_reduce($same, static fn (bool $every, Expr $arg): bool => $every && $arg->nullable, true);

        return match ($name) {
            'coalesce' => Coercion::op('coalesce', $same, $type, $every),
            'nullif' => Coercion::op('nullif', $same, $type, true),
            'if' => Coercion::op('case', [$args[0], ...$same], $type, $same[0]->nullable || $same[1]->nullable),
            default => Coercion::op($name, $same, $type, $nullable),
        };
    }

    /**
     * @param  non-empty-list<Expr>  $args
     */
    private static function ofTexts(string $name, array $args, bool $nullable, int $at): Expr
    {
        $padding = $name === 'lpad' || $name === 'rpad';
        if ($padding || in_array($name, ['left', 'right', 'substring'], true)) {
            foreach ($args as $i => $arg) {
                if ($i > 0 && ! ($i === 2 && $padding) && ! $arg->type->is(TypeKind::Bigint)) {
                    throw new WarehouseError("The function {$name} takes a whole number as argument ".($i + 1).'.', $at);
                }
            }
        }
        $kind = match ($name) {
            'length', 'char_length', 'position' => TypeKind::Bigint,
            'starts_with' => TypeKind::Boolean,
            default => TypeKind::Text,
        };

        return Coercion::op($name, $args, ColumnType::of($kind), $name === 'concat_ws' ? $args[0]->nullable : $nullable || $padding);
    }

    /**
     * @param  non-empty-list<Expr>  $args
     */
    private static function ofMoments(string $name, array $args, bool $nullable, int $at): Expr
    {
        $day = ColumnType::of(TypeKind::Date);
        if ($name === 'date') {
            return Coercion::to(self::moment($args[0], $at), $day);
        }
        if ($name === 'datediff') {
            return Coercion::op(
                'datediff',
                array_map(static fn (Expr $arg): Expr => Coercion::to(self::moment($arg, $at), $day), $args),
                ColumnType::of(TypeKind::Bigint),
                $nullable,
            );
        }
        $unit = $args[0];
        if (! ($unit instanceof Constant) || ! is_string($unit->value)) {
            throw new WarehouseError('date_trunc takes its unit as a text, such as \'day\'.', $at);
        }
        $moment = self::moment($args[1], $at);

        return Coercion::op('date_trunc', [$moment], $moment->type, $moment->nullable, strtolower($unit->value));
    }

    public static function extract(string $unit, Expr $of, int $at): Expr
    {
        $of = self::moment($of, $at);

        return Coercion::op('extract', [$of], ColumnType::of(TypeKind::Bigint), $of->nullable, strtolower($unit));
    }

    /** A date or time; text literals become one. */
    public static function moment(Expr $e, int $at): Expr
    {
        if ($e instanceof Constant && $e->type->is(TypeKind::Text)) {
            return Coercion::to(
                $e,
                ColumnType::of(
                    is_string($e->value) && preg_match('~^\s*\d{4}-\d{1,2}-\d{1,2}\s*$~', $e->value) === 1
                        ? TypeKind::Date
                        : TypeKind::Timestamp,
                ),
            );
        }
        if (! $e->type->is(TypeKind::Date, TypeKind::Timestamp)) {
            throw new WarehouseError("A date or timestamp is needed here, not {$e->type}.", $at);
        }

        return $e;
    }

    public static function arithmetic(string $name, Expr $a, Expr $b, int $at): Expr
    {
        foreach ([&$a, &$b] as &$side) {
            if ($side instanceof Constant && $side->type->is(TypeKind::Text) && $side->value !== null) {
                $side = Coercion::to($side, ColumnType::of(TypeKind::Double));
            } elseif (
                $side->type->is(TypeKind::Boolean) ||
                ($side instanceof Constant && $side->value === null && ! $side->type->isNumber())
            ) {
                $side = Coercion::to($side, ColumnType::of(TypeKind::Bigint));
            }
        }
        unset($side);
        $dates = [TypeKind::Date, TypeKind::Timestamp];
        if ($name === 'sub' && $a->type->is(TypeKind::Date) && $b->type->is(TypeKind::Date)) {
            return Coercion::op('datediff', [$a, $b], ColumnType::of(TypeKind::Bigint), $a->nullable || $b->nullable);
        }
        if ($a->type->is(...$dates) || $b->type->is(...$dates)) {
            throw new WarehouseError('A date or timestamp can only be moved by an INTERVAL.', $at);
        }
        self::number($a, $name, $at);
        self::number($b, $name, $at);
        $nullable = $a->nullable || $b->nullable || in_array($name, ['div', 'mod', 'intdiv'], true);
        if ($a->type->is(TypeKind::Double) || $b->type->is(TypeKind::Double)) {
            $double = ColumnType::of(TypeKind::Double);

            return Coercion::op(
                $name,
                [Coercion::to($a, $double), Coercion::to($b, $double)],
                $name === 'intdiv' ? ColumnType::of(TypeKind::Bigint) : $double,
                $nullable,
            );
        }
        [$s, $t] = [$a->type->scale, $b->type->scale];
        if ($name === 'div') {
            // a / b with four digits more than a has, as a ÷ 10^s over b ÷ 10^t.
            return Coercion::op('div', [$a, $b], self::decimal($s + 4, $at), true, $t + 4);
        }
        if ($name === 'mul') {
            return Coercion::op(
                'mul',
                [$a, $b],
                $s + $t === 0 && $a->type->is(TypeKind::Bigint) && $b->type->is(TypeKind::Bigint) ? $a->type : self::decimal($s + $t, $at),
                $nullable,
            );
        }
        $type = $a->type->is(TypeKind::Bigint) && $b->type->is(TypeKind::Bigint) ? $a->type : self::decimal(max($s, $t), $at);

        return Coercion::op(
            $name,
            [Coercion::to($a, $type), Coercion::to($b, $type)],
            $name === 'intdiv' ? ColumnType::of(TypeKind::Bigint) : $type,
            $nullable,
        );
    }

    public static function decimal(int $scale, int $at): ColumnType
    {
        if ($scale > 12) {
            throw new WarehouseError(
                "The result would have {$scale} digits behind the point; 12 are possible. CAST an operand to double or to fewer digits.",
                $at,
            );
        }

        return ColumnType::decimal(ColumnType::MOST_DIGITS, $scale);
    }

    public static function number(Expr $e, string $name, int $at): void
    {
        if (! $e->type->isNumber() && ! ($e instanceof Constant && $e->value === null)) {
            throw new WarehouseError("{$name} needs a number, not {$e->type}.", $at);
        }
    }

    /**
     * @param  list<Expr>  $args
     */
    private static function round(array $args, bool $nullable, int $at): Expr
    {
        self::number($args[0], 'round', $at);
        $type = $args[0]->type;
        if (isset($args[1]) && ! $args[1]->type->is(TypeKind::Bigint)) {
            throw new WarehouseError('round takes a whole number of digits.', $at);
        }
        if ($type->is(TypeKind::Decimal)) {
            $digits = isset($args[1]) ? ($args[1] instanceof Constant ? (int) $args[1]->value : $type->scale) : 0;
            $scale = max(0, min($type->scale, $digits));
            $to = isset($args[1]) ? ColumnType::decimal(ColumnType::MOST_DIGITS, $scale) : ColumnType::of(TypeKind::Bigint);

            return Coercion::op('round', $args, $to, $nullable);
        }
        if ($type->is(TypeKind::Bigint) && ! isset($args[1])) {
            return $args[0];
        }

        return Coercion::op('round', $args, $type, $nullable);
    }
}
