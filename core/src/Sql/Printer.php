<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

use Fulcrion\Core\Sql\Ast\Between;
use Fulcrion\Core\Sql\Ast\Binary;
use Fulcrion\Core\Sql\Ast\BooleanLiteral;
use Fulcrion\Core\Sql\Ast\Call;
use Fulcrion\Core\Sql\Ast\CaseOf;
use Fulcrion\Core\Sql\Ast\Cast;
use Fulcrion\Core\Sql\Ast\ColumnName;
use Fulcrion\Core\Sql\Ast\DistinctTest;
use Fulcrion\Core\Sql\Ast\Exists;
use Fulcrion\Core\Sql\Ast\Expression;
use Fulcrion\Core\Sql\Ast\Extract;
use Fulcrion\Core\Sql\Ast\InList;
use Fulcrion\Core\Sql\Ast\InQuery;
use Fulcrion\Core\Sql\Ast\IntervalLiteral;
use Fulcrion\Core\Sql\Ast\IsTest;
use Fulcrion\Core\Sql\Ast\LayoutClauses;
use Fulcrion\Core\Sql\Ast\Like;
use Fulcrion\Core\Sql\Ast\NullLiteral;
use Fulcrion\Core\Sql\Ast\NumberLiteral;
use Fulcrion\Core\Sql\Ast\Over;
use Fulcrion\Core\Sql\Ast\Parameter;
use Fulcrion\Core\Sql\Ast\Quantified;
use Fulcrion\Core\Sql\Ast\ScalarQuery;
use Fulcrion\Core\Sql\Ast\SortKey;
use Fulcrion\Core\Sql\Ast\Star;
use Fulcrion\Core\Sql\Ast\TextLiteral;
use Fulcrion\Core\Sql\Ast\TimeLiteral;
use Fulcrion\Core\Sql\Ast\Tuple;
use Fulcrion\Core\Sql\Ast\TypeName;
use Fulcrion\Core\Sql\Ast\Unary;
use LogicException;

/**
 * From syntax trees back to SQL on one line. Reading the result gives the same tree.
 */
