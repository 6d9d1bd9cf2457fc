<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql;

use Fulcrion\Core\Sql\Ast\Call;
use Fulcrion\Core\Sql\Ast\CommonTable;
use Fulcrion\Core\Sql\Ast\DerivedTable;
use Fulcrion\Core\Sql\Ast\Expression;
use Fulcrion\Core\Sql\Ast\Join;
use Fulcrion\Core\Sql\Ast\JoinKind;
use Fulcrion\Core\Sql\Ast\NestedQuery;
use Fulcrion\Core\Sql\Ast\NumberLiteral;
use Fulcrion\Core\Sql\Ast\Query;
use Fulcrion\Core\Sql\Ast\QueryBody;
use Fulcrion\Core\Sql\Ast\Relation;
use Fulcrion\Core\Sql\Ast\Select;
use Fulcrion\Core\Sql\Ast\SelectItem;
use Fulcrion\Core\Sql\Ast\SetOperation;
use Fulcrion\Core\Sql\Ast\Star;
use Fulcrion\Core\Sql\Ast\TableCall;
use Fulcrion\Core\Sql\Ast\TableName;
use Fulcrion\Core\Sql\Ast\Tuple;
use Fulcrion\Core\Sql\Ast\ValuesList;

/**
 * Queries and what stands behind FROM, by recursive descent.
 *
 * @internal
 */
final class QueryParser
{
    public readonly ExpressionParser $expressions;

    public function __construct(private readonly Cursor $c)
    {
        $this->expressions = new ExpressionParser($c, $this);
    }

    /**
     * @throws SyntaxError
     */
    public function query(): Query
    {
        $c = $this->c;
        $c->enter();
        $at = $c->at();
        $with = [];
        $recursive = false;
        if ($c->take('WITH')) {
            $recursive = $c->take('RECURSIVE');
            do {
                $with[] = $this->commonTable();
            } while ($c->take(','));
        }
        $body = $this->body();
        $orderBy = [];
        if ($c->take('ORDER')) {
            $c->expect('BY');
            $orderBy = $this->expressions->sortKeys();
        }
        [$limit, $offset] = $this->limits();
        $c->leave();

        return new Query($at, $with, $recursive, $body, $orderBy, $limit, $offset);
    }

    /**
     * @throws SyntaxError
     */
    public function inBrackets(): Query
    {
        $this->c->expect('(');
        $query = $this->query();
        $this->c->expect(')', 'behind the query');

        return $query;
    }

    /** Whether a query begins at a token, possibly behind further brackets. */
    public function beginsQuery(int $i): bool
    {
        $words = $this->c->words;
        while ($words[$i] === '(') {
            $i++;
        }

        return $words[$i] === 'SELECT' || $words[$i] === 'WITH' || $words[$i] === 'VALUES';
    }

    /**
     * @throws SyntaxError
     */
    private function commonTable(): CommonTable
    {
        $c = $this->c;
        $at = $c->at();
        $name = $c->name('the name of a common table');
        $columns = $c->is('(') ? $c->namesInBrackets('a column') : [];
        $c->expect('AS', 'of WITH');
        if ($c->take('NOT')) {
            $c->expect('MATERIALIZED');
        } else {
            $c->take('MATERIALIZED');
        }

        return new CommonTable($at, $name, $columns, $this->inBrackets());
    }

    /**
     * @throws SyntaxError
     */
    private function body(): QueryBody
    {
        $left = $this->intersection();
        while (true) {
            $word = $this->c->words[$this->c->i];
            if ($word !== 'UNION' && $word !== 'EXCEPT' && $word !== 'MINUS') {
                return $left;
            }
            $this->c->i++;
            $all = $this->all();
            $left = new SetOperation($left->at, $word === 'MINUS' ? 'EXCEPT' : $word, $all, $left, $this->intersection());
        }
    }

    /**
     * @throws SyntaxError
     */
    private function intersection(): QueryBody
    {
        $left = $this->term();
        while ($this->c->take('INTERSECT')) {
            $all = $this->all();
            $left = new SetOperation($left->at, 'INTERSECT', $all, $left, $this->term());
        }

        return $left;
    }

    private function all(): bool
    {
        if ($this->c->take('ALL')) {
            return true;
        }
        $this->c->take('DISTINCT');

        return false;
    }

