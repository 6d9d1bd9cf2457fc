<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Indexes;

use Closure;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Names\TableNames;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Sql\Tree;

/**
 * Reads from the text of a statement which columns it compares, sorts and groups by.
 */
final readonly class IndexReachReader
{
    private Parser $parser;

    /**
     * @param  array<string, IndexedTable>  $tables by schema.table
     */
    public function __construct(private array $tables, Dialect $dialect = Dialect::MariaDb)
    {
        $this->parser = new Parser($dialect);
    }

    /**
     * @return list<IndexReach>
     */
    public function read(string $sql, string $schema): array
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
            $found = $this->reaches($scope, self::conjuncts($statement->where), [], [], [$statement->where]);
        }
        foreach (Tree::nodes($statement) as $node) {
            $query = $node instanceof Ast\Query ? $node : null;
            if ($query !== null && $query->body instanceof Ast\Select) {
                array_push($found, ...$this->select($query->body, $query->orderBy, $schema));
            }
        }

        return $found;
    }

    /**
     * @param  list<Ast\SortKey>  $orderBy
     * @return list<IndexReach>
     */
    private function select(Ast\Select $s, array $orderBy, string $schema): array
    {
        $scope = $conditions = [];
        $this->from($s->from, $schema, $scope, $conditions);
        array_push($conditions, ...$s->where === null ? [] : self::conjuncts($s->where));
        $directions = array_unique(array_map(static fn (Ast\SortKey $key): int => $key->descending ? 1 : 0, $orderBy));
        $order = count($directions) > 1 ? [] : array_map(static fn (Ast\SortKey $key): Ast\Expression => $key->value, $orderBy);

        return $this->reaches($scope, $conditions, $order, $s->groupBy, [$s->items, $conditions, $s->groupBy, $s->having, $orderBy]);
    }

    /**
     * @param  array<string, string>  $scope alias => table
     * @param  list<Ast\Expression>  $conditions
     */
    private function from(?Ast\Relation $r, string $schema, array &$scope, array &$conditions): void
    {
        if ($r instanceof Ast\TableName) {
            $scope[strtolower($r->alias ?? $r->parts[count($r->parts) - 1])] = $this->path($r->parts, $schema);
        } elseif ($r instanceof Ast\Join) {
            $this->from($r->left, $schema, $scope, $conditions);
            $this->from($r->right, $schema, $scope, $conditions);
            array_push($conditions, ...$r->on === null ? [] : self::conjuncts($r->on));
        }
    }

    /**
     * @param  array<string, string>  $scope
     * @param  list<Ast\Expression>  $conditions
     * @param  list<Ast\Expression>  $order
     * @param  list<Ast\Expression>  $groups
     * @return list<IndexReach>
     */
    private function reaches(array $scope, array $conditions, array $order, array $groups, mixed $all): array
    {
        $found = [];
        foreach ($scope as $alias => $table) {
            if (! isset($this->tables[$table])) {
                continue;
            }
            $of = fn (mixed $e): ?string => $e instanceof Ast\ColumnName ? $this->column($e, $alias, $table, $scope) : null;
            [$equal, $ranges, $values] = self::filters($conditions, $of);
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
            );
        }

        return $found;
    }

    /**
     * @param  list<Ast\Expression>  $conditions
     * @param  Closure(mixed): ?string  $of the column of the table an expression is
     * @return array{array<string, string>, array<string, string>, array<string, list<string>>} columns asked for by value, by range, and
     *     values as they are written
     */
    private static function filters(array $conditions, Closure $of): array
    {
        $equal = $ranges = $values = [];
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
                $written = self::written($e);
                if ($written !== null) {
                    $values[$name] ??= $written;
                }

                continue;
            }
            $name = match (true) {
                $e instanceof Ast\Binary && in_array($e->operator, ['<', '<=', '>', '>='], true) => $of($e->left) ?? $of($e->right),
                $e instanceof Ast\Between && ! $e->negated,
                $e instanceof Ast\Like &&
                    ! $e->negated &&
                    $e->pattern instanceof Ast\TextLiteral &&
                    strcspn($e->pattern->value, '%_') > 0 => $of($e->value),
                default => null,
            };
            if ($name !== null) {
                $ranges[$name] = $name;
            }
        }

        return [$equal, $ranges, $values];
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
