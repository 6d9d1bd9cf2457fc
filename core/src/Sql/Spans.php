<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

use Fulcrion\Core\Sql\Ast\Binary;
use Fulcrion\Core\Sql\Ast\Call;
use Fulcrion\Core\Sql\Ast\Cast;
use Fulcrion\Core\Sql\Ast\ColumnName;
use Fulcrion\Core\Sql\Ast\Expression;
use Fulcrion\Core\Sql\Ast\Extract;
use Fulcrion\Core\Sql\Ast\NumberLiteral;
use Fulcrion\Core\Sql\Ast\TextLiteral;
use Fulcrion\Core\Sql\Ast\TimeLiteral;

/**
 * Says filters that wrap a column in a function or cast as spans of the column itself, which bounds of chunks and
 * partitions can be held against.
 */
final readonly class Spans
{
    private const TURNED = ['=' => '=', '<' => '>', '>' => '<', '<=' => '>=', '>=' => '<='];

    public static function compares(string $operator): bool
    {
        return isset(self::TURNED[$operator]);
    }

    /**
     * A statement with every such filter of some columns said as a span. The meaning stays the same.
     *
     * @param  array<string, string>  $types column => name of its type
     * @return string|null null when there is nothing to say differently
     *
     * @throws SyntaxError
     */
    public static function statement(string $sql, array $types, Dialect $dialect = Dialect::Ansi): ?string
    {
        $parser = new Parser($dialect);
        $printer = new Printer($dialect);
        $statement = $parser->statement($sql);
        $text = $printer->statement($statement);
        $before = $text;
        foreach (Tree::nodes($statement) as $condition) {
            if (! $condition instanceof Binary || ! self::compares($condition->operator)) {
                continue;
            }
            foreach ($types as $column => $type) {
                foreach ([$condition->left, $condition->right] as $side) {
                    if (! $side instanceof ColumnName && ($name = self::mentioned($side, $column)) !== null) {
                        $bare = self::bare($condition, $column, $type);
                        if ($bare !== null) {
                            $qualified = count($name->parts) > 1 ? $printer->path($name->parts) : $printer->name($column);
                            $text = str_replace($printer->expression($condition), '('.str_replace($printer->name($column), $qualified, $bare).')', $text);
                        }
                    }
                }
            }
        }

        return $text === $before ? null : $printer->statement($parser->statement($text));
    }

    private static function mentions(Expression $e, string $column): bool
    {
        return self::mentioned($e, $column) !== null;
    }

    private static function mentioned(Expression $e, string $column): ?ColumnName
    {
        foreach (Tree::nodes($e) as $node) {
            if ($node instanceof ColumnName && strtolower($node->parts[count($node->parts) - 1]) === $column) {
                return $node;
            }
        }

        return null;
    }

    /** The same filter on the bare column, where it can be said as a span. */
    public static function bare(Expression $condition, string $column, string $type): ?string
    {
        if (! $condition instanceof Binary) {
            return null;
        }
        [$wrapping, $constant, $operator] = self::mentions($condition->left, $column)
            ? [$condition->left, $condition->right, $condition->operator]
            : [$condition->right, $condition->left, self::TURNED[$condition->operator] ?? ''];
        $span = self::span($wrapping, $constant);
        if ($span === null) {
            return null;
        }
        [$from, $to] = $span;
        $literal = static fn (int $day): string => ($type === 'date' ? 'DATE ' : 'TIMESTAMP ')."'".gmdate($type === 'date' ? 'Y-m-d' : 'Y-m-d 00:00:00', $day * 86400)."'";
        $name = (new Printer())->name($column);

        return match ($operator) {
            '=' => "{$name} >= {$literal($from)} AND {$name} < {$literal($to)}",
            '<' => "{$name} < {$literal($from)}",
            '<=' => "{$name} < {$literal($to)}",
            '>' => "{$name} >= {$literal($to)}",
            '>=' => "{$name} >= {$literal($from)}",
            default => null,
        };
    }

    /**
     * The days for which the wrapping expression has the constant's value.
     *
     * @return array{int, int}|null first day, day behind the last
     */
    private static function span(Expression $wrapping, Expression $constant): ?array
    {
        $unit = match (true) {
            $wrapping instanceof Cast && $wrapping->type->name === 'date' => 'day',
            $wrapping instanceof Call && $wrapping->name === 'date' => 'day',
            $wrapping instanceof Call && $wrapping->name === 'date_trunc' && $wrapping->arguments[0] instanceof TextLiteral => $wrapping->arguments[0]->value,
            $wrapping instanceof Extract && $wrapping->unit === 'YEAR', $wrapping instanceof Call && $wrapping->name === 'year' => 'number of the year',
            default => null,
        };
        $inner = $wrapping instanceof Call ? ($wrapping->arguments[count($wrapping->arguments) - 1] ?? null) : ($wrapping instanceof Cast || $wrapping instanceof Extract ? $wrapping->value : null);
        if ($unit === null || ! $inner instanceof ColumnName) {
            return null;
        }
        if ($unit === 'number of the year') {
            return $constant instanceof NumberLiteral && ctype_digit($constant->text) ? [self::day("{$constant->text}-01-01"), self::day(((int) $constant->text + 1).'-01-01')] : null;
        }
        $text = $constant instanceof TimeLiteral ? $constant->text : ($constant instanceof TextLiteral ? $constant->value : '');
        if (preg_match('~^\d{4}-\d{2}-\d{2}(?: 00:00:00)?$~', $text) !== 1 || ! in_array($unit, ['day', 'week', 'month', 'quarter', 'year'], true)) {
            return null;
        }
        $from = self::day(substr($text, 0, 10));
        $next = (int) strtotime(gmdate('Y-m-d', $from * 86400).' UTC +'.($unit === 'quarter' ? '3 months' : "1 {$unit}"));

        return [$from, intdiv($next, 86400)];
    }

    private static function day(string $date): int
    {
        return intdiv((int) strtotime("{$date} 00:00:00 UTC"), 86400);
    }
}
