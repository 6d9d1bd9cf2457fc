<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

use Fulcrion\Core\Sql\Ast\Binary;
use Fulcrion\Core\Sql\Ast\Call;
use Fulcrion\Core\Sql\Ast\Cast;
use Fulcrion\Core\Sql\Ast\ColumnName;
use Fulcrion\Core\Sql\Ast\Expression;
use Fulcrion\Core\Sql\Ast\Extract;
use Fulcrion\Core\Sql\Ast\Node;
use Fulcrion\Core\Sql\Ast\NumberLiteral;
use Fulcrion\Core\Sql\Ast\Statement;
use Fulcrion\Core\Sql\Ast\TextLiteral;
use Fulcrion\Core\Sql\Ast\TimeLiteral;

/**
 * Says filters that wrap a column in a function or cast as spans of the column itself, which bounds of chunks and
 * partitions can be held against.
 */
final readonly class RangeRewrites
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
        $changed = false;
        $statement = Tree::map($parser->statement($sql), static function (Node $condition) use (
            $types,
            $parser,
            $printer,
            &$changed,
        ): ?Node {
            if (! ($condition instanceof Binary) || ! self::compares($condition->operator)) {
                return null;
            }
            foreach ($types as $column => $type) {
                $bare = self::bare($condition, $column, $type, $printer);
                if ($bare !== null) {
                    $changed = true;

                    return $parser->expression($bare);
                }
            }

            return null;
        });

        return $changed && $statement instanceof Statement ? $printer->statement($statement) : null;
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

    /**
     * The same filter on the bare column, where it can be said as a span. A constant off the beginning of its unit, such as
     * the 15th for a month, is equal to none and lies between two.
     */
    public static function bare(Expression $condition, string $column, string $type, Printer $printer = new Printer()): ?string
    {
        if (! ($condition instanceof Binary)) {
            return null;
        }
        [$wrapping, $constant, $operator] =
            self::mentioned($condition->left, $column) !== null
                ? [$condition->left, $condition->right, $condition->operator]
                : [$condition->right, $condition->left, self::TURNED[$condition->operator] ?? ''];
        $name = self::mentioned($wrapping, $column);
        $span = $name === null ? null : self::span($wrapping, $constant);
        if ($name === null || $span === null) {
            return null;
        }
        [$from, $to, $begins] = $span;
        $literal = static fn (int $day): string => ($type === 'date' ? 'DATE ' : 'TIMESTAMP ').
            "'".
            gmdate($type === 'date' ? 'Y-m-d' : 'Y-m-d 00:00:00', $day * 86400).
            "'";
        $path = $printer->path($name->parts);

        return match ($operator) {
            // An empty span, rather than FALSE, keeps what is said of NULL.
            '=' => "{$path} >= {$literal($from)} AND {$path} < {$literal($begins ? $to : $from)}",
            '<' => "{$path} < {$literal($begins ? $from : $to)}",
            '<=' => "{$path} < {$literal($to)}",
            '>' => "{$path} >= {$literal($to)}",
            '>=' => "{$path} >= {$literal($begins ? $from : $to)}",
            default => null,
        };
    }

    /**
     * The unit of time a constant lies in.
     *
     * @return array{int, int, bool}|null first day, day behind the last, whether the constant is its very beginning
     */
    private static function span(Expression $wrapping, Expression $constant): ?array
    {
        $unit = match (true) {
            $wrapping instanceof Cast && $wrapping->type->name === 'date' => 'day',
            $wrapping instanceof Call && $wrapping->name === 'date' => 'day',
            $wrapping instanceof Call && $wrapping->name === 'date_trunc' && $wrapping->arguments[0] instanceof TextLiteral => strtolower(
                $wrapping->arguments[0]->value,
            ),
            $wrapping instanceof Extract && $wrapping->unit === 'YEAR',
            $wrapping instanceof Call && $wrapping->name === 'year' => 'number of the year',
            default => null,
        };
        $inner =
            $wrapping instanceof Call
                ? $wrapping->arguments[count($wrapping->arguments) - 1] ?? null
                : ($wrapping instanceof Cast || $wrapping instanceof Extract
                    ? $wrapping->value
                    : null);
        if ($unit === null || ! ($inner instanceof ColumnName)) {
            return null;
        }
        if ($unit === 'number of the year') {
            $year = $constant instanceof NumberLiteral && ctype_digit($constant->text) ? (int) $constant->text : 0;

            return $year < 100 || $year > 9998 ? null : [self::day($year, 1, 1), self::day($year + 1, 1, 1), true];
        }
        $text = $constant instanceof TimeLiteral ? $constant->text : ($constant instanceof TextLiteral ? $constant->value : '');
        if (preg_match('~^(\d{4})-(\d{2})-(\d{2})(?: '
            .'00:00:00)?$~', $text, $m) !== 1 || ! checkdate((int) $m[2], (int) $m[3], (int) $m[1])) {
            return null;
        }
        [$year, $month] = [(int) $m[1], (int) $m[2]];
        $day = self::day($year, $month, (int) $m[3]);
        $quarter = $month - (($month - 1) % 3);
        // Weeks begin on Monday (ISO 8601); 1970 began on a Thursday.
        $monday = $day - (((($day + 3) % 7) + 7) % 7);
        $unit = match ($unit) {
            'day' => [$day, $day + 1],
            'week' => [$monday, $monday + 7],
            'month' => [self::day($year, $month, 1), self::day($year, $month + 1, 1)],
            'quarter' => [self::day($year, $quarter, 1), self::day($year, $quarter + 3, 1)],
            'year' => [self::day($year, 1, 1), self::day($year + 1, 1, 1)],
            default => null,
        };

        return $unit === null || $year < 101 || $year > 9998 ? null : [...$unit, $unit[0] === $day];
    }

    private static function day(int $year, int $month, int $day): int
    {
        return intdiv((int) gmmktime(0, 0, 0, $month, $day, $year), 86400);
    }
}
