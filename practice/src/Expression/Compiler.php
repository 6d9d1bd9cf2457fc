<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Expression;

use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use LogicException;

/**
 * Turns expressions into PHP source that reads columns as `$c<id>[$i]`, outer columns as `$o[<id>]` and the runtime as
 * `$rt`. Nothing of a statement's text reaches the source but through var_export().
 */
final class Compiler
{
    private const COMPARE = ['eq' => '===', 'ne' => '!==', 'lt' => '<', 'le' => '<=', 'gt' => '>', 'ge' => '>='];

    private const OPPOSITE = ['eq' => 'ne', 'ne' => 'eq', 'lt' => 'ge', 'ge' => 'lt', 'gt' => 'le', 'le' => 'gt'];

    private const NESTED = 100;

    private int $next = 0;

    /** @var array<int, true> columns of the input that were read */
    public array $used = [];

    /** @var array<string, int> maps of the runtime that are looked up in => number of the variable */
    public array $maps = [];

    /**
     * @param  array<int, mixed>  $inputs ids of the columns the input has
     * @param  callable(SubqueryExpr): int  $subquery number of a subquery in the runtime
     */
    public function __construct(private readonly array $inputs, private readonly mixed $subquery)
    {
    }

    /** Source of the value; null where SQL says NULL. */
    public function value(Expr $e): string
    {
        if ($e instanceof Ref) {
            if (isset($this->inputs[$e->id])) {
                $this->used[$e->id] = true;

                return "\$c{$e->id}[\$i]";
            }

            return "\$o[{$e->id}]";
        }
        if ($e instanceof Constant) {
            // In brackets, so that neither a sign nor a point behind it is read with it.
            return is_int($e->value) || is_float($e->value) ? '('.var_export($e->value, true).')' : var_export($e->value, true);
        }
        if ($e instanceof SubqueryExpr) {
            return $this->query($e);
        }
        if (! ($e instanceof Op)) {
            throw new LogicException($e::class);
        }
        if ($this->isLogical($e)) {
            return $e->nullable ? "({$this->truth($e)} ? true : ({$this->falsity($e)} ? false : null))" : "({$this->truth($e)})";
        }

        return match ($e->name) {
            'case' => $this->caseOf($e),
            'coalesce' => '('.implode(' ?? ', array_map($this->value(...), $e->args)).')',
            'nullif' => $this->nullIf($e),
            'concat_ws' => $this->concatWs($e),
            default => $this->strict($e),
        };
    }

    /**
     * Many conditions are joined in groups of groups, as PHP can nest only so many in each other.
     *
     * @param  list<string>  $parts
     */
    private static function joined(string $operator, array $parts): string
    {
        while (count($parts) > self::NESTED) {
            $parts = array_map(
                static fn (array $group): string => '('.implode($operator, $group).')',
                array_chunk($parts, self::NESTED),
            );
        }

        return '('.implode($operator, $parts).')';
    }

    /** Source of a PHP condition that holds where the expression is TRUE. */
    public function truth(Expr $e): string
    {
        if ($e instanceof Op) {
            switch ($e->name) {
                case 'and':
                    return self::joined(' && ', array_map($this->truth(...), $e->args));
                case 'or':
                    return self::joined(' || ', array_map($this->truth(...), $e->args));
                case 'not':
                    return $this->falsity($e->args[0]);
                case 'isnull':
                    return "({$this->value($e->args[0])} === null)";
                case 'same':
                    return "({$this->value($e->args[0])} === {$this->value($e->args[1])})";
                case 'known':
                    [$conditions, [$key]] = $this->present($e->args);

                    return '('.($conditions === '' ? '' : "{$conditions} && ")."isset({$this->map($e)}[{$key}]))";
                case 'in':
                    return $this->in($e);
                case 'like':
                    return $this->like($e, true);
            }
            if (isset(self::COMPARE[$e->name])) {
                return $this->compare($e, $e->name);
            }
        }
        if ($e instanceof Constant) {
            return $e->value === true ? 'true' : 'false';
        }

        return "({$this->value($e)} === true)";
    }

