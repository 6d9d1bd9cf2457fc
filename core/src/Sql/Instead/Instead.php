<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sql\Instead;

use Closure;
use Fulcrion\Core\Sql\Aggregates;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Names\TableNames;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\Printer;
use Fulcrion\Core\Sql\RangeRewrites;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Sql\Tree;

/**
 * What a statement could be written as where an engine will not find it by itself. Each suggestion means the same; that
 * is tried on data before anybody is asked to believe it.
 */
final readonly class Instead
{
    private Parser $parser;

    private Printer $printer;

    /**
     * @param  array<string, array<string, string>>  $tables schema.table => column => name of its type, small letters
     */
    public function __construct(private array $tables, private Dialect $dialect = Dialect::Ansi)
    {
        $this->parser = new Parser($dialect);
        $this->printer = new Printer($dialect);
    }

    /**
     * @return list<Suggestion>
     *
     * @throws SyntaxError
     */
    public function of(string $sql, string $schema): array
    {
        $statement = $this->parser->statement($sql);
        if (! ($statement instanceof Ast\Query)) {
            return [];
        }
        $found = [];
        $spans = $this->spans($sql, $statement, $schema);
        if ($spans !== null) {
            $found[] = new Suggestion(
                'span',
                'Say the filter as a span of the column',
                'A function around a column keeps bounds of chunks, and indexes, from being held against the filter.',
                $spans,
            );
        }
        $select = $statement->body;
        if ($select instanceof Ast\Select) {
            $ways = [
                [
                    'branches',
                    'Ask for each side of OR by itself',
                    'OR over different columns can use the bounds or index of neither; two statements put together use one each. The '
                        .'second leaves out what the first has given.',
                    $this->branches($statement, $select),
                ],
                [
                    'join',
                    'Join the subquery instead of asking it row by row',
                    'A subquery that depends on the row is run again for every value; grouped once and joined, it is run once.',
                    $this->joined($statement, $select, $schema),
                ],
                [
                    'exists',
                    'Ask whether there is a match instead of joining and taking repeats out',
                    'The join makes a row for every match, and DISTINCT takes them out again; EXISTS stops at the first.',
                    $this->exists($statement, $select, $schema),
                ],
                [
                    'columns',
                    'Name the columns',
                    'SELECT * reads every column, also those nobody looks at, and changes its answer when a column is added. Leave out '
                        .'what you do not need.',
                    $this->named($statement, $select, $schema),
                ],
            ];
            foreach ($ways as [$id, $title, $why, $query]) {
                if ($query !== null) {
                    $found[] = new Suggestion($id, $title, $why, $this->printer->statement($query));
                }
            }
        }

        return $found;
    }

    /**
     * @throws SyntaxError
     */
    private function spans(string $sql, Ast\Query $statement, string $schema): ?string
    {
        $types = [];
        foreach (Tree::nodes($statement) as $node) {
            if ($node instanceof Ast\TableName) {
                $types += array_filter(
                    $this->tables[$this->path($node, $schema)] ?? [],
                    static fn (string $type): bool => $type === 'timestamp' || $type === 'date',
                );
            }
        }

        return $types === [] ? null : RangeRewrites::statement($sql, $types, $this->dialect);
    }

    /** WHERE rest AND (a OR b), over different columns. */
    private function branches(Ast\Query $query, Ast\Select $s): ?Ast\Query
    {
        if (
            $s->where === null ||
            ! $this->isPlain($s) ||
            $query->orderBy !== [] ||
            $query->limit !== null ||
            $query->offset !== null ||
            $query->with !== []
        ) {
            return null;
        }
        $conjuncts = self::conjuncts($s->where);
        foreach ($conjuncts as $i => $or) {
            if (! ($or instanceof Ast\Binary) || $or->operator !== 'OR') {
                continue;
            }
            [$a, $b] = [self::columns($or->left), self::columns($or->right)];
            if ($a === [] || $b === [] || array_intersect($a, $b) !== []) {
                continue;
            }
            $rest = array_values(array_diff_key($conjuncts, [$i => true]));
            // Also a condition that is neither true nor false keeps its row from the first branch.
            $not = new Ast\IsTest($or->at, $or->left, true, true);

            return new Ast\Query(
                $query->at,
                [],
                false,
                new Ast\SetOperation(
                    $s->at,
                    'UNION',
                    true,
                    self::where($s, [...$rest, $or->left]),
                    self::where($s, [...$rest, $or->right, $not]),
                ),
                [],
                null,
                null,
            );
        }

        return null;
    }

    /** SELECT ..., (SELECT aggregate FROM t WHERE t.k = o.k AND more) FROM o. */
    private function joined(Ast\Query $query, Ast\Select $s, string $schema): ?Ast\Query
    {
        if ($s->from === null || ! $this->isPlain($s) || $s->distinct) {
            return null;
        }
        foreach ($s->items as $number => $item) {
            [$inner, $call] = self::aggregated($item->value) ?? [null, null];
            if ($inner === null || $call === null || ! ($inner->from instanceof Ast\TableName) || $inner->where === null) {
                continue;
            }
            $own = TableNames::alias($inner->from);
            $columns = $this->tables[$this->path($inner->from, $schema)] ?? [];
            $isOwn = static fn (Ast\Expression $e): bool => $e instanceof Ast\ColumnName &&
                (count($e->parts) > 1 ? strtolower($e->parts[count($e->parts) - 2]) === $own : isset($columns[strtolower($e->parts[0])]));
            [$keys, $kept] = self::split($inner->where, $isOwn) ?? [[], []];
            if ($keys === []) {
                continue;
            }
            $alias = 'per_'.$own;
            $at = $s->at;
            $items = $groups = [];
            $on = null;
            foreach ($keys as $i => [$mine, $theirs]) {
                $items[] = new Ast\SelectItem($at, $mine, "key_{$i}");
                $groups[] = $mine;
                $equal = new Ast\Binary($at, '=', new Ast\ColumnName($at, [$alias, "key_{$i}"]), $theirs);
                $on = $on === null ? $equal : new Ast\Binary($at, 'AND', $on, $equal);
            }
            $items[] = new Ast\SelectItem($at, $call, 'answer');
            $grouped = new Ast\Select($at, false, $items, $inner->from, self::all($kept), $groups, null, null, null, []);
            $value = new Ast\ColumnName($at, [$alias, 'answer']);
            // No match counts as none, but sums to nothing.
            $shown = $call->name === 'count' ? new Ast\Call($at, 'coalesce', [$value, new Ast\NumberLiteral($at, '0')]) : $value;
            $outer = $s->items;
            $outer[$number] = new Ast\SelectItem($item->at, $shown, $item->alias ?? $call->name);
            $from = new Ast\Join(
                $at,
                Ast\JoinKind::Left,
                $s->from,
                new Ast\DerivedTable($at, new Ast\Query($at, [], false, $grouped, [], null, null), $alias, [], false),
                $on,
                [],
                false,
            );

            return new Ast\Query(
                $query->at,
                $query->with,
                $query->recursive,
                new Ast\Select(
                    $s->at,
                    $s->distinct,
                    array_values($outer),
                    $from,
                    $s->where,
                    $s->groupBy,
                    $s->grouping,
                    $s->having,
                    $s->qualify,
                    $s->windows,
                ),
                $query->orderBy,
                $query->limit,
                $query->offset,
            );
        }

        return null;
    }

    /**
     * @return array{Ast\Select, Ast\Call}|null a subquery that gives one plain aggregate, and that
     */
    private static function aggregated(mixed $value): ?array
    {
        $inner = $value instanceof Ast\ScalarQuery && $value->query->body instanceof Ast\Select ? $value->query->body : null;
        $call = $inner?->items[0]->value ?? null;

        return $inner === null ||
            ! ($call instanceof Ast\Call) ||
            $call->name === 'approx_count_distinct' ||
            ! in_array($call->name, Aggregates::PLAIN, true) ||
            $inner->groupBy !== [] ||
            $inner->having !== null ||
            count($inner->items) !== 1
            ? null
            : [$inner, $call];
    }

    /**
     * @param  Closure(Ast\Expression): bool  $isOwn whether it is a column of the inner table
     * @return array{list<array{Ast\ColumnName, Ast\ColumnName}>, list<Ast\Expression>}|null columns that are compared with outer
     *     ones, and conditions on inner ones alone; null where there are others
     */
    private static function split(Ast\Expression $where, Closure $isOwn): ?array
    {
        $keys = $kept = [];
        foreach (self::conjuncts($where) as $condition) {
            $sides = $condition instanceof Ast\Binary && $condition->operator === '=' ? [$condition->left, $condition->right] : [];
            if (
                $sides !== [] &&
                $isOwn($sides[0]) !== $isOwn($sides[1]) &&
                $sides[0] instanceof Ast\ColumnName &&
                $sides[1] instanceof Ast\ColumnName
            ) {
                $keys[] = $isOwn($sides[0]) ? $sides : array_reverse($sides);
            } elseif (array_filter(self::names($condition), static fn (Ast\ColumnName $c): bool => ! $isOwn($c)) === []) {
                $kept[] = $condition;
            } else {
                return null;
            }
        }

        return [$keys, $kept];
    }

    /** SELECT DISTINCT columns of a FROM a JOIN b ON ... */
    private function exists(Ast\Query $query, Ast\Select $s, string $schema): ?Ast\Query
    {
        $join = $s->from;
        if (
            ! $s->distinct ||
            ! ($join instanceof Ast\Join) ||
            $join->kind !== Ast\JoinKind::Inner ||
            $join->on === null ||
            $join->natural ||
            ! ($join->left instanceof Ast\TableName) ||
            ! ($join->right instanceof Ast\TableName) ||
            $s->groupBy !== [] ||
            $s->having !== null
        ) {
            return null;
        }
        foreach ([[$join->left, $join->right], [$join->right, $join->left]] as [$kept, $asked]) {
            $name = TableNames::alias($asked);
            [$its, $others] = [$this->tables[$this->path($asked, $schema)] ?? [], $this->tables[$this->path($kept, $schema)] ?? []];
            $of = static fn (Ast\ColumnName $c): bool => count($c->parts) > 1
                ? strtolower($c->parts[count($c->parts) - 2]) === $name
                : isset($its[strtolower($c->parts[0])]) && ! isset($others[strtolower($c->parts[0])]);
            $uses = static fn (mixed $part): bool => array_filter(self::names($part), $of) !== [];
            $stars = array_filter(iterator_to_array(Tree::nodes($s->items), false), static fn (Ast\Node $n): bool =>
                $n instanceof Ast\Star);
            if ($its === [] || $uses($s->items) || $uses($query->orderBy) || $stars !== []) {
                continue;
            }
            $inside = self::conjuncts($join->on);
            $outside = [];
            foreach ($s->where === null ? [] : self::conjuncts($s->where) as $condition) {
                if ($uses($condition)) {
                    $inside[] = $condition;
                } else {
                    $outside[] = $condition;
                }
            }
            $at = $s->at;
            $inner = new Ast\Query(
                $at,
                [],
                false,
                new Ast\Select(
                    $at,
                    false,
                    [new Ast\SelectItem($at, new Ast\NumberLiteral($at, '1'), null)],
                    $asked,
                    self::all($inside),
                    [],
                    null,
                    null,
                    null,
                    [],
                ),
                [],
                null,
                null,
            );

            return new Ast\Query(
                $query->at,
                $query->with,
                $query->recursive,
                new Ast\Select(
                    $at,
                    true,
                    $s->items,
                    $kept,
                    self::all([...$outside, new Ast\Exists($at, $inner)]),
                    [],
                    null,
                    null,
                    $s->qualify,
                    $s->windows,
                ),
                $query->orderBy,
                $query->limit,
                $query->offset,
            );
        }

        return null;
    }

    private function named(Ast\Query $query, Ast\Select $s, string $schema): ?Ast\Query
    {
        if (count($s->items) !== 1 || ! ($s->items[0]->value instanceof Ast\Star) || ! ($s->from instanceof Ast\TableName)) {
            return null;
        }
        $columns = array_keys($this->tables[$this->path($s->from, $schema)] ?? []);
        if ($columns === []) {
            return null;
        }
        $items = array_map(
            static fn (string $name): Ast\SelectItem => new Ast\SelectItem($s->at, new Ast\ColumnName($s->at, [$name]), null),
            array_map(strval(...), $columns),
        );

        return new Ast\Query(
            $query->at,
            $query->with,
            $query->recursive,
            new Ast\Select(
                $s->at,
                $s->distinct,
                $items,
                $s->from,
                $s->where,
                $s->groupBy,
                $s->grouping,
                $s->having,
                $s->qualify,
                $s->windows,
            ),
            $query->orderBy,
            $query->limit,
            $query->offset,
        );
    }

    private function path(Ast\TableName $table, string $schema): string
    {
        return TableNames::path($table->parts, $schema);
    }

    /** Neither groups nor takes repeats out, so that each row of the answer comes from one of the tables. */
    private function isPlain(Ast\Select $s): bool
    {
        if ($s->groupBy !== [] || $s->having !== null || $s->distinct || $s->qualify !== null || $s->windows !== []) {
            return false;
        }
        foreach ($s->items as $item) {
            // What stands inside a subquery is the subquery's own.
            foreach ($item->value instanceof Ast\ScalarQuery ? [] : Tree::nodes($item->value) as $node) {
                if ($node instanceof Ast\Call && ($node->over !== null || Aggregates::is($node))) {
                    return false;
                }
            }
        }

        return true;
    }

    /**
     * @param  list<Ast\Expression>  $conditions
     */
    private static function where(Ast\Select $s, array $conditions): Ast\Select
    {
        return new Ast\Select(
            $s->at,
            $s->distinct,
            $s->items,
            $s->from,
            self::all($conditions),
            $s->groupBy,
            $s->grouping,
            $s->having,
            $s->qualify,
            $s->windows,
        );
    }

    /**
     * @param  list<Ast\Expression>  $conditions
     */
    private static function all(array $conditions): ?Ast\Expression
    {
        $all = null;
        foreach ($conditions as $condition) {
            $all = $all === null ? $condition : new Ast\Binary($condition->at, 'AND', $all, $condition);
        }

        return $all;
    }

    /**
     * @return list<Ast\Expression>
     */
    private static function conjuncts(Ast\Expression $e): array
    {
        return $e instanceof Ast\Binary && $e->operator === 'AND' ? [...self::conjuncts($e->left), ...self::conjuncts($e->right)] : [$e];
    }

    /**
     * @return list<Ast\ColumnName>
     */
    private static function names(mixed $part): array
    {
        return array_values(
            array_filter(iterator_to_array(Tree::nodes($part), false), static fn (Ast\Node $n): bool => $n instanceof Ast\ColumnName),
        );
    }

    /**
     * @return list<string>
     */
    private static function columns(mixed $part): array
    {
        return array_map(static fn (Ast\ColumnName $c): string => strtolower($c->parts[count($c->parts) - 1]), self::names($part));
    }
}
