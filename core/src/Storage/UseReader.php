<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Names\TableNames;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\Printer;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Sql\Tree;

/**
 * Reads from the text of a statement which tables it uses, which of their columns it filters, joins and groups by, and
 * which values it asks for.
 */
final readonly class UseReader
{
    private Parser $parser;

    private Printer $printer;

    /**
     * @param  array<string, array<string, ColumnType>>  $tables schema.table => column => type, all in small letters
     * @param  array<string, string>  $views schema.view => its CREATE VIEW; who reads a view reads its tables
     */
    public function __construct(private array $tables, private Dialect $dialect = Dialect::Ansi, private array $views = [])
    {
        $this->parser = new Parser($dialect);
        $this->printer = new Printer($dialect);
    }

    /**
     * @param  string  $schema where tables without one are looked for
     * @return list<TableUse>|null null when the text cannot be read; a table used twice has two entries
     */
    public function read(string $sql, string $schema = ''): ?array
    {
        try {
            $statement = $this->parser->statement($sql);
        } catch (SyntaxError) {
            return null;
        }
        $uses = [];
        $target = match (true) {
            $statement instanceof Ast\Update,
            $statement instanceof Ast\Delete,
            $statement instanceof Ast\Insert,
            $statement instanceof Ast\Copy => $this->path($statement->table, $schema),
            default => null,
        };
        if ($target !== null) {
            $where = $statement instanceof Ast\Update || $statement instanceof Ast\Delete ? $statement->where : null;
            $name =
                ($statement instanceof Ast\Update || $statement instanceof Ast\Delete ? $statement->alias : null) ??
                self::last(explode('.', $target));
            $changed = [$where, $statement instanceof Ast\Update ? array_column($statement->assignments, 1) : []];
            $read = [...self::columns($changed), ...$this->outer($changed, $schema)];
            $uses[] = $this->use($target, $name, [$name => $target], $where === null ? [] : self::conjuncts($where), [], $read, [], true);
        }
        $this->walk($statement, $schema, [], $uses);

        return $uses;
    }

    /**
     * @param  list<string>  $parts
     */
    private function path(array $parts, string $schema): ?string
    {
        $name = TableNames::path($parts, $schema);

        return isset($this->tables[$name]) ? $name : null;
    }

    /**
     * @param  array<string, true>  $hidden names of common tables in force
     * @param  list<TableUse>  $uses
     */
    private function walk(mixed $part, string $schema, array $hidden, array &$uses): void
    {
        if ($part instanceof Ast\Query) {
            foreach ($part->with as $common) {
                $hidden[strtolower($common->name)] = true;
            }
        }
        if ($part instanceof Ast\Select) {
            array_push($uses, ...$this->select($part, $schema, $hidden, []));
        }
        if ($part instanceof Ast\Query && $part->body instanceof Ast\Select) {
            // What a query is ordered by stands beside what it selects.
            array_push($uses, ...$this->select($part->body, $schema, $hidden, $part->orderBy));
            $body = get_object_vars($part->body);
            $this->walk(
                [$part->with, array_diff_key($body, ['at' => 0]), $part->orderBy, $part->limit, $part->offset],
                $schema,
                $hidden,
                $uses,
            );

            return;
        }
        if ($part instanceof Ast\TableName && ! (count($part->parts) === 1 && isset($hidden[strtolower($part->parts[0])]))) {
            $this->behind(TableNames::path($part->parts, $schema), $uses);
        }
        if (is_array($part) || $part instanceof Ast\Node) {
            foreach (is_array($part) ? $part : get_object_vars($part) as $inner) {
                $this->walk($inner, $schema, $hidden, $uses);
            }
        }
    }

    /**
     * @param  array<string, true>  $hidden
     * @param  list<Ast\SortKey>  $orderBy
     * @return list<TableUse>
     */
    private function select(Ast\Select $select, string $schema, array $hidden, array $orderBy): array
    {
        $scope = $conditions = $using = [];
        $this->relation($select->from, $schema, $hidden, $scope, $conditions, $using);
        $conditions = [...$conditions, ...$select->where === null ? [] : self::conjuncts($select->where)];
        $grouped = [];
        foreach ($select->groupBy as $e) {
            // GROUP BY 1 names the first thing selected.
            $e = $e instanceof Ast\NumberLiteral ? $select->items[(int) $e->text - 1]->value ?? $e : $e;
            array_push($grouped, ...self::columns($e));
        }
        $all = [$select->items, $conditions, $select->groupBy, $select->having, $select->qualify, $select->windows, $orderBy];
        $read = [...self::columns($all), ...$this->outer($all, $schema)];
        $uses = [];
        foreach ($scope as $alias => $table) {
            if ($table !== null) {
                $uses[] = $this->use($table, $alias, $scope, $conditions, $grouped, $read, $using, false);
            }
        }

        return $uses;
    }

    /**
     * @param  array<string, true>  $hidden
     * @param  array<string, string|null>  $scope alias => table, null for what is none
     * @param  list<Ast\Expression>  $conditions
     * @param  list<string>  $using
     */
    private function relation(
        ?Ast\Relation $relation,
        string $schema,
        array $hidden,
        array &$scope,
        array &$conditions,
        array &$using,
    ): void {
        if ($relation instanceof Ast\Join) {
            $this->relation($relation->left, $schema, $hidden, $scope, $conditions, $using);
            $this->relation($relation->right, $schema, $hidden, $scope, $conditions, $using);
            array_push($conditions, ...$relation->on === null ? [] : self::conjuncts($relation->on));
            array_push($using, ...array_map(strtolower(...), $relation->using), ...$relation->natural ? $this->shared($scope) : []);
        } elseif ($relation instanceof Ast\TableName) {
            $name = self::last($relation->parts);
            $scope[TableNames::alias($relation)] =
                count($relation->parts) === 1 && isset($hidden[strtolower($name)]) ? null : $this->path($relation->parts, $schema);
        } elseif ($relation instanceof Ast\DerivedTable) {
            $scope[strtolower($relation->alias)] = null;
        }
    }

    /**
     * Columns named inside of nested queries that none of their own tables has: those are of the query around them.
     *
     * @return list<Ast\ColumnName>
     */
    private function outer(mixed $part, string $schema): array
    {
        $found = [];
        foreach (Tree::nodes($part) as $query) {
            $own = [];
            foreach ($query instanceof Ast\Query ? Tree::nodes($query) : [] as $node) {
                if ($node instanceof Ast\TableName) {
                    $own[TableNames::alias($node)] = $this->path($node->parts, $schema);
                }
            }
            foreach ($query instanceof Ast\Query ? Tree::nodes($query) : [] as $node) {
                if ($node instanceof Ast\ColumnName && TableNames::owner($node, $own, $this->tables) === null) {
                    $found[] = $node;
                }
            }
        }

        return $found;
    }

    /**
     * @param  list<TableUse>  $uses
     */
    private function behind(string $view, array &$uses): void
    {
        $text = $this->views[$view] ?? null;
        if ($text === null) {
            return;
        }
        // Without the view itself, so that one that leads back to itself ends.
        $inner = new self($this->tables, $this->dialect, array_diff_key($this->views, [$view => true]));
        array_push($uses, ...$inner->read($text, (string) strstr($view, '.', true)) ?? []);
    }

    /**
     * Columns two tables of a scope have in common.
     *
     * @param  array<string, string|null>  $scope
     * @return list<string>
     */
    private function shared(array $scope): array
    {
        $counts = array_count_values(
            array_merge(...array_map(fn (?string $table): array => array_keys($this->tables[$table] ?? []), array_values($scope))),
        );

        return array_map(strval(...), array_keys(array_filter($counts, static fn (int $count): bool => $count > 1)));
    }

    /**
     * @param  array<string, string|null>  $scope
     * @param  list<Ast\Expression>  $conditions
     * @param  list<Ast\ColumnName|Ast\Star>  $grouped
     * @param  list<Ast\ColumnName|Ast\Star>  $read
     * @param  list<string>  $using
     */
    private function use(
        string $table,
        string $alias,
        array $scope,
        array $conditions,
        array $grouped,
        array $read,
        array $using,
        bool $writes,
    ): TableUse {
        $predicates = $wrapped = $joins = [];
        foreach ($conditions as $e) {
            foreach ($this->joins($e, $alias, $table, $scope) as $join) {
                $joins[] = $join;
            }
            $predicate = $this->predicate($e, $alias, $table, $scope);
            if ($predicate !== null) {
                $predicates[] = $predicate;

                continue;
            }
            $names = $this->names(self::columns($e), $alias, $table, $scope);
            if (count($names) === 1 && count(self::columns($e)) === 1 && ! ($e instanceof Ast\ColumnName) && ! $this->isPlain($e)) {
                $wrapped[$names[0]] = $this->printer->expression($e);
            }
        }
        foreach ($using as $name) {
            foreach ($scope as $other => $otherTable) {
                if ($other !== $alias && $otherTable !== null && isset($this->tables[$table][$name], $this->tables[$otherTable][$name])) {
                    $joins[] = new JoinUse(
                        $name,
                        $otherTable,
                        $name,
                        (string) $this->tables[$table][$name] !== (string) $this->tables[$otherTable][$name],
                    );
                }
            }
        }
        $columns = [];
        foreach ($read as $c) {
            if ($c instanceof Ast\Star) {
                if ($c->qualifier === [] || strtolower(self::last($c->qualifier)) === $alias) {
                    $columns += array_fill_keys(array_keys($this->tables[$table]), true);
                }
            } elseif (($name = $this->column($c, $alias, $table, $scope)) !== null) {
                $columns[$name] = true;
            }
        }
        foreach ($using as $name) {
            $columns += isset($this->tables[$table][$name]) ? [$name => true] : [];
        }

        return new TableUse(
            $table,
            $predicates,
            $wrapped,
            $joins,
            $this->names($grouped, $alias, $table, $scope),
            array_keys($columns),
            $writes,
        );
    }

    /**
     * @param  list<Ast\ColumnName|Ast\Star>  $columns
     * @param  array<string, string|null>  $scope
     * @return list<string> those of the table
     */
    private function names(array $columns, string $alias, string $table, array $scope): array
    {
        $names = [];
        foreach ($columns as $c) {
            $name = $c instanceof Ast\ColumnName ? $this->column($c, $alias, $table, $scope) : null;
            if ($name !== null) {
                $names[$name] = $name;
            }
        }

        return array_values($names);
    }

    /** Tests that say nothing about the order of values: NULL, not equal, LIKE '%...'. */
    private function isPlain(Ast\Expression $e): bool
    {
        return match (true) {
            $e instanceof Ast\IsTest, $e instanceof Ast\Like => $e->value instanceof Ast\ColumnName,
            $e instanceof Ast\Binary => $e->left instanceof Ast\ColumnName || $e->right instanceof Ast\ColumnName,
            $e instanceof Ast\InList, $e instanceof Ast\InQuery, $e instanceof Ast\Between => $e->value instanceof Ast\ColumnName,
            $e instanceof Ast\Unary => $this->isPlain($e->operand),
            default => false,
        };
    }

    /**
     * @param  array<string, string|null>  $scope
     */
    private function predicate(Ast\Expression $e, string $alias, string $table, array $scope): ?Predicate
    {
        $column = fn (Ast\Expression $side): ?string => $side instanceof Ast\ColumnName
            ? $this->column($side, $alias, $table, $scope)
            : null;
        $known = fn (Ast\Expression $side, string $name): int|float|string|bool|null => LiteralValue::of(
            $side,
            $this->tables[$table][$name],
        );
        if ($e instanceof Ast\Between && ! $e->negated && ($name = $column($e->value)) !== null) {
            [$low, $high] = [$known($e->low, $name), $known($e->high, $name)];

            return $low === null && $high === null
                ? (self::columns([$e->low, $e->high]) === []
                    ? Predicate::unknown($name)
                    : null)
                : Predicate::range($name, $low, $high);
        }
        if ($e instanceof Ast\InList && ! $e->negated && ($name = $column($e->value)) !== null) {
            $values = array_values(
                array_filter(
                    array_map(static fn (Ast\Expression $item) => $known($item, $name), $e->items),
                    static fn (mixed $value): bool => $value !== null,
                ),
            );

            return count($values) === count($e->items) && $values !== [] ? Predicate::oneOf($name, $values) : Predicate::unknown($name);
        }
        if (
            $e instanceof Ast\Like &&
            ! $e->negated &&
            ! $e->anyCase &&
            ($name = $column($e->value)) !== null &&
            $e->pattern instanceof Ast\TextLiteral
        ) {
            $prefix = substr($e->pattern->value, 0, strcspn($e->pattern->value, '%_\\'));

            return $prefix === '' ? null : Predicate::range($name, $prefix, $prefix."\xFF");
        }
        if (! ($e instanceof Ast\Binary) || ! in_array($e->operator, ['=', '<', '<=', '>', '>='], true)) {
            return null;
        }
        $operator = $e->operator;
        [$name, $side] = [$column($e->left), $e->right];
        if ($name === null) {
            [$name, $side, $operator] = [$column($e->right), $e->left, strtr($operator, ['<' => '>', '>' => '<'])];
        }
        if ($name === null || self::columns($side) !== []) {
            return null;
        }
        $value = $known($side, $name);

        return match (true) {
            $value === null => Predicate::unknown($name),
            $operator === '=' => Predicate::range($name, $value, $value),
            $operator[0] === '<' => Predicate::range($name, null, $value),
            default => Predicate::range($name, $value, null),
        };
    }

    /**
     * @param  array<string, string|null>  $scope
     * @return list<JoinUse>
     */
    private function joins(Ast\Expression $e, string $alias, string $table, array $scope): array
    {
        if (! ($e instanceof Ast\Binary) || $e->operator !== '=') {
            return [];
        }
        $joins = [];
        foreach ([[$e->left, $e->right], [$e->right, $e->left]] as [$mine, $theirs]) {
            $bare = $mine instanceof Ast\ColumnName && $theirs instanceof Ast\ColumnName;
            [$mine, $theirs] = [self::unwrapped($mine), self::unwrapped($theirs)];
            $name = $mine === null ? null : $this->column($mine, $alias, $table, $scope);
            if ($name === null || $theirs === null) {
                continue;
            }
            foreach ($scope as $other => $otherTable) {
                $otherName = $other === $alias || $otherTable === null ? null : $this->column($theirs, $other, $otherTable, $scope);
                if ($otherName !== null) {
                    $same = (string) $this->tables[$table][$name] === (string) $this->tables[$otherTable][$otherName];
                    $joins[] = new JoinUse($name, $otherTable, $otherName, ! $bare || ! $same);
                }
            }
        }

        return $joins;
    }

    private static function unwrapped(Ast\Expression $e): ?Ast\ColumnName
    {
        return match (true) {
            $e instanceof Ast\ColumnName => $e,
            $e instanceof Ast\Cast => self::unwrapped($e->value),
            default => null,
        };
    }

    /**
     * @param  array<string, string|null>  $scope
     */
    private function column(Ast\ColumnName $c, string $alias, string $table, array $scope): ?string
    {
        $name = strtolower(self::last($c->parts));

        return isset($this->tables[$table][$name]) && TableNames::owner($c, $scope, $this->tables) === $alias ? $name : null;
    }

    /**
     * @return list<Ast\Expression>
     */
    private static function conjuncts(Ast\Expression $e): array
    {
        return $e instanceof Ast\Binary && $e->operator === 'AND' ? [...self::conjuncts($e->left), ...self::conjuncts($e->right)] : [$e];
    }

    /**
     * Names of columns and stars, without those inside nested queries.
     *
     * @return list<Ast\ColumnName|Ast\Star>
     */
    private static function columns(mixed $part): array
    {
        if ($part instanceof Ast\ColumnName || $part instanceof Ast\Star) {
            return [$part];
        }
        $found = [];
        // COUNT(*) reads no column.
        if ($part instanceof Ast\Call && count($part->arguments) === 1 && $part->arguments[0] instanceof Ast\Star) {
            return self::columns([$part->filter, $part->over]);
        }
        if (is_array($part) || ($part instanceof Ast\Node && ! ($part instanceof Ast\Query))) {
            foreach (is_array($part) ? $part : get_object_vars($part) as $inner) {
                array_push($found, ...self::columns($inner));
            }
        }

        return $found;
    }

    /**
     * @param  list<string>  $parts
     */
    private static function last(array $parts): string
    {
        return $parts[count($parts) - 1] ?? '';
    }
}