    /** Source of a PHP condition that holds where the expression is FALSE. */
    public function falsity(Expr $e): string
    {
        if ($e instanceof Op) {
            switch ($e->name) {
                case 'and':
                    return self::joined(' || ', array_map($this->falsity(...), $e->args));
                case 'or':
                    return self::joined(' && ', array_map($this->falsity(...), $e->args));
                case 'not':
                    return $this->truth($e->args[0]);
                case 'isnull':
                    return "({$this->value($e->args[0])} !== null)";
                case 'same':
                    return "({$this->value($e->args[0])} !== {$this->value($e->args[1])})";
                case 'known':
                    [$conditions, [$key]] = $this->present($e->args);

                    return '('.($conditions === '' ? '' : "{$conditions} && ")."! isset({$this->map($e)}[{$key}]))";
                case 'in':
                    return $this->notIn($e);
                case 'like':
                    return $this->like($e, false);
            }
            if (isset(self::COMPARE[$e->name])) {
                return $this->compare($e, self::OPPOSITE[$e->name]);
            }
        }
        if ($e instanceof Constant) {
            return $e->value === false ? 'true' : 'false';
        }

        return "({$this->value($e)} === false)";
    }

    /** Source of an array key that is the same for values SQL calls not distinct. */
    public function groupKey(Expr $e): string
    {
        $value = $this->value($e);
        $kind = $e->type->kind;
        if ($kind === TypeKind::Double) {
            // -0.0 and 0.0 are one value; PHP would cut a float key to a whole number.
            return $e->nullable ? "((\$k = {$value}) === null ? 'n' : pack('E', \$k + 0.0))" : "pack('E', {$value} + 0.0)";
        }
        if ($kind === TypeKind::Boolean) {
            return $e->nullable ? "((\$k = {$value}) === null ? 'n' : (\$k ? 1 : 0))" : "({$value} ? 1 : 0)";
        }
        if ($kind === TypeKind::Timestamp) {
            // Moments often end in the same bits, which makes slow keys; turned by 13 bits they do not.
            return $e->nullable ? "((\$k = {$value}) === null ? 'n' : (\$k >> 13 ^ \$k << 51))" : "((\$k = {$value}) >> 13 ^ \$k << 51)";
        }
        if (! $e->nullable) {
            return $value;
        }

        return $kind === TypeKind::Text ? "((\$k = {$value}) === null ? 'n' : 's'.\$k)" : "({$value} ?? 'n')";
    }

    /**
     * Source of one array key for several values.
     *
     * @param  list<Expr>  $list
     */
    public function groupKeys(array $list): string
    {
        if (count($list) === 1) {
            return $this->groupKey($list[0]);
        }

        return $list === []
            ? "''"
            : implode(
                '."\1".',
                array_map(function (Expr $e): string {
                    $key = $this->groupKey($e);

                    // A length in front keeps ("a\1", "b") and ("a", "\1b") apart.
                    return $e->type->is(TypeKind::Text) ? "strlen(\$t = {$key}).':'.\$t" : $key;
                }, $list),
            );
    }

    private function isLogical(Op $e): bool
    {
        return in_array($e->name, ['and', 'or', 'not', 'isnull', 'same', 'in', 'like', 'known'], true) || isset(self::COMPARE[$e->name]);
    }

    private function map(Op $e): string
    {
        return '$m'.($this->maps[(string) $e->extra] ??= count($this->maps));
    }

    private function temporary(): string
    {
        return '$t'.$this->next++;
    }

    /**
     * Sources of values for a test that needs all of them not null.
     *
     * @param  list<Expr>  $args
     * @return array{string, list<string>} conditions joined by && (or ''), the values behind them
     */
    private function present(array $args): array
    {
        $conditions = [];
        $values = [];
        foreach ($args as $arg) {
            if ($arg->nullable) {
                $t = $this->temporary();
                $conditions[] = "({$t} = {$this->value($arg)}) !== null";
                $values[] = $t;
            } else {
                $values[] = $this->value($arg);
            }
        }

        return [implode(' && ', $conditions), $values];
    }

