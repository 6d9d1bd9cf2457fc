<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

use Fulcrion\Core\Sql\Ast\Call;
use Fulcrion\Core\Sql\Ast\ColumnName;
use Fulcrion\Core\Sql\Ast\Expression;
use Fulcrion\Core\Sql\Ast\NumberLiteral;
use Fulcrion\Core\Sql\Ast\TableOption;
use Fulcrion\Core\Sql\Ast\TextLiteral;

/**
 * How the layout of a table was written before version 0.5: as options of WITH. Such statements are refused with the spelling of
 * today named; what was kept of them is rewritten once.
 */
final readonly class FormerSpelling
{
    /**
     * The clauses that say what the options say; an option that cannot be told stays out.
     *
     * @param  list<TableOption>  $options
     */
    public static function clauses(array $options): string
    {
        $clauses = [];
        foreach ($options as $option) {
            $first = $option->values[0];
            $word = $first instanceof Call ? $first->name : self::plain($first);
            $names = self::names($first instanceof Call ? $first->arguments : $option->values);
            $clauses[] = match ($option->name) {
                'distribution' => ['hash' => "PLACED BY ({$names})", 'even' => 'PLACED EVENLY', 'copy' => 'PLACED EVERYWHERE'][$word] ?? '',
                'partition_by' => $first instanceof Call ? self::cut($first) : '',
                'clustering' => 'SORTED BY '.
                    (['zorder' => 'Z CURVE ', 'hilbert' => 'CURVE '][$first instanceof Call ? $word : ''] ?? '').
                    "({$names})",
                'chunk_rows' => "CHUNKS OF {$word} ROWS",
                'encodings' => self::encoded($word),
                'compression' => 'PACKED '.preg_replace('~(?<=[a-z])(?=\d)~', ' ', $word),
                default => '',
            };
        }
        $said = implode(' ', array_filter($clauses, static fn (string $clause): bool => $clause !== ''));

        return $said === '' ? 'PLACED BY (columns), CUT BY DAY OF column, SORTED BY (columns) and the like' : $said;
    }

    /**
     * A statement as it is written today; what is not a table laid out the old way stays as it is.
     *
     * @throws SyntaxError
     */
    public static function rewritten(string $sql, Dialect $dialect = Dialect::Ansi): string
    {
        $c = new Cursor($sql, new Lexer($dialect));
        if (! $c->take('CREATE')) {
            return $sql;
        }
        if ($c->follows('OR', 'REPLACE')) {
            $c->i += 2;
        }
        if (! $c->is('TABLE')) {
            return $sql;
        }
        for ($depth = 0; $c->kinds[$c->i] !== 'z' && ! ($depth === 0 && ($c->is('WITH') || $c->is('AS'))); $c->i++) {
            $depth += $c->is('(') ? 1 : ($c->is(')') ? -1 : 0);
        }
        $at = $c->at();
        if (! $c->take('WITH') || ! $c->is('(')) {
            return $sql;
        }
        $clauses = self::clauses(OptionParser::read($c, new QueryParser($c)));

        return substr($sql, 0, $at).$clauses.($c->kinds[$c->i] === 'z' ? '' : ' '.substr($sql, $c->at()));
    }

    private static function cut(Call $call): string
    {
        $column = self::names(array_slice($call->arguments, 0, 1));
        $span = isset($call->arguments[1]) ? self::plain($call->arguments[1]) : '';

        return $call->name === 'list' || $span === ''
            ? "CUT BY VALUE OF {$column}"
            : (ctype_digit($span)
                ? "CUT EVERY {$span} OF {$column}"
                : 'CUT BY '.strtoupper($span)." OF {$column}");
    }

    private static function encoded(string $words): string
    {
        $pairs = array_map(
            static fn (string $pair): string => implode(' AS ', array_map(trim(...), explode(':', $pair, 2))),
            explode(',', $words),
        );

        return $words === '' ? '' : 'ENCODED ('.implode(', ', $pairs).')';
    }

    /**
     * @param  list<Expression>  $expressions
     */
    private static function names(array $expressions): string
    {
        $printer = new Printer();

        return implode(
            ', ',
            array_map(
                static fn (Expression $e): string => $e instanceof ColumnName ? $printer->name($e->parts[0]) : self::plain($e),
                $expressions,
            ),
        );
    }

    private static function plain(Expression $e): string
    {
        return match (true) {
            $e instanceof ColumnName => strtolower($e->parts[0]),
            $e instanceof NumberLiteral => $e->text,
            $e instanceof TextLiteral => $e->value,
            default => '',
        };
    }
}