    /**
     * @throws SyntaxError
     */
    private function term(): QueryBody
    {
        $c = $this->c;
        $at = $c->at();
        if ($c->is('(')) {
            $query = $this->inBrackets();

            return $query->with === [] && $query->orderBy === [] && $query->limit === null && $query->offset === null
                ? $query->body
                : new NestedQuery($at, $query);
        }
        if ($c->take('VALUES')) {
            $rows = [];
            do {
                $c->take('ROW');
                $c->expect('(', 'of VALUES');
                $rows[] = $this->expressions->list();
                $c->expect(')');
            } while ($c->take(','));

            return new ValuesList($at, $rows);
        }

        return $this->select($at);
    }

    /**
     * @throws SyntaxError
     */
    private function select(int $at): Select
    {
        $c = $this->c;
        $c->expect('SELECT');
        $distinct = $c->take('DISTINCT');
        if (! $distinct) {
            $c->take('ALL');
        }
        $items = [];
        do {
            $items[] = $this->item();
        } while ($c->take(','));
        $from = $c->take('FROM') ? $this->relations() : null;
        $where = $c->take('WHERE') ? $this->expressions->expression() : null;
        $groupBy = [];
        $grouping = null;
        if ($c->take('GROUP')) {
            $c->expect('BY');
            [$groupBy, $grouping] = $this->groups();
        }
        $having = $c->take('HAVING') ? $this->expressions->expression() : null;
        $windows = [];
        if ($c->take('WINDOW')) {
            do {
                $name = $c->name('a window');
                $c->expect('AS');
                $windows[$name] = $this->expressions->over();
            } while ($c->take(','));
        }
        $qualify = $c->take('QUALIFY') ? $this->expressions->expression() : null;

        return new Select($at, $distinct, $items, $from, $where, $groupBy, $grouping, $having, $qualify, $windows);
    }

    /**
     * @throws SyntaxError
     */
    private function item(): SelectItem
    {
        $c = $this->c;
        $at = $c->at();
        $value = $this->expressions->expression();

        return new SelectItem($at, $value, $value instanceof Star ? null : $this->alias());
    }

    /**
     * @throws SyntaxError
     */
    private function alias(): ?string
    {
        $c = $this->c;
        if ($c->take('AS')) {
            return $c->kinds[$c->i] === 't' ? $c->text('an alias') : $c->partName('an alias');
        }
        $kind = $c->kinds[$c->i];

        return $kind === 'q' || ($kind === 'w' && ! isset(Reserved::WORDS[$c->words[$c->i]])) ? $c->name('an alias') : null;
    }

    /**
     * @return array{list<Expression>, string|null}
     *
     * @throws SyntaxError
     */
    private function groups(): array
    {
        $c = $this->c;
        $word = $c->words[$c->i];
        if (($word === 'ROLLUP' || $word === 'CUBE') && $c->words[$c->i + 1] === '(') {
            $c->i += 2;
            $list = $this->expressions->list();
            $c->expect(')');

            return [$list, $word];
        }
        if ($c->follows('GROUPING', 'SETS')) {
            $c->i += 2;
            $c->expect('(');
            $sets = [];
            do {
                $at = $c->at();
                if ($c->follows('(', ')')) {
                    $c->i += 2;
                    $sets[] = new Tuple($at, []);
                } else {
                    $sets[] = $this->expressions->expression();
                }
            } while ($c->take(','));
            $c->expect(')');

            return [$sets, 'GROUPING SETS'];
        }
        $list = $this->expressions->list();
        if ($c->follows('WITH', 'ROLLUP')) {
            $c->i += 2;

            return [$list, 'ROLLUP'];
        }

        return [$list, null];
    }

    /**
     * @return array{Expression|null, Expression|null}
     *
     * @throws SyntaxError
     */
    private function limits(): array
    {
        $c = $this->c;
        $limit = null;
        $offset = null;
        while (true) {
            if ($limit === null && $c->take('LIMIT')) {
                if ($c->take('ALL')) {
                    continue;
                }
                $limit = $this->expressions->expression();
                if ($c->take(',')) {
                    [$offset, $limit] = [$limit, $this->expressions->expression()];
                }
            } elseif ($offset === null && $c->take('OFFSET')) {
                $offset = $this->expressions->expression();
                if ($c->is('ROW') || $c->is('ROWS')) {
                    $c->i++;
                }
            } elseif ($limit === null && $c->take('FETCH')) {
                if (! $c->take('FIRST')) {
                    $c->expect('NEXT', 'behind FETCH');
                }
                $limit = $c->is('ROW') || $c->is('ROWS') ? new NumberLiteral($c->at(), '1') : $this->expressions->expression();
                if (! $c->take('ROW')) {
                    $c->expect('ROWS', 'of FETCH');
                }
                $c->expect('ONLY', 'of FETCH');
            } else {
                return [$limit, $offset];
            }
        }
    }

