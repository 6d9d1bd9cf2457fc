<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Indexes;

use Closure;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Names\TableNames;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\Printer;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Sql\Tree;

/**
 * Reads from the text of a statement which columns it compares, sorts and groups by.
 */
final readonly class IndexReachReader
{
    private Parser $parser;

    private Printer $printer;

    /**
     * @param  array<string, IndexedTable>  $tables by schema.table
     */
    public function __construct(private array $tables, Dialect $dialect = Dialect::MariaDb)
    {
        $this->parser = new Parser($dialect);
        $this->printer = new Printer($dialect);
    }

    /**
     * @return list<IndexReach> of all queries of the statement
     */
    public function read(string $sql, string $schema): array
    {
        return array_merge(...array_map(static fn (QueryReach $query): array => $query->members, $this->queries($sql, $schema)));
    }

    /**
     * @return list<QueryReach>
     */
    public function queries(string $sql, string $schema): array
    {
        try {
            $statement = $this->parser->statement($sql);
        } catch (SyntaxError) {
            return [];
        }
        $found = [];
        if (($statement instanceof Ast\Update || $statement instanceof Ast\Delete) && $statement->where !== null) {
            $scope = [
                strtolower($statement->alias ?? $statement->table[count($statement->table) - 1]) => $this->path($statement->table, $schema),
            ];
            $found[] = $this->reaches($scope, self::conjuncts($statement->where), [], [], [$statement->where], []);
        }
        $limits = $merged = [];
        foreach (Tree::nodes($statement) as $node) {
            $query = $node instanceof Ast\Query ? $node : null;
            if ($query !== null && $query->body instanceof Ast\Select && ! isset($merged[spl_object_id($query)])) {
                $found[] = $this->select($query->body, $query->orderBy, $schema, $merged);
                $limits[count($found) - 1] = $query->limit instanceof Ast\NumberLiteral && ctype_digit($query->limit->text) &&
                    $query->offset === null ? (int) $query->limit->text : null;
            }
        }
        $queries = [];
        foreach ($found as $i => $members) {
            if ($members !== []) {
                $queries[] = new QueryReach($members, $limits[$i] ?? null);
            }
        }

        return $queries;
    }

    /**
     * @param  list<Ast\SortKey>  $orderBy
     * @param  array<int, true>  $merged queries inside of others that are read as joins with them
     * @return list<IndexReach>
     */
    private function select(Ast\Select $s, array $orderBy, string $schema, array &$merged): array
    {
        $scope = $conditions = $after = [];
        $this->from($s->from, $schema, $scope, $conditions, $after);
        foreach ($s->where === null ? [] : self::conjuncts($s->where) as $condition) {
            if (! $this->semiJoin($condition, $s, $schema, $scope, $conditions, $after, $merged)) {
                $conditions[] = $condition;
            }
        }
        $directions = array_unique(array_map(static fn (Ast\SortKey $key): int => $key->descending ? 1 : 0, $orderBy));
        $order = count($directions) > 1 ? [] : array_map(static fn (Ast\SortKey $key): Ast\Expression => $key->value, $orderBy);

        $all = [$s->items, $conditions, $s->groupBy, $s->having, $orderBy];

        return $this->reaches($scope, $conditions, $order, $s->groupBy, $all, $after);
    }

    /**
     * EXISTS and IN of a plain query are read as joins with its tables, where no row counts twice.
     *
     * @param  array<string, string>  $scope
     * @param  list<Ast\Expression>  $conditions
     * @param  array<string, list<string>>  $after
     * @param  array<int, true>  $merged
     */
    private function semiJoin(
        Ast\Expression $e,
        Ast\Select $outer,
        string $schema,
        array &$scope,
        array &$conditions,
        array &$after,
        array &$merged,
    ): bool {
        $isNegated = $e instanceof Ast\Unary && $e->operator === 'NOT';
        $e = $e instanceof Ast\Unary && $isNegated ? $e->operand : $e;
        $query = $e instanceof Ast\Exists || $e instanceof Ast\InQuery ? $e->query : null;
        $body = $query?->body;
        if ($query === null || ! $body instanceof Ast\Select || $body->groupBy !== [] || $query->limit !== null || $query->with !== []) {
            return false;
        }
        $inner = $more = $innerAfter = [];
        $this->from($body->from, $schema, $inner, $more, $innerAfter);
        if ($inner === [] || array_intersect_key($inner, $scope) !== [] || $this->isAmbiguous($outer, $inner, $scope)) {
            return false;
        }
        if ($e instanceof Ast\InQuery) {
            $value = $body->items[0]->value ?? null;
            if (! $value instanceof Ast\Expression) {
                return false;
            }
            $isNegated = $isNegated !== $e->negated;
            $more[] = new Ast\Binary($e->at, '=', $e->value, $value);
        }
        // What must not be there is looked for last.
        foreach ($isNegated ? array_keys($inner) : [] as $alias) {
            $innerAfter[$alias] = array_keys($scope);
        }
        $after += $innerAfter;
        $scope += $inner;
        array_push($conditions, ...$more, ...$body->where === null ? [] : self::conjuncts($body->where));
        $merged[spl_object_id($query)] = true;

        return true;
    }

    /**
     * Whether a bare name could mean a column of either.
     *
     * @param  array<string, string>  $inner
     * @param  array<string, string>  $scope
     */
    private function isAmbiguous(Ast\Select $outer, array $inner, array $scope): bool
    {
        $columns = [];
        foreach ([$inner, $scope] as $side => $tables) {
            $columns[$side] = [];
            foreach ($tables as $table) {
                $columns[$side] += $this->tables[$table]->columns ?? [];
            }
        }
        $shared = array_intersect_key($columns[0], $columns[1]);
        foreach (Tree::nodes($outer) as $node) {
            if ($node instanceof Ast\ColumnName && count($node->parts) === 1 && isset($shared[strtolower($node->parts[0])])) {
                return true;
            }
        }

        return false;
    }

    /**
     * @param  array<string, string>  $scope alias => table
     * @param  list<Ast\Expression>  $conditions
     * @param  array<string, list<string>>  $after alias => those it can only be read after
     */
    private function from(?Ast\Relation $r, string $schema, array &$scope, array &$conditions, array &$after): void
    {
        if ($r instanceof Ast\TableName) {
            $scope[strtolower($r->alias ?? $r->parts[count($r->parts) - 1])] = $this->path($r->parts, $schema);
        } elseif ($r instanceof Ast\Join) {
            $this->from($r->left, $schema, $scope, $conditions, $after);
            $left = array_keys($scope);
            $this->from($r->right, $schema, $scope, $conditions, $after);
            $right = array_values(array_diff(array_keys($scope), $left));
            $inner = match ($r->kind) {
                Ast\JoinKind::Left => [$right, $left],
                Ast\JoinKind::Right => [$left, $right],
                default => [[], []],
            };
            foreach ($inner[0] as $alias) {
                $after[$alias] = array_values(array_unique([...$after[$alias] ?? [], ...$inner[1]]));
            }
            array_push($conditions, ...$r->on === null ? [] : self::conjuncts($r->on));
        }
    }

    /**
     * @param  array<string, string>  $scope
     * @param  list<Ast\Expression>  $conditions
     * @param  list<Ast\Expression>  $order
     * @param  list<Ast\Expression>  $groups
     * @param  array<string, list<string>>  $after
     * @return list<IndexReach>
     */
    private function reaches(array $scope, array $conditions, array $order, array $groups, mixed $all, array $after): array
    {
        $found = [];
        $joins = $this->joins($scope, $conditions);
        foreach ($scope as $alias => $table) {
            if (! isset($this->tables[$table])) {
                continue;
            }
            $of = fn (mixed $e): ?string => $e instanceof Ast\ColumnName ? $this->column($e, $alias, $table, $scope) : null;
            // What is missing on the inner side of an outer join is seen when it was looked for, and finds nothing by itself.
            $own = ($after[$alias] ?? []) === [] ? $conditions : array_values(
                array_filter($conditions, static fn (Ast\Expression $e): bool => ! $e instanceof Ast\IsTest),
            );
            [$equal, $ranges, $values, $constants] = self::filters($own, $of);
            $read = $this->columnsRead($all, $alias, $table, $of);
            $list = static fn (array $expressions): array => array_values(
                array_filter(array_map($of, $expressions), static fn (?string $name): bool => $name !== null),
            );
            $ordered = $list($order);
            $grouped = $list($groups);
            $found[] = new IndexReach(
                $table,
                array_values($equal),
                array_values(array_diff($ranges, $equal)),
                count($ordered) === count($order) ? $ordered : [],
                count($grouped) === count($groups) ? $grouped : [],
                array_map(strval(...), array_keys($read)),
                $values,
                $alias,
                array_diff_key($joins[$alias] ?? [], $constants),
                array_values(array_filter($after[$alias] ?? [], fn (string $other): bool => isset($this->tables[$scope[$other]]))),
                $this->spans($conditions, $of),
            );
        }

        return $found;
    }

    /**
     * @param  array<string, string>  $scope
     * @param  list<Ast\Expression>  $conditions
     * @return array<string, array<string, list<string>>> alias => column => aliases of the tables it is held to values of
     */
    private function joins(array $scope, array $conditions): array
    {
        $joins = [];
        foreach ($conditions as $e) {
            if (! $e instanceof Ast\Binary || $e->operator !== '=' || ! $e->left instanceof Ast\ColumnName ||
                ! $e->right instanceof Ast\ColumnName) {
                continue;
            }
            [$left, $right] = [$this->owner($e->left, $scope), $this->owner($e->right, $scope)];
            if ($left !== null && $right !== null && $left[0] !== $right[0]) {
                $joins[$left[0]][$left[1]][] = $right[0];
                $joins[$right[0]][$right[1]][] = $left[0];
            }
        }

        return $joins;
    }

    /**
     * @param  list<Ast\Expression>  $conditions
     * @param  Closure(mixed): ?string  $of
     * @return array<string, string> column => its conditions as SQL, those that name nothing else
     */
    private function spans(array $conditions, Closure $of): array
    {
        $spans = [];
        foreach ($conditions as $e) {
            $name = self::held($e, $of);
            $others = array_filter(
                iterator_to_array(Tree::nodes($e), false),
                static fn (mixed $node): bool => $node instanceof Ast\Query || $node instanceof Ast\Parameter ||
                    ($node instanceof Ast\ColumnName && $of($node) !== $name),
            );
            if ($name !== null && $others === []) {
                $spans[$name][] = '('.$this->printer->expression($e).')';
            }
        }

        return array_map(static fn (array $list): string => implode(' AND ', $list), $spans);
    }

    /**
     * The column a condition holds to a span.
     *
     * @param  Closure(mixed): ?string  $of
     */
    private static function held(Ast\Expression $e, Closure $of): ?string
    {
        return match (true) {
            $e instanceof Ast\Binary && in_array($e->operator, ['<', '<=', '>', '>='], true) => $of($e->left) ?? $of($e->right),
            $e instanceof Ast\Between && ! $e->negated,
            $e instanceof Ast\Like &&
                ! $e->negated &&
                $e->pattern instanceof Ast\TextLiteral &&
                strcspn($e->pattern->value, '%_') > 0 => $of($e->value),
            default => null,
        };
    }

    /**
     * @param  array<string, string>  $scope
     * @return array{string, string}|null alias and column
     */
    private function owner(Ast\ColumnName $column, array $scope): ?array
    {
        foreach ($scope as $alias => $table) {
            $name = isset($this->tables[$table]) ? $this->column($column, $alias, $table, $scope) : null;
            if ($name !== null) {
                return [$alias, $name];
            }
        }

        return null;
    }

    /**
     * @param  list<Ast\Expression>  $conditions
     * @param  Closure(mixed): ?string  $of the column of the table an expression is
     * @return array{array<string, string>, array<string, string>, array<string, list<string>>, array<string, true>} columns asked for by
     *     value, by range, values as they are written, and columns whose value is no other column
     */
    private static function filters(array $conditions, Closure $of): array
    {
        $equal = $ranges = $values = $constants = [];
        foreach ($conditions as $e) {
            $name = match (true) {
                $e instanceof Ast\Binary && $e->operator === '=' => $of($e->left) ?? $of($e->right),
                $e instanceof Ast\InList && ! $e->negated, $e instanceof Ast\IsTest && $e->what === null && ! $e->negated => $of(
                    $e->value,
                ),
                default => null,
            };
            if ($name !== null) {
                $equal[$name] = $name;
                // What is equal to another column is known only after the table of that one.
                if (! $e instanceof Ast\Binary || ! $e->left instanceof Ast\ColumnName || ! $e->right instanceof Ast\ColumnName) {
                    $constants[$name] = true;
                }
                $written = self::written($e);
                if ($written !== null) {
                    $values[$name] ??= $written;
                }

                continue;
            }
            $name = self::held($e, $of);
            if ($name !== null) {
                $ranges[$name] = $name;
            }
        }

        return [$equal, $ranges, $values, $constants];
    }

    /**
     * @param  Closure(mixed): ?string  $of
     * @return array<string, true>
     */
    private function columnsRead(mixed $all, string $alias, string $table, Closure $of): array
    {
        $read = $counted = [];
        foreach (Tree::nodes($all) as $node) {
            // count(*) counts rows and looks at no column.
            foreach ($node instanceof Ast\Call ? $node->arguments : [] as $argument) {
                $counted[spl_object_id($argument)] = true;
            }
            if (
                $node instanceof Ast\Star &&
                ! isset($counted[spl_object_id($node)]) &&
                ($node->qualifier === [] || strtolower($node->qualifier[count($node->qualifier) - 1]) === $alias)
            ) {
                $read += array_fill_keys(array_map(strval(...), array_keys($this->tables[$table]->columns)), true);
            }
            $name = $of($node);
            $read += $name === null ? [] : [$name => true];
        }

        return $read;
    }

    /**
     * @return list<string>|null the values a condition asks for; null where they are not written in it
     */
    private static function written(Ast\Expression $e): ?array
    {
        if ($e instanceof Ast\IsTest) {
            // Nothing is told as an empty text where values are counted.
            return [''];
        }
        $values = [];
        foreach ($e instanceof Ast\Binary ? [$e->left, $e->right] : ($e instanceof Ast\InList ? $e->items : []) as $one) {
            if ($one instanceof Ast\TextLiteral) {
                $values[] = $one->value;
            } elseif ($one instanceof Ast\NumberLiteral || $one instanceof Ast\TimeLiteral) {
                $values[] = $one->text;
            } elseif ($e instanceof Ast\InList) {
                return null;
            }
        }

        return $values === [] ? null : $values;
    }

    /**
     * @param  array<string, string>  $scope
     */
    private function column(Ast\ColumnName $c, string $alias, string $table, array $scope): ?string
    {
        $name = strtolower($c->parts[count($c->parts) - 1]);
        if (! isset($this->tables[$table]->columns[$name])) {
            return null;
        }
        if (count($c->parts) > 1) {
            return strtolower($c->parts[count($c->parts) - 2]) === $alias ? $name : null;
        }
        foreach ($scope as $other => $otherTable) {
            if (isset($this->tables[$otherTable]->columns[$name])) {
                return $other === $alias ? $name : null;
            }
        }

        return null;
    }

    /**
     * @param  list<string>  $parts
     */
    private function path(array $parts, string $schema): string
    {
        return TableNames::path($parts, $schema);
    }

    /**
     * @return list<Ast\Expression>
     */
    private static function conjuncts(Ast\Expression $e): array
    {
        return $e instanceof Ast\Binary && $e->operator === 'AND' ? [...self::conjuncts($e->left), ...self::conjuncts($e->right)] : [$e];
    }
}