    private function compare(Op $e, string $name): string
    {
        [$conditions, [$a, $b]] = $this->present($e->args);
        $operator = self::COMPARE[$name];
        $kind = $e->args[0]->type->kind;
        if ($kind === TypeKind::Text && $name !== 'eq' && $name !== 'ne') {
            $test = "strcmp({$a}, {$b}) {$operator} 0";
        } elseif ($kind === TypeKind::Double && ($name === 'eq' || $name === 'ne')) {
            $test = "{$a} ".substr($operator, 0, 2)." {$b}";
        } else {
            $test = "{$a} {$operator} {$b}";
        }

        return $conditions === '' ? "({$test})" : "({$conditions} && {$test})";
    }

    private function in(Op $e): string
    {
        [$constants, $others, $value] = $this->members($e);
        $t = $this->temporary();
        $tests = [];
        if ($constants !== null) {
            $tests[] = "isset({$constants}[{$this->member($e->args[0]->type, $t)}])";
        }
        foreach ($others as $other) {
            $tests[] = $e->args[0]->type->is(TypeKind::Double)
                ? "({$this->value($other)} ?? NAN) == {$t}"
                : "{$this->value($other)} === {$t}";
        }

        return "(({$t} = {$value}) !== null && (".($tests === [] ? 'false' : implode(' || ', $tests)).'))';
    }

    private function notIn(Op $e): string
    {
        foreach (array_slice($e->args, 1) as $item) {
            if ($item instanceof Constant && $item->value === null) {
                return 'false';
            }
        }
        [$constants, $others, $value] = $this->members($e);
        $t = $this->temporary();
        $tests = ["({$t} = {$value}) !== null"];
        if ($constants !== null) {
            $tests[] = "! isset({$constants}[{$this->member($e->args[0]->type, $t)}])";
        }
        foreach ($others as $other) {
            $u = $this->temporary();
            $tests[] =
                "({$u} = {$this->value($other)}) !== null && {$u} ".($e->args[0]->type->is(TypeKind::Double) ? '!=' : '!==')." {$t}";
        }

        return '('.implode(' && ', $tests).')';
    }

    /**
     * @return array{string|null, list<Expr>, string} source of a set of the constants, the other items, source of the value
     */
    private function members(Op $e): array
    {
        $set = [];
        $others = [];
        foreach (array_slice($e->args, 1) as $item) {
            if (! ($item instanceof Constant)) {
                $others[] = $item;
            } elseif ($item->value !== null) {
                $set[
                    is_float($item->value) ? pack('E', $item->value + 0.0) : (is_bool($item->value) ? (int) $item->value : $item->value)
                ] = true;
            }
        }

        return [$set === [] ? null : '('.var_export($set, true).')', $others, $this->value($e->args[0])];
    }

    private function member(ColumnType $type, string $t): string
    {
        return match ($type->kind) {
            TypeKind::Double => "pack('E', {$t} + 0.0)",
            TypeKind::Boolean => "(int) {$t}",
            default => $t,
        };
    }

    private function like(Op $e, bool $wanted): string
    {
        [$conditions, [$value, $pattern]] = $this->present($e->args);
        $escape = is_string($e->extra) ? $e->extra : '\\';
        $not = $wanted ? '' : '! ';
        $constant = $e->args[1] instanceof Constant && is_string($e->args[1]->value) ? $e->args[1]->value : null;
        $body = $constant === null ? '' : trim($constant, '%');
        if ($constant !== null && strpbrk($body, "%_{$escape}") === false && $body !== '' && $escape !== '%') {
            $exported = var_export($body, true);
            $test = match ([str_starts_with($constant, '%'), str_ends_with($constant, '%')]) {
                [false, false] => "({$value} === {$exported})",
                [true, false] => "str_ends_with({$value}, {$exported})",
                [false, true] => "str_starts_with({$value}, {$exported})",
                default => "str_contains({$value}, {$exported})",
            };
        } else {
            $source =
                $constant === null
                    ? '\\'.Scalar::class."::pattern({$pattern}, ".var_export($escape, true).')'
                    : var_export(Scalar::pattern($constant, $escape), true);
            $test = "(preg_match({$source}, {$value}) === 1)";
        }

        return $conditions === '' ? "({$not}{$test})" : "({$conditions} && {$not}{$test})";
    }

