<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

/**
 * A statement with values where its parameters were.
 */
final readonly class BoundText
{
    /**
     * @param  array<array-key, mixed>  $binds by place or by name, with or without its mark
     */
    public static function fill(string $sql, array $binds): string
    {
        $filled = '';
        $next = 0;
        foreach ((new Lexer())->tokens($sql) as $token) {
            if ($token->kind !== TokenKind::Parameter) {
                $filled .= $token->text;

                continue;
            }
            $name = ltrim($token->text, ':@$');
            $key = match (true) {
                array_key_exists($token->text, $binds) => $token->text,
                $token->text[0] === '$' && array_key_exists((int) $name - 1, $binds) => (int) $name - 1,
                $token->text !== '?' && array_key_exists($name, $binds) => $name,
                default => $next++,
            };
            $filled .= array_key_exists($key, $binds) ? self::literal($binds[$key]) : $token->text;
        }

        return $filled;
    }

    private static function literal(mixed $value): string
    {
        return match (true) {
            $value === null => 'NULL',
            is_bool($value) => $value ? 'TRUE' : 'FALSE',
            is_int($value) => (string) $value,
            is_float($value) => var_export($value, true),
            default => "'".str_replace("'", "''", is_string($value) ? $value : (string) json_encode($value))."'",
        };
    }
}