    /**
     * @throws SyntaxError
     */
    private function relations(): Relation
    {
        $left = $this->joined();
        while ($this->c->take(',')) {
            $left = new Join($left->at, JoinKind::Cross, $left, $this->joined(), null, [], false);
        }

        return $left;
    }

    /**
     * @throws SyntaxError
     */
    private function joined(): Relation
    {
        $c = $this->c;
        $left = $this->relation();
        while (true) {
            $natural = $c->take('NATURAL');
            $kind = $this->joinKind();
            if ($kind === null) {
                if ($natural) {
                    throw $c->expected('JOIN', 'behind NATURAL');
                }

                return $left;
            }
            $right = $this->relation();
            // A join in the middle takes its condition after the joins inside it: a JOIN b JOIN c ON .. ON ..
            $on = null;
            $using = [];
            if ($kind !== JoinKind::Cross && ! $natural) {
                if ($c->take('ON')) {
                    $on = $this->expressions->expression();
                } elseif ($c->take('USING')) {
                    $using = $c->namesInBrackets('a column');
                } elseif ($kind === JoinKind::Inner) {
                    throw $c->expected('ON or USING', 'of the join (a join without a condition is a CROSS JOIN)');
                } else {
                    throw $c->expected('ON or USING', 'of the join');
                }
            }
            $left = new Join($left->at, $kind, $left, $right, $on, $using, $natural);
        }
    }

    /**
     * @throws SyntaxError
     */
    private function joinKind(): ?JoinKind
    {
        $c = $this->c;
        $kind = match ($c->words[$c->i]) {
            'JOIN', 'INNER', 'STRAIGHT_JOIN' => JoinKind::Inner,
            'LEFT' => JoinKind::Left,
            'RIGHT' => JoinKind::Right,
            'FULL' => JoinKind::Full,
            'CROSS' => JoinKind::Cross,
            default => null,
        };
        if ($kind === null) {
            return null;
        }
        if ($c->words[$c->i] !== 'JOIN' && $c->words[$c->i] !== 'STRAIGHT_JOIN') {
            $c->i++;
            if ($kind === JoinKind::Left || $kind === JoinKind::Right || $kind === JoinKind::Full) {
                $c->take('OUTER');
            }
            if (! $c->is('JOIN')) {
                throw $c->expected('JOIN');
            }
        }
        $c->i++;

        return $kind;
    }

    /**
     * @throws SyntaxError
     */
    private function relation(): Relation
    {
        $c = $this->c;
        $at = $c->at();
        $lateral = $c->take('LATERAL');
        if ($c->is('(')) {
            if ($this->beginsQuery($c->i + 1) && $this->isQueryNotJoin()) {
                $query = $this->inBrackets();
                $alias = $this->alias();
                if ($alias === null) {
                    throw $c->expected('an alias', 'for the derived table');
                }

                return new DerivedTable($at, $query, $alias, $c->words[$c->i] === '(' ? $c->namesInBrackets('a column') : [], $lateral);
            }
            $c->i++;
            $inner = $this->relations();
            $c->expect(')');

            return $inner;
        }
        $parts = $c->path('a table or "("');
        if ($c->words[$c->i] === '(') {
            $c->i++;
            $arguments = $c->is(')') ? [] : $this->expressions->list();
            $c->expect(')');

            return new TableCall($at, new Call($at, strtolower(implode('.', $parts)), $arguments), $this->alias());
        }
        // Versions of tables as ISO/IEC 9075-2 names them.
        $asOf = null;
        if ($c->follows('FOR', 'SYSTEM_TIME')) {
            $c->i += 2;
            $c->expect('AS');
            $c->expect('OF');
            $asOf = $this->expressions->expression();
        }
        $alias = $this->alias();

        return new TableName(
            $at,
            $parts,
            $alias,
            $alias !== null && $c->words[$c->i] === '(' ? $c->namesInBrackets('a column') : [],
            $asOf,
        );
    }

    /** "((SELECT ...) a JOIN ...)" opens with brackets around a join, not around a query. */
    private function isQueryNotJoin(): bool
    {
        $words = $this->c->words;
        if ($words[$this->c->i + 1] !== '(') {
            return true;
        }
        $depth = 0;
        for ($i = $this->c->i + 1; $this->c->kinds[$i] !== 'z'; $i++) {
            if ($words[$i] === '(') {
                $depth++;
            } elseif ($words[$i] === ')' && --$depth === 0) {
                return in_array($words[$i + 1], [')', 'UNION', 'INTERSECT', 'EXCEPT', 'MINUS', 'ORDER', 'LIMIT', 'OFFSET'], true);
            }
        }

        return true;
    }
}