    private function caseOf(Op $e): string
    {
        $source = '';
        $count = count($e->args);
        if ($count > self::NESTED) {
            for ($i = 0; $i + 1 < $count; $i += 2) {
                $source .= "{$this->truth($e->args[$i])} => {$this->value($e->args[$i + 1])}, ";
            }

            return "match (true) { {$source}default => ".($count % 2 === 1 ? $this->value($e->args[$count - 1]) : 'null').' }';
        }
        for ($i = 0; $i + 1 < $count; $i += 2) {
            $source .= "({$this->truth($e->args[$i])} ? {$this->value($e->args[$i + 1])} : ";
        }

        return $source.($count % 2 === 1 ? $this->value($e->args[$count - 1]) : 'null').str_repeat(')', intdiv($count, 2));
    }

    private function nullIf(Op $e): string
    {
        $t = $this->temporary();
        // For PHP 0.0 equals null, and nothing equals NAN.
        [$same, $none] = $e->args[0]->type->is(TypeKind::Double) ? ['==', 'NAN'] : ['===', 'null'];

        return "((({$t} = {$this->value($e->args[0])}) !== null && {$t} {$same} ({$this->value($e->args[1])} ?? {$none})) ? null : {$t})";
    }

    private function concatWs(Op $e): string
    {
        [$conditions, [$mark]] = $this->present([$e->args[0]]);
        $values = implode(', ', array_map($this->value(...), array_slice($e->args, 1)));
        $joined = $this->short("implode({$mark}, array_filter([{$values}], static fn (\$v) => \$v !== null))");

        return $conditions === '' ? $joined : "({$conditions} ? {$joined} : null)";
    }

    /** Functions whose value is null as soon as one argument is. */
    private function strict(Op $e): string
    {
        [$conditions, $a] = $this->present($e->args);
        $source = $this->call($e, $a);

        return $conditions === '' ? $source : "({$conditions} ? {$source} : null)";
    }