final readonly class Printer
{
    private QueryPrinter $queries;

    public function __construct(private Dialect $dialect = Dialect::Ansi)
    {
        $this->queries = new QueryPrinter($this);
    }

    public function layout(LayoutClauses $layout): string
    {
        return $this->queries->layout($layout);
    }

    public function statement(Ast\Statement $statement): string
    {
        return $this->queries->statement($statement);
    }

    public function expression(Expression $e): string
    {
        return match (true) {
            $e instanceof ColumnName => $this->path($e->parts),
            $e instanceof NumberLiteral => $e->text,
            $e instanceof TextLiteral => $this->text($e->value),
            $e instanceof NullLiteral => 'NULL',
            $e instanceof BooleanLiteral => $e->value ? 'TRUE' : 'FALSE',
            $e instanceof TimeLiteral => ($e->withTime ? 'TIMESTAMP ' : 'DATE ').$this->text($e->text),
            $e instanceof IntervalLiteral => 'INTERVAL '.
                ($e->amount instanceof NumberLiteral
                    ? $this->text($e->amount->text)
                    : $this->inside($e->amount, ExpressionParser::SIGN_BINDING - 1)).
                ' '.
                $e->unit,
            $e instanceof Parameter => $e->text,
            $e instanceof Star => $e->qualifier === [] ? '*' : $this->path($e->qualifier).'.*',
            $e instanceof Unary => $e->operator === 'NOT'
                ? 'NOT '.$this->inside($e->operand, ExpressionParser::NOT_BINDING - 1)
                : $e->operator.($e->operand instanceof Unary ? ' ' : '').$this->inside($e->operand, ExpressionParser::SIGN_BINDING - 1),
            $e instanceof Binary => $this->binary($e),
            $e instanceof Between => $this->operand($e->value).
                $this->not($e->negated).
                ' BETWEEN '.
                $this->operand($e->low).
                ' AND '.
                $this->operand($e->high),
            $e instanceof InList => $this->operand($e->value).$this->not($e->negated).' IN ('.$this->list($e->items).')',
            $e instanceof InQuery => $this->operand($e->value).$this->not($e->negated).' IN ('.$this->statement($e->query).')',
            $e instanceof Like => $this->operand($e->value).
                $this->not($e->negated).
                ($e->anyCase ? ' ILIKE ' : ' LIKE ').
                $this->operand($e->pattern).
                ($e->escape === null ? '' : ' ESCAPE '.$this->operand($e->escape)),
            $e instanceof IsTest => $this->inside($e->value, 3).
                ' IS '.
                ($e->negated ? 'NOT ' : '').
                ($e->what === null ? 'NULL' : ($e->what ? 'TRUE' : 'FALSE')),
            $e instanceof DistinctTest => $this->inside($e->left, 3).
                ' IS '.
                ($e->negated ? 'NOT ' : '').
                'DISTINCT FROM '.
                $this->operand($e->right),
            $e instanceof CaseOf => $this->caseOf($e),
            $e instanceof Cast => 'CAST('.$this->expression($e->value).' AS '.$this->type($e->type).')',
            $e instanceof Extract => "EXTRACT({$e->unit} FROM ".$this->expression($e->value).')',
            $e instanceof Call => $this->call($e),
            $e instanceof Exists => 'EXISTS ('.$this->statement($e->query).')',
            $e instanceof ScalarQuery => '('.$this->statement($e->query).')',
            $e instanceof Quantified => $this->operand($e->value).
                " {$e->operator} ".
                ($e->all ? 'ALL' : 'ANY').
                ' ('.
                $this->statement($e->query).
                ')',
            $e instanceof Tuple => '('.$this->list($e->items).')',
            default => throw new LogicException($e::class),
        };
    }

    /**
     * @param  list<Expression>  $items
     */
    public function list(array $items): string
    {
        return implode(', ', array_map($this->expression(...), $items));
    }

    /**
     * @param  list<SortKey>  $keys
     */
    public function sortKeys(array $keys): string
    {
        return implode(
            ', ',
            array_map(
                fn (SortKey $key): string => $this->expression($key->value).
                    ($key->descending ? ' DESC' : '').
                    ($key->nullsFirst === null ? '' : ($key->nullsFirst ? ' NULLS FIRST' : ' NULLS LAST')),
                $keys,
            ),
        );
    }

    /**
     * @param  list<string>  $parts
     */
    public function path(array $parts): string
    {
        return implode('.', array_map($this->name(...), $parts));
    }

    public function name(string $name): string
    {
        if (preg_match('~^[A-Za-z_]\w*$~', $name) === 1 && ! isset(Reserved::WORDS[strtoupper($name)]) && ! Keywords::has($name)) {
            return $name;
        }
        $quote = $this->dialect === Dialect::MariaDb ? '`' : '"';

        return $quote.str_replace($quote, $quote.$quote, $name).$quote;
    }

    public function text(string $value): string
    {
        $value = str_replace("'", "''", $value);

        return "'".($this->dialect === Dialect::MariaDb ? str_replace('\\', '\\\\', $value) : $value)."'";
    }

    public function type(TypeName $type): string
    {
        $zone = ' with time zone';
        $arguments = $type->arguments === [] ? '' : '('.implode(', ', $type->arguments).')';

        return str_ends_with($type->name, $zone) ? substr($type->name, 0, -strlen($zone)).$arguments.$zone : $type->name.$arguments;
    }

    public function over(Over $over): string
    {
        if ($over->name !== null && $over->partitionBy === [] && $over->orderBy === [] && $over->frame === null) {
            return $this->name($over->name);
        }

        return '('.
            implode(
                ' ',
                array_filter(
                    [
                        $over->name === null ? '' : $this->name($over->name),
                        $over->partitionBy === [] ? '' : 'PARTITION BY '.$this->list($over->partitionBy),
                        $over->orderBy === [] ? '' : 'ORDER BY '.$this->sortKeys($over->orderBy),
                        $over->frame ?? '',
                    ],
                    static fn (string $part): bool => $part !== '',
                ),
            ).
            ')';
    }

    private function binary(Binary $e): string
    {
        $binding = ExpressionParser::BINDING[$e->operator];

        // Comparisons do not chain, the others lean to the left.
        return $this->inside($e->left, $binding === 4 ? 4 : $binding - 1)." {$e->operator} ".$this->inside($e->right, $binding);
    }

    private function operand(Expression $e): string
    {
        return $this->inside($e, 4);
    }

    private function inside(Expression $e, int $least): string
    {
        $text = $this->expression($e);

        return self::strength($e) > $least ? $text : "({$text})";
    }

    private static function strength(Expression $e): int
    {
        return match (true) {
            $e instanceof Binary => ExpressionParser::BINDING[$e->operator],
            $e instanceof Between,
            $e instanceof InList,
            $e instanceof InQuery,
            $e instanceof Like,
            $e instanceof IsTest,
            $e instanceof DistinctTest,
            $e instanceof Quantified => 4,
            $e instanceof Unary => $e->operator === 'NOT' ? ExpressionParser::NOT_BINDING : ExpressionParser::SIGN_BINDING,
            default => 10,
        };
    }

    private function not(bool $negated): string
    {
        return $negated ? ' NOT' : '';
    }

    private function caseOf(CaseOf $e): string
    {
        $text = 'CASE'.($e->operand === null ? '' : ' '.$this->expression($e->operand));
        foreach ($e->branches as [$condition, $result]) {
            $text .= ' WHEN '.$this->expression($condition).' THEN '.$this->expression($result);
        }

        return $text.($e->otherwise === null ? '' : ' ELSE '.$this->expression($e->otherwise)).' END';
    }

    private function call(Call $e): string
    {
        $bare = ['current_date' => 1, 'current_timestamp' => 1, 'localtimestamp' => 1];
        if ($e->arguments === [] && isset($bare[$e->name])) {
            return strtoupper($e->name);
        }
        $text =
            $e->name.
            '('.
            ($e->distinct ? 'DISTINCT ' : '').
            $this->list($e->arguments).
            ($e->orderBy === [] ? '' : ' ORDER BY '.$this->sortKeys($e->orderBy)).
            ')';

        return $text.
            ($e->filter === null ? '' : ' FILTER (WHERE '.$this->expression($e->filter).')').
            ($e->over === null ? '' : ' OVER '.$this->over($e->over));
    }
}
