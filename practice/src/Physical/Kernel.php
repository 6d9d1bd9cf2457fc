<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

use Closure;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Practice\Expression\Compiler;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Expression\SubqueryExpr;
use Fulcrion\Practice\WarehouseError;
use ParseError;

/**
 * Compiled loops over batches. What is compiled once is kept, by its source.
 *
 * @internal
 */
final class Kernel
{
    private const MOST_KEPT = 2000;

    /** @var array<string, Closure> */
    private static array $kept = [];

    public static function closure(string $source): Closure
    {
        if (count(self::$kept) > self::MOST_KEPT) {
            self::$kept = [];
        }

        // The source is made by Compiler, where texts of statements only occur through var_export().
        try {
            return self::$kept[$source] ??= eval("return {$source};");
        } catch (ParseError) {
            throw new WarehouseError('The statement is too long to be run in one piece. Take it apart, or put long lists into a table.');
        }
    }

    /**
     * Numbers of the rows that meet all conditions.
     *
     * @param  list<Expr>  $conditions
     * @param  array<int, mixed>  $inputs by id
     * @param  callable(SubqueryExpr): int  $subquery
     * @return Closure(array<int, list<mixed>>, int, array<int, mixed>, Run): list<int>
     */
    public static function filter(array $conditions, array $inputs, callable $subquery): Closure
    {
        $compiler = new Compiler($inputs, $subquery);
        $test = implode(' && ', array_map($compiler->truth(...), $conditions));

        return self::closure(
            'static function (array $c, int $n, array $o, $rt) { '.
                self::locals($compiler).
                '$r = []; for ($i = 0; $i < $n; $i++) { if ('.
                ($test === '' ? 'true' : $test).
                ') { $r[] = $i; } } return $r; }',
        );
    }

    /**
     * Values of expressions, column by column.
     *
     * @param  array<int, Expr>  $values id of the result => expression
     * @param  array<int, mixed>  $inputs by id
     * @param  callable(SubqueryExpr): int  $subquery
     * @return Closure(array<int, list<mixed>>, int, array<int, mixed>, Run): array<int, list<mixed>>
     */
    public static function project(array $values, array $inputs, callable $subquery): Closure
    {
        $compiler = new Compiler($inputs, $subquery);
        $body = '';
        $results = [];
        foreach ($values as $id => $value) {
            $body .= "\$r{$id} = []; for (\$i = 0; \$i < \$n; \$i++) { \$r{$id}[] = {$compiler->value($value)}; } ";
            $results[] = "{$id} => \$r{$id}";
        }

        return self::closure(
            'static function (array $c, int $n, array $o, $rt) { '.
                self::locals($compiler).
                $body.
                'return ['.
                implode(', ', $results).
                ']; }',
        );
    }

    /**
     * Keys of the rows for hashing; null where a part is NULL.
     *
     * @param  list<Expr>  $keys
     * @param  array<int, mixed>  $inputs by id
     * @param  callable(SubqueryExpr): int  $subquery
     * @return Closure(array<int, list<mixed>>, int, array<int, mixed>, Run): list<int|string|null>
     */
    public static function keys(array $keys, array $inputs, callable $subquery): Closure
    {
        $compiler = new Compiler($inputs, $subquery);
        $parts = [];
        $tests = [];
        $set = '';
        foreach ($keys as $number => $key) {
            $set .= "\$k{$number} = {$compiler->value($key)}; ";
            if ($key->nullable) {
                $tests[] = "\$k{$number} === null";
            }
            $plain = match (true) {
                $key->type->is(TypeKind::Double) => "pack('E', \$k{$number} + 0.0)",
                $key->type->is(TypeKind::Timestamp) => "(\$k{$number} >> 13 ^ \$k{$number} << 51)",
                $key->type->is(TypeKind::Boolean) => "(int) \$k{$number}",
                count($keys) > 1 && $key->type->is(TypeKind::Text) => "strlen(\$k{$number}).':'.\$k{$number}",
                default => "\$k{$number}",
            };
            $parts[] = $plain;
        }
        $value = implode('."\1".', $parts);

        return self::closure(
            'static function (array $c, int $n, array $o, $rt) { '.
                self::locals($compiler).
                '$r = []; for ($i = 0; $i < $n; $i++) { '.
                $set.
                '$r[] = '.
                ($tests === [] ? $value : '('.implode(' || ', $tests).") ? null : {$value}").
                '; } return $r; }',
        );
    }

    public static function locals(Compiler $compiler): string
    {
        $source = '';
        foreach ($compiler->used as $id => $_) {
            $source .= "\$c{$id} = \$c[{$id}]; ";
        }
        foreach ($compiler->maps as $name => $number) {
            $source .= "\$m{$number} = \$rt->maps[".var_export($name, true).']; ';
        }

        return $source;
    }
}