    /**
     * @param  list<string>  $a sources of the arguments
     */
    private function call(Op $e, array $a): string
    {
        $scalar = '\\'.Scalar::class.'::';
        $extra = var_export($e->extra, true);
        $first = $e->args[0]->type ?? $e->type;
        $isDouble = $e->type->is(TypeKind::Double);
        $checked = function (string $source) use ($isDouble, $scalar): string {
            if ($isDouble) {
                return $this->finite($source);
            }
            $t = $this->temporary();

            return "(is_int({$t} = {$source}) ? {$t} : {$scalar}overflow())";
        };

        return match ($e->name) {
            'add' => $checked("{$a[0]} + {$a[1]}"),
            'sub' => $checked("{$a[0]} - {$a[1]}"),
            'mul' => $checked("{$a[0]} * {$a[1]}"),
            'div' => $isDouble
                ? "(({$a[1]}) == 0 ? null : {$this->finite("{$a[0]} / {$a[1]}")})"
                : "{$scalar}divide({$a[0]}, {$a[1]}, {$extra})",
            'intdiv' => "(({$a[1]}) == 0 ? null : {$scalar}".
                ($first->is(TypeKind::Double) ? "cut({$a[0]} / {$a[1]})" : "quotient({$a[0]}, {$a[1]})").
                ')',
            'mod' => "(({$a[1]}) == 0 ? null : ".($isDouble ? $this->finite("fmod({$a[0]}, {$a[1]})") : "{$a[0]} % {$a[1]}").')',
            'neg' => $checked("-({$a[0]})"),
            'abs' => $checked("abs({$a[0]})"),
            'sign' => "({$a[0]} <=> 0)",
            'ceil' => $first->is(TypeKind::Double) ? "(ceil({$a[0]}) + 0.0)" : "{$scalar}ceilDiv({$a[0]}, 10 ** {$first->scale})",
            'floor' => $first->is(TypeKind::Double) ? "floor({$a[0]})" : "{$scalar}floorDiv({$a[0]}, 10 ** {$first->scale})",
            'round' => $this->round($e, $a),
            'sqrt' => "({$a[0]} < 0 ? null : sqrt({$a[0]}))",
            'power' => $this->finite("({$a[0]}) ** ({$a[1]})"),
            'exp' => $this->finite("exp({$a[0]})"),
            'ln' => "({$a[0]} <= 0 ? null : log({$a[0]}))",
            'greatest', 'least' => $this->extreme($e, $a),
            'upper' => "mb_strtoupper({$a[0]})",
            'lower' => "mb_strtolower({$a[0]})",
            'length' => "strlen({$a[0]})",
            'char_length' => "mb_strlen({$a[0]})",
            'substring' => "{$scalar}substring({$a[0]}, {$a[1]}, ".($a[2] ?? 'null').')',
            'left' => "mb_substr({$a[0]}, 0, max(0, {$a[1]}))",
            'right' => "({$a[1]} < 1 ? '' : mb_substr({$a[0]}, -{$a[1]}))",
            'trim', 'ltrim', 'rtrim' => isset($a[1])
                ? "{$scalar}trim({$a[0]}, {$a[1]}, ".
                    var_export($e->name !== 'rtrim', true).
                    ', '.
                    var_export($e->name !== 'ltrim', true).
                    ')'
                : "{$e->name}({$a[0]}, ' ')",
            'replace' => "{$scalar}replaced({$a[0]}, {$a[1]}, {$a[2]})",
            'concat' => $this->short(implode('.', $a)),
            'position' => "((\$p = mb_strpos({$a[0]}, {$a[1]})) === false ? 0 : \$p + 1)",
            'lpad', 'rpad' => "{$scalar}pad({$a[0]}, {$a[1]}, ".($a[2] ?? "' '").', '.($e->name === 'lpad' ? 'true' : 'false').')',
            'reverse' => "implode('', array_reverse(mb_str_split({$a[0]})))",
            'keyed_hash' => "{$scalar}keyedHash({$a[0]}, {$extra})",
            'starts_with' => "str_starts_with({$a[0]}, {$a[1]})",
            'date_trunc' => $first->is(TypeKind::Date)
                ? "{$scalar}truncateDay({$a[0]}, {$extra})"
                : "{$scalar}truncateTime({$a[0]}, {$extra})",
            'extract' => $first->is(TypeKind::Date) ? "{$scalar}extractDay({$a[0]}, {$extra})" : "{$scalar}extract({$a[0]}, {$extra})",
            'plus_interval' => $first->is(TypeKind::Date)
                ? "{$scalar}plusUnits({$a[0]}, {$a[1]}, {$extra})"
                : "{$scalar}plusTime({$a[0]}, {$a[1]}, {$extra})",
            'lookup' => "({$this->map($e)}[{$a[0]}] ?? null)",
            'datediff' => "({$a[0]} - {$a[1]})",
            'cast' => $this->cast($first, $e->type, $a[0]),
            default => throw new LogicException("no source for {$e->name}"),
        };
    }

    /**
     * @param  list<string>  $a
     */
    private function round(Op $e, array $a): string
    {
        $scalar = '\\'.Scalar::class.'::';
        $from = $e->args[0]->type;
        if ($from->is(TypeKind::Double)) {
            return $this->finite("round({$a[0]}, ".(isset($a[1]) ? "max(-400, min(400, {$a[1]}))" : '0').')');
        }
        if (! isset($a[1])) {
            return "{$scalar}drop({$a[0]}, {$from->scale})";
        }
        $rounded = "{$scalar}roundScaled({$a[0]}, {$from->scale}, {$a[1]})";

        return $e->type->scale < $from->scale ? "intdiv({$rounded}, 10 ** ".($from->scale - $e->type->scale).')' : $rounded;
    }

    /**
     * @param  list<string>  $a
     */
    private function extreme(Op $e, array $a): string
    {
        if (! $e->type->is(TypeKind::Text)) {
            return ($e->name === 'greatest' ? 'max' : 'min').'('.implode(', ', $a).')';
        }
        $sign = $e->name === 'greatest' ? '-' : '';

        return '(static function (array $l) { usort($l, static fn ($x, $y) => '.
            "{$sign}strcmp(\$x, \$y)); return \$l[0]; })([".
            implode(', ', $a).
            '])';
    }

