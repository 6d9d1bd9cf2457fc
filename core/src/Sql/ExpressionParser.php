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

/**
 * Expressions, by precedence climbing (V. Pratt, "Top down operator precedence", 1973).
 *
 * @internal
 */
final readonly class ExpressionParser
{
    /** How strongly each infix operator binds. */
    public const BINDING = [
        'OR' => 1,
        'AND' => 2,
        '=' => 4,
        '==' => 4,
        '<>' => 4,
        '!=' => 4,
        '<' => 4,
        '>' => 4,
        '<=' => 4,
        '>=' => 4,
        '<=>' => 4,
        'IS' => 4,
        'IN' => 4,
        'LIKE' => 4,
        'ILIKE' => 4,
        'BETWEEN' => 4,
        'NOT' => 4,
        '||' => 5,
        '+' => 6,
        '-' => 6,
        '*' => 7,
        '/' => 7,
        '%' => 7,
        'DIV' => 7,
        'MOD' => 7,
        '::' => 9,
    ];

    public const NOT_BINDING = 3;

    public const SIGN_BINDING = 8;

    private const UNITS = [
        'MICROSECOND' => 1,
        'MILLISECOND' => 1,
        'SECOND' => 1,
        'MINUTE' => 1,
        'HOUR' => 1,
        'DAY' => 1,
        'WEEK' => 1,
        'MONTH' => 1,
        'QUARTER' => 1,
        'YEAR' => 1,
    ];

    private const TWO_WORD_TYPES = ['DOUBLE' => 'PRECISION', 'CHARACTER' => 'VARYING'];

    public function __construct(private Cursor $c, private QueryParser $queries)
    {
    }

    /**
     * @throws SyntaxError
     */
    public function expression(int $least = 0): Expression
    {
        $c = $this->c;
        $c->enter();
        $left = $this->prefix();
        while (true) {
            $word = $c->words[$c->i];
            $binding = self::BINDING[$word] ?? 0;
            if ($binding === 0 || $binding <= $least) {
                break;
            }
            if ($binding === 4) {
                $next = $this->comparison($left, $word);
                if ($next === null) {
                    break;
                }
                $left = $next;
            } elseif ($word === '::') {
                $c->i++;
                $left = new Cast($left->at, $left, $this->type());
            } else {
                $c->i++;
                $left = new Binary($left->at, $word === 'MOD' ? '%' : $word, $left, $this->expression($binding));
            }
        }
        $c->leave();

        return $left;
    }

    /**
     * @return non-empty-list<Expression>
     *
     * @throws SyntaxError
     */
    public function list(): array
    {
        $list = [$this->expression()];
        while ($this->c->words[$this->c->i] === ',') {
            $this->c->i++;
            $list[] = $this->expression();
        }

        return $list;
    }

    /**
     * @return non-empty-list<SortKey>
     *
     * @throws SyntaxError
     */
    public function sortKeys(): array
    {
        $keys = [];
        $c = $this->c;
        do {
            $value = $this->expression();
            $descending = $c->take('DESC');
            if (! $descending) {
                $c->take('ASC');
            }
            $nullsFirst = null;
            if ($c->take('NULLS')) {
                $nullsFirst = $c->take('FIRST');
                if (! $nullsFirst) {
                    $c->expect('LAST', 'behind NULLS');
                }
            }
            $keys[] = new SortKey($value->at, $value, $descending, $nullsFirst);
        } while ($c->take(','));

        return $keys;
    }

    /**
     * @throws SyntaxError
     */
    public function type(): TypeName
    {
        $c = $this->c;
        $at = $c->at();
        $second = self::TWO_WORD_TYPES[$c->words[$c->i]] ?? null;
        $name = strtolower($c->name('a type'));
        if ($second !== null && $c->take($second)) {
            $name .= ' '.strtolower($second);
        }
        $arguments = [];
        if ($c->take('(')) {
            do {
                if ($c->kinds[$c->i] !== 'n' || ! ctype_digit($c->texts[$c->i])) {
                    throw $c->expected('a whole number', "as the size of {$name}");
                }
                $arguments[] = (int) $c->texts[$c->i++];
            } while ($c->take(','));
            $c->expect(')');
        }
        if ($name === 'timestamp' || $name === 'time') {
            if ($c->is('WITHOUT') || ($c->is('WITH') && $c->words[$c->i + 1] === 'TIME')) {
                $zoned = $c->is('WITH');
                $c->i++;
                $c->expect('TIME');
                $c->expect('ZONE');
                $name .= $zoned ? ' with time zone' : '';
            }
        }

        return new TypeName($at, $name, $arguments);
    }

    /**
     * @throws SyntaxError
     */
    public function over(): Over
    {
        $c = $this->c;
        $at = $c->at();
        if (! $c->is('(')) {
            return new Over($at, [], [], null, $c->name('a window'));
        }
        $c->expect('(');
        $name = null;
        if (
            $c->kinds[$c->i] === 'q' ||
            ($c->kinds[$c->i] === 'w' && ! in_array($c->words[$c->i], ['PARTITION', 'ORDER', 'ROWS', 'RANGE', 'GROUPS'], true))
        ) {
            $name = $c->name('a window');
        }
        $partitionBy = [];
        $orderBy = [];
        if ($c->take('PARTITION')) {
            $c->expect('BY');
            $partitionBy = $this->list();
        }
        if ($c->take('ORDER')) {
            $c->expect('BY');
            $orderBy = $this->sortKeys();
        }
        $frame = null;
        if (! $c->is(')')) {
            if (! in_array($c->words[$c->i], ['ROWS', 'RANGE', 'GROUPS'], true)) {
                throw $c->expected('PARTITION BY, ORDER BY, ROWS, RANGE or ")"');
            }
            $words = [];
            while (! $c->is(')') && $c->kinds[$c->i] !== 'z') {
                $words[] = $c->kinds[$c->i] === 'w' ? $c->words[$c->i] : $c->texts[$c->i];
                $c->i++;
            }
            $frame = implode(' ', $words);
        }
        $c->expect(')');

        return new Over($at, $partitionBy, $orderBy, $frame, $name);
    }

    /**
     * What may follow a value at the level of comparisons; null when NOT begins something else.
     *
     * @throws SyntaxError
     */
    private function comparison(Expression $left, string $word): ?Expression
    {
        $c = $this->c;
        $negated = $word === 'NOT';
        if ($negated) {
            $word = $c->words[$c->i + 1];
            if ($word !== 'IN' && $word !== 'LIKE' && $word !== 'ILIKE' && $word !== 'BETWEEN') {
                return null;
            }
            $c->i++;
        }
        $c->i++;
        switch ($word) {
            case 'IS':
                return $this->test($left);
            case 'IN':
                return $this->in($left, $negated);
            case 'BETWEEN':
                $low = $this->expression(4);
                $c->expect('AND', 'of BETWEEN');

                return new Between($left->at, $left, $low, $this->expression(4), $negated);
            case 'LIKE':
            case 'ILIKE':
                $pattern = $this->expression(4);

                return new Like($left->at, $left, $pattern, $c->take('ESCAPE') ? $this->expression(4) : null, $negated, $word === 'ILIKE');
            case '<=>':
                return new DistinctTest($left->at, $left, $this->expression(4), true);
        }
        $operator = $word === '!=' ? '<>' : ($word === '==' ? '=' : $word);
        $next = $c->words[$c->i];
        if (($next === 'ANY' || $next === 'SOME' || $next === 'ALL') && $c->words[$c->i + 1] === '(') {
            $c->i++;
            $query = $this->queries->inBrackets();

            return new Quantified($left->at, $left, $operator, $next === 'ALL', $query);
        }

        return new Binary($left->at, $operator, $left, $this->expression(4));
    }

    /**
     * @throws SyntaxError
     */
    private function test(Expression $left): Expression
    {
        $c = $this->c;
        $negated = $c->take('NOT');
        if ($c->take('DISTINCT')) {
            $c->expect('FROM');

            return new DistinctTest($left->at, $left, $this->expression(4), $negated);
        }
        $what = match ($c->words[$c->i]) {
            'NULL', 'UNKNOWN' => null,
            'TRUE' => true,
            'FALSE' => false,
            default => throw $c->expected('NULL, TRUE, FALSE or DISTINCT FROM', 'behind IS'),
        };
        $c->i++;

        return new IsTest($left->at, $left, $what, $negated);
    }

    /**
     * @throws SyntaxError
     */
    private function in(Expression $left, bool $negated): Expression
    {
        $c = $this->c;
        if (! $c->is('(')) {
            throw $c->expected('"("', 'behind IN');
        }
        if ($this->queries->beginsQuery($c->i + 1)) {
            return new InQuery($left->at, $left, $this->queries->inBrackets(), $negated);
        }
        $c->i++;
        $items = $this->list();
        $c->expect(')', 'behind the list of IN');

        return new InList($left->at, $left, $items, $negated);
    }

    /**
     * @throws SyntaxError
     */
    private function prefix(): Expression
    {
        $c = $this->c;
        $i = $c->i;
        $at = $c->offsets[$i];
        switch ($c->kinds[$i]) {
            case 'n':
                $c->i++;

                return new NumberLiteral($at, $c->texts[$i]);
            case 't':
                $c->i++;

                return new TextLiteral($at, Cursor::unquote($c->texts[$i]));
            case 'p':
                $c->i++;

                return new Parameter($at, $c->texts[$i]);
            case 'q':
                return $this->column($at);
            case 'o':
                return $this->bracketOrSign($at, $c->words[$i]);
            case 'w':
                return $this->word($at, $c->words[$i]);
        }
        throw $c->expected('a value');
    }

    /**
     * @throws SyntaxError
     */
    private function bracketOrSign(int $at, string $operator): Expression
    {
        $c = $this->c;
        if ($operator === '(') {
            if ($this->queries->beginsQuery($c->i + 1)) {
                return new ScalarQuery($at, $this->queries->inBrackets());
            }
            $c->i++;
            $items = $this->list();
            $c->expect(')');

            return count($items) === 1 ? $items[0] : new Tuple($at, $items);
        }
        if ($operator === '-' || $operator === '+') {
            $c->i++;
            $operand = $this->expression(self::SIGN_BINDING - 1);

            return new Unary($at, $operator, $operand);
        }
        if ($operator === '*') {
            $c->i++;

            return new Star($at, []);
        }
        throw $c->expected('a value');
    }

    /**
     * @throws SyntaxError
     */
    private function word(int $at, string $word): Expression
    {
        $c = $this->c;
        switch ($word) {
            case 'NULL':
                $c->i++;

                return new NullLiteral($at);
            case 'TRUE':
            case 'FALSE':
                $c->i++;

                return new BooleanLiteral($at, $word === 'TRUE');
            case 'NOT':
                $c->i++;

                return new Unary($at, 'NOT', $this->expression(self::NOT_BINDING - 1));
            case 'CASE':
                return $this->caseOf($at);
            case 'EXISTS':
                $c->i++;

                return new Exists($at, $this->queries->inBrackets());
            case 'CAST':
                $c->i++;
                $c->expect('(');
                $value = $this->expression();
                $c->expect('AS', 'of CAST');
                $type = $this->type();
                $c->expect(')');

                return new Cast($at, $value, $type);
            case 'DATE':
            case 'TIMESTAMP':
                if ($c->kinds[$c->i + 1] === 't') {
                    $c->i += 2;

                    return new TimeLiteral($at, $word === 'TIMESTAMP', Cursor::unquote($c->texts[$c->i - 1]));
                }
                break;
            case 'INTERVAL':
                if ($c->words[$c->i + 1] !== '.' && $c->words[$c->i + 1] !== ',' && $c->words[$c->i + 1] !== ')') {
                    return $this->interval($at);
                }
                break;
            case 'EXTRACT':
                if ($c->words[$c->i + 1] === '(') {
                    $c->i += 2;
                    $unit = strtoupper($c->name('a unit'));
                    $c->expect('FROM', 'of EXTRACT');
                    $value = $this->expression();
                    $c->expect(')');

                    return new Extract($at, $unit, $value);
                }
                break;
            case 'CURRENT_DATE':
            case 'CURRENT_TIMESTAMP':
            case 'LOCALTIMESTAMP':
                if ($c->words[$c->i + 1] !== '(') {
                    $c->i++;

                    return new Call($at, strtolower($word), []);
                }
        }
        // LEFT(x, 2), RIGHT(x, 2) and their like are functions although the words are reserved.
        if ($c->words[$c->i + 1] === '(' && (! isset(Reserved::WORDS[$word]) || $word === 'LEFT' || $word === 'RIGHT')) {
            $c->i += 2;

            return $this->call($at, strtolower($c->texts[$c->i - 2]));
        }

        return $this->column($at);
    }

    /**
     * @throws SyntaxError
     */
    private function column(int $at): Expression
    {
        $c = $this->c;
        $parts = [$c->name('a value')];
        while ($c->words[$c->i] === '.') {
            $c->i++;
            if ($c->take('*')) {
                return new Star($at, $parts);
            }
            $parts[] = $c->partName('a column');
        }
        if ($c->words[$c->i] === '(' && count($parts) > 1) {
            $c->i++;

            return $this->call($at, strtolower(implode('.', $parts)));
        }

        return new ColumnName($at, $parts);
    }

    /**
     * @throws SyntaxError
     */
    private function call(int $at, string $name): Expression
    {
        $c = $this->c;
        $arguments = [];
        $orderBy = [];
        $distinct = false;
        if (! $c->take(')')) {
            $distinct = $c->take('DISTINCT');
            if (! $distinct) {
                $c->take('ALL');
            }
            if ($name === 'trim' && in_array($c->words[$c->i], ['LEADING', 'TRAILING', 'BOTH'], true)) {
                $name = ['LEADING' => 'ltrim', 'TRAILING' => 'rtrim', 'BOTH' => 'trim'][$c->words[$c->i]];
                $c->i++;
                $mark = $c->is('FROM') ? null : $this->expression();
                $c->expect('FROM', 'of TRIM');
                $arguments = $mark === null ? [$this->expression()] : [$this->expression(), $mark];
            } else {
                // The IN of POSITION(a IN b) is no membership test.
                $arguments[] = $this->expression($name === 'position' ? 4 : 0);
                if (($name === 'position' && $c->take('IN')) || (($name === 'substring' || $name === 'trim') && $c->take('FROM'))) {
                    $arguments[] = $this->expression();
                    if ($name === 'substring' && $c->take('FOR')) {
                        $arguments[] = $this->expression();
                    }
                    if ($name === 'trim') {
                        $arguments = [$arguments[1], $arguments[0]];
                    }
                }
                while ($c->words[$c->i] === ',') {
                    $c->i++;
                    $arguments[] = $this->expression();
                }
            }
            if ($c->take('ORDER')) {
                $c->expect('BY');
                $orderBy = $this->sortKeys();
            }
            if ($c->take('SEPARATOR')) {
                $arguments[] = $this->expression();
            }
            $c->expect(')', "behind the arguments of {$name}");
        }
        if ($c->follows('WITHIN', 'GROUP')) {
            $c->i += 2;
            $c->expect('(');
            $c->expect('ORDER');
            $c->expect('BY');
            $orderBy = $this->sortKeys();
            $c->expect(')');
        }
        $filter = null;
        if ($c->follows('FILTER', '(')) {
            $c->i += 2;
            $c->expect('WHERE');
            $filter = $this->expression();
            $c->expect(')');
        }

        return new Call($at, $name, $arguments, $distinct, $filter, $c->take('OVER') ? $this->over() : null, $orderBy);
    }

    /**
     * @throws SyntaxError
     */
    private function caseOf(int $at): Expression
    {
        $c = $this->c;
        $c->i++;
        $operand = $c->is('WHEN') ? null : $this->expression();
        $branches = [];
        while ($c->take('WHEN')) {
            $condition = $this->expression();
            $c->expect('THEN', 'of CASE');
            $branches[] = [$condition, $this->expression()];
        }
        if ($branches === []) {
            throw $c->expected('WHEN', 'of CASE');
        }
        $otherwise = $c->take('ELSE') ? $this->expression() : null;
        $c->expect('END', 'of CASE');

        return new CaseOf($at, $operand, $branches, $otherwise);
    }

    /**
     * @throws SyntaxError
     */
    private function interval(int $at): Expression
    {
        $c = $this->c;
        $c->i++;
        if (
            $c->kinds[$c->i] === 't' &&
            preg_match('~^\s*(-?\d+)\s+([A-Za-z]+?)s?\s*$~', Cursor::unquote($c->texts[$c->i]), $match) === 1 &&
            isset(self::UNITS[strtoupper($match[2])])
        ) {
            $c->i++;

            return new IntervalLiteral($at, new NumberLiteral($c->offsets[$c->i - 1], $match[1]), strtoupper($match[2]));
        }
        $amount =
            $c->kinds[$c->i] === 't' && is_numeric(Cursor::unquote($c->texts[$c->i]))
                ? new NumberLiteral($c->at(), Cursor::unquote($c->texts[$c->i++]))
                : $this->expression(self::SIGN_BINDING - 1);
        $unit = rtrim($c->words[$c->i], 'S');
        if (! isset(self::UNITS[$unit])) {
            throw $c->expected('a unit of time such as DAY', 'of INTERVAL');
        }
        $c->i++;

        return new IntervalLiteral($at, $amount, $unit);
    }
}