    private function cast(ColumnType $from, ColumnType $to, string $v): string
    {
        $scalar = '\\'.Scalar::class.'::';
        $scale = $from->scale;

        return match ($to->kind) {
            TypeKind::Bigint => match ($from->kind) {
                TypeKind::Decimal => "{$scalar}drop({$v}, {$scale})",
                TypeKind::Double => "{$scalar}roundWhole({$v})",
                TypeKind::Text => "{$scalar}parseWhole({$v})",
                TypeKind::Boolean => "(int) {$v}",
                default => $v,
            },
            TypeKind::Double => match ($from->kind) {
                TypeKind::Decimal => "({$v} / ".var_export(10.0 ** $scale, true).')',
                TypeKind::Text => "{$scalar}parseDouble({$v})",
                default => "(float) {$v}",
            },
            TypeKind::Decimal => "{$scalar}fits(".
                match ($from->kind) {
                    TypeKind::Decimal => $to->scale >= $scale
                        ? $this->up($v, $to->scale - $scale)
                        : "{$scalar}drop({$v}, ".($scale - $to->scale).')',
                    TypeKind::Bigint => $this->up($v, $to->scale),
                    TypeKind::Boolean => $this->up("(int) {$v}", $to->scale),
                    TypeKind::Double => "{$scalar}roundWhole({$v} * ". 10 ** $to->scale.')',
                    default => "{$scalar}parseDecimal({$v}, {$to->scale})",
                }.
                ", {$to->precision}, {$to->scale})",
            TypeKind::Text => match ($from->kind) {
                TypeKind::Text => $v,
                TypeKind::Bigint => "(string) {$v}",
                TypeKind::Boolean => "({$v} ? '1' : '0')",
                default => '(new \\'.
                    ColumnType::class.
                    '(\\'.
                    TypeKind::class.
                    "::from('{$from->kind->value}'), {$from->precision}, {$from->scale}))->show({$v})",
            },
            TypeKind::Boolean => $from->is(TypeKind::Text)
                ? "{$scalar}parseBoolean({$v})"
                : ($from->is(TypeKind::Boolean)
                    ? $v
                    : "({$v} != 0)"),
            TypeKind::Date => match ($from->kind) {
                TypeKind::Timestamp => "{$scalar}floorDiv({$v}, 86400000000)",
                TypeKind::Text => "{$scalar}parseDate({$v})",
                default => $v,
            },
            TypeKind::Timestamp => match ($from->kind) {
                TypeKind::Date => "({$v} * 86400000000)",
                TypeKind::Text => "{$scalar}parseTime({$v})",
                default => $v,
            },
        };
    }

    /** A double that is neither infinite nor no number, and has no sign where it is zero. */
    private function finite(string $source): string
    {
        $t = $this->temporary();

        // Infinity less itself is no number.
        return "((({$t} = ({$source}) + 0.0) - {$t} == 0.0) ? {$t} : \\".Scalar::class.'::tooLarge())';
    }

    private function short(string $source): string
    {
        $t = $this->temporary();

        return "(strlen({$t} = {$source}) <= ".Scalar::LONGEST_TEXT." ? {$t} : \\".Scalar::class.'::tooLong())';
    }

    private function up(string $v, int $digits): string
    {
        if ($digits === 0) {
            return $v;
        }
        $t = $this->temporary();

        return "(is_int({$t} = {$v} * ". 10 ** $digits.") ? {$t} : \\".Scalar::class.'::overflow())';
    }

    private function query(SubqueryExpr $e): string
    {
        $number = ($this->subquery)($e);
        $outer = [];
        foreach ($e->plan->free() as $id => $_) {
            if (isset($this->inputs[$id])) {
                $this->used[$id] = true;
            }
            $outer[] = "{$id} => ".(isset($this->inputs[$id]) ? "\$c{$id}[\$i]" : "\$o[{$id}]");
        }
        $outer = '['.implode(', ', $outer).']';

        return match ($e->kind) {
            SubqueryExpr::SCALAR => "\$rt->scalar({$number}, {$outer})",
            SubqueryExpr::EXISTS => "\$rt->exists({$number}, {$outer})",
            default => "\$rt->compare({$number}, {$outer}, {$this->value($e->left ?? throw new LogicException('left side'))}, ".
                var_export($e->kind === SubqueryExpr::IN ? 'eq' : $e->operator, true).
                ', '.
                ($e->kind === SubqueryExpr::ALL ? 'true' : 'false').
                ')',
        };
    }
}
