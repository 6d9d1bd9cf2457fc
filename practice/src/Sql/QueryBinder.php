<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Sql;

use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Names;
use Fulcrion\Core\Sql\Names\TableNames;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Practice\Expression\Aggregate;
use Fulcrion\Practice\Expression\Constant;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Expression\Op;
use Fulcrion\Practice\Expression\Ref;
use Fulcrion\Practice\Expression\SortTerm;
use Fulcrion\Practice\Expression\WindowCall;
use Fulcrion\Practice\Logical\Aggregation;
use Fulcrion\Practice\Logical\Field;
use Fulcrion\Practice\Logical\FilterNode;
use Fulcrion\Practice\Logical\JoinNode;
use Fulcrion\Practice\Logical\Project;
use Fulcrion\Practice\Logical\RelationNode;
use Fulcrion\Practice\Logical\Scan;
use Fulcrion\Practice\Logical\Sort;
use Fulcrion\Practice\Logical\Union;
use Fulcrion\Practice\Logical\Values;
use Fulcrion\Practice\Logical\WindowNode;
use Fulcrion\Practice\Storage\Manifest;
use Fulcrion\Practice\Storage\TableStore;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Practice\WarehouseError;

/**
 * Queries of the syntax tree to logical relations: names resolved, types checked, aggregates and windows set apart.
 */
final class QueryBinder
{
    /** @var list<array<string, array{Ast\Query, list<string>, int}>> common tables, innermost last: query, columns, depth it sees */
    private array $common = [];

    private int $viewDepth = 0;

    /** Where names without a schema are looked for: the session's, inside of a view the view's own. */
    private string $schema;

    /** @var array<int, string> id of a field => schema.view.column it is the column of */
    public array $viewColumns = [];

    public function __construct(private readonly Warehouse $warehouse, public readonly Session $session, private int $nextId = 1)
    {
        $this->schema = strtolower($session->schema);
    }

    public function hashKey(): string
    {
        return $this->warehouse->hashKey();
    }

    public function field(string $name, ColumnType $type, bool $nullable): Field
    {
        return new Field($this->nextId++, $name, $type, $nullable);
    }

    public function query(Ast\Query $q, ?BindingScope $outer = null): RelationNode
    {
        if ($q->recursive) {
            throw new WarehouseError('WITH RECURSIVE cannot be run here.', $q->at);
        }
        $depth = count($this->common);
        foreach ($q->with as $table) {
            $this->common[] = [strtolower($table->name) => [$table->query, $table->columns, count($this->common)]];
        }
        [$limit, $offset] = [$this->rowCount($q->limit, 'LIMIT'), $this->rowCount($q->offset, 'OFFSET') ?? 0];
        if ($q->body instanceof Ast\Select) {
            $relation = $this->select($q->body, $q->orderBy, $outer);
        } else {
            $relation = $this->body($q->body, $outer);
            if ($q->orderBy !== []) {
                $relation = new Sort($relation, $this->outputOrder($q->orderBy, $relation->fields(), $outer), null);
            }
        }
        array_splice($this->common, $depth);
        if ($limit !== null || $offset > 0) {
            // The order and the cut belong together, so that only the top has to be kept.
            $relation =
                $relation instanceof Sort && $relation->limit === null
                    ? new Sort($relation->input, $relation->terms, $limit, $offset)
                    : new Sort($relation, [], $limit, $offset);
            if (
                $relation->input instanceof Project &&
                $relation->terms === [] &&
                $relation->input->input instanceof Sort &&
                $relation->input->input->limit === null &&
                $relation->input->input->offset === 0
            ) {
                $inner = $relation->input->input;
                $relation = new Project(
                    new Sort($inner->input, $inner->terms, $limit, $offset),
                    $relation->input->fields,
                    $relation->input->values,
                );
            }
        }

        return $relation;
    }

    /**
     * The relation with its columns cast.
     *
     * @param  list<ColumnType>  $types
     */
    public function cast(RelationNode $relation, array $types): RelationNode
    {
        $fields = [];
        $values = [];
        foreach ($relation->fields() as $i => $field) {
            $values[] = Coercion::to($field->ref(), $types[$i]);
            $fields[] = $this->field($field->name, $types[$i], $field->nullable);
        }

        return new Project($relation, $fields, $values);
    }

    /**
     * The relation ready to be written into columns of these types.
     *
     * @param  list<ColumnType>  $types
     */
    public function castInto(RelationNode $relation, array $types): RelationNode
    {
        if ($relation instanceof Values) {
            // Literals take the type of the column they go to.
            $rows = array_map(
                static fn (array $row): array => array_map(
                    static fn (Expr $e, ColumnType $type): Expr => Coercion::to($e, $type),
                    $row,
                    $types,
                ),
                $relation->rows,
            );

            return new Values(
                array_map(fn (Field $field, ColumnType $type): Field => $this->field($field->name, $type, true), $relation->fields, $types),
                $rows,
            );
        }

        return $this->cast($relation, $types);
    }

    /**
     * The relation with a column of NULLs for each one it lacks.
     *
     * @param  list<string>  $names of its columns
     * @param  list<\Fulcrion\Core\Catalog\Column>  $columns wanted
     */
    public function spread(RelationNode $relation, array $names, array $columns): RelationNode
    {
        $fields = [];
        $values = [];
        foreach ($columns as $column) {
            $at = array_search($column->name, $names, true);
            $fields[] = $this->field($column->name, $column->type, true);
            $values[] = $at === false ? new Constant(null, $column->type) : $relation->fields()[$at]->ref();
        }

        return new Project($relation, $fields, $values);
    }

    /**
     * @param  list<string>  $parts
     * @return array{string, string} schema, name
     */
    public function name(array $parts, int $at): array
    {
        if (count($parts) > 2) {
            throw new WarehouseError('A name has at most a schema and a table: '.implode('.', $parts).'.', $at);
        }

        return TableNames::resolve($parts, $this->schema) ??
            throw new WarehouseError("Write the schema in front of {$parts[0]}, or choose a schema.", $at);
    }

    /**
     * @param  list<string>  $parts
     */
    public function table(array $parts, int $at): TableStore
    {
        [$schema, $name] = $this->name($parts, $at);
        $table = $this->warehouse->table($schema, $name);
        if ($table === null) {
            $what = $this->warehouse->view($schema, $name) === null ? '' : ' It is a view, which holds no rows of its own.';
            $elsewhere = array_filter(
                $this->warehouse->schemas(),
                fn (string $other): bool => $this->warehouse->table($other, $name) !== null,
            );
            throw new WarehouseError(
                "There is no table {$schema}.{$name}.".
                    $what.
                    ($elsewhere === [] || $what !== ''
                        ? ''
                        : ' There is '.
                            implode(' and ', array_map(static fn (string $other): string => "{$other}.{$name}", $elsewhere)).
                            '.'),
                $at,
            );
        }

        return $table;
    }

    public function scan(TableStore $table, string $alias, ?Manifest $manifest = null): Scan
    {
        $manifest ??= $table->manifest();
        $columns = [];
        foreach ($manifest->definition->columns as $i => $column) {
            $columns[$i] = $this->field($column->name, $column->type, $column->nullable && $manifest->hasNulls($i));
        }

        return new Scan($table, $manifest, $alias, $columns);
    }

    /** The version of a table that was current at a moment. */
    private function versionOf(TableStore $table, Ast\Expression $e): Manifest
    {
        $moment = Coercion::to(
            FunctionLibrary::moment((new ExpressionBinder($this, new BindingScope()))->bind($e), $e->at),
            ColumnType::of(TypeKind::Timestamp),
        );
        if (! ($moment instanceof Constant) || ! is_int($moment->value)) {
            throw new WarehouseError('FOR SYSTEM_TIME AS OF takes a constant moment.', $e->at);
        }
        $oldest = null;
        foreach (array_reverse($table->versions()) as $version) {
            $oldest = $table->version($version);
            if ($oldest->writtenUs <= $moment->value) {
                return $oldest;
            }
        }
        throw new WarehouseError(
            "{$table->schema}.{$table->name} keeps no version that old".
                ($oldest === null ? '.' : '; the oldest was written at '.$moment->type->show($oldest->writtenUs).'.'),
            $e->at,
        );
    }

    private function rowCount(?Ast\Expression $e, string $word): ?int
    {
        if ($e === null) {
            return null;
        }
        $bound = (new ExpressionBinder($this, new BindingScope()))->bind($e);
        if (! ($bound instanceof Constant) || ! is_int($bound->value) || $bound->value < 0 || ! $bound->type->is(TypeKind::Bigint)) {
            throw new WarehouseError("{$word} takes a whole number of rows.", $e->at);
        }

        return $bound->value;
    }

    private function body(Ast\QueryBody $body, ?BindingScope $outer): RelationNode
    {
        return match (true) {
            $body instanceof Ast\Select => $this->select($body, [], $outer),
            $body instanceof Ast\NestedQuery => $this->query($body->query, $outer),
            $body instanceof Ast\ValuesList => $this->values($body, $outer),
            $body instanceof Ast\SetOperation => $this->setOperation($body, $outer),
            default => throw new WarehouseError('This query cannot be run.', $body->at),
        };
    }

    private function values(Ast\ValuesList $body, ?BindingScope $outer): RelationNode
    {
        $binder = new ExpressionBinder($this, new BindingScope([], $outer));
        $rows = array_map(static fn (array $row): array => array_map($binder->bind(...), $row), $body->rows);
        $fields = [];
        for ($i = 0; $i < count($rows[0]); $i++) {
            $column = [];
            foreach ($rows as $row) {
                $column[] = $row[$i] ?? throw new WarehouseError('All rows of VALUES must have as many values as the first.', $body->at);
            }
            [$column, $type] = Coercion::unify($column, $body->at);
            foreach ($column as $r => $value) {
                $rows[$r][$i] = $value;
            }
            $fields[] = $this->field(
                'column'.($i + 1),
                $type,
                array_reduce($column, static fn (bool $any, Expr $e): bool => $any || $e->nullable, false),
            );
        }

        return new Values($fields, array_map(static fn (array $row): array => array_values($row), $rows));
    }

    private function setOperation(Ast\SetOperation $body, ?BindingScope $outer): RelationNode
    {
        if ($body->all && $body->operator !== 'UNION') {
            throw new WarehouseError("{$body->operator} ALL cannot be run here.", $body->at);
        }
        $left = $this->body($body->left, $outer);
        $right = $this->body($body->right, $outer);
        [$a, $b] = [$left->fields(), $right->fields()];
        if (count($a) !== count($b)) {
            throw new WarehouseError(
                "The sides of {$body->operator} have ".count($a).' and '.count($b).' columns; they need as many.',
                $body->at,
            );
        }
        $fields = [];
        $types = [];
        foreach ($a as $i => $field) {
            [, $types[]] = Coercion::unify([$this->asLiteral($left, $i), $this->asLiteral($right, $i)], $body->at);
            $fields[] = $this->field($field->name, $types[$i], $field->nullable || $b[$i]->nullable);
        }
        $branches = array_map(fn (RelationNode $side): RelationNode => $this->cast($side, $types), [$left, $right]);
        if ($body->operator === 'UNION') {
            $union = new Union($fields, $branches);

            return $body->all ? $union : $this->distinct($union);
        }
        // Both sides are marked, put together and grouped: a group is in the result by which marks it has. Groups
        // treat NULLs as alike, as set operations do.
        $whole = ColumnType::of(TypeKind::Bigint);
        foreach ($branches as $side => $branch) {
            $marks = [$this->field('in left', $whole, false), $this->field('in right', $whole, false)];
            $branches[$side] = new Project(
                $branch,
                [...$branch->fields(), ...$marks],
                [
                    ...array_map(static fn (Field $field): Expr => $field->ref(), $branch->fields()),
                    Constant::whole(1 - $side),
                    Constant::whole($side),
                ],
            );
        }
        $marks = [$this->field('in left', $whole, false), $this->field('in right', $whole, false)];
        $union = new Union([...$fields, ...$marks], $branches);
        $groups = array_map(fn (Field $field): Field => $this->field($field->name, $field->type, $field->nullable), $fields);
        $counts = array_map(fn (Field $mark): Field => $this->field("max({$mark->name})", $whole, true), $marks);
        $grouped = new Aggregation(
            $union,
            $groups,
            array_map(static fn (Field $field): Expr => $field->ref(), $fields),
            $counts,
            array_map(static fn (Field $mark): Aggregate => new Aggregate('max', $mark->ref(), false, null, $whole, true), $marks),
        );
        $boolean = ColumnType::of(TypeKind::Boolean);
        $kept = new FilterNode($grouped, [
            new Op('eq', [$counts[0]->ref(), Constant::whole(1)], $boolean, true),
            new Op('eq', [$counts[1]->ref(), Constant::whole($body->operator === 'INTERSECT' ? 1 : 0)], $boolean, true),
        ]);

        return $this->keep($kept, $groups);
    }

    /** A literal NULL or text in a branch takes the type of the other branch. */
    private function asLiteral(RelationNode $relation, int $i): Expr
    {
        return $relation instanceof Project && $relation->values[$i] instanceof Constant
            ? $relation->values[$i]
            : $relation->fields()[$i]->ref();
    }

    /**
     * @param  list<Field>  $fields
     */
    private function keep(RelationNode $relation, array $fields): Project
    {
        return new Project(
            $relation,
            array_map(fn (Field $field): Field => $this->field($field->name, $field->type, $field->nullable), $fields),
            array_map(static fn (Field $field): Expr => $field->ref(), $fields),
        );
    }

    private function distinct(RelationNode $relation): Aggregation
    {
        $fields = $relation->fields();

        return new Aggregation(
            $relation,
            array_map(fn (Field $field): Field => $this->field($field->name, $field->type, $field->nullable), $fields),
            array_map(static fn (Field $field): Expr => $field->ref(), $fields),
            [],
            [],
        );
    }

    /**
     * @param  list<Ast\SortKey>  $orderBy
     */
    private function select(Ast\Select $s, array $orderBy, ?BindingScope $outer): RelationNode
    {
        if ($s->grouping !== null) {
            throw new WarehouseError("GROUP BY {$s->grouping} cannot be run here.", $s->at);
        }
        if ($s->qualify !== null) {
            throw new WarehouseError('QUALIFY cannot be run here; filter in an outer query.', $s->at);
        }
        [$relation, $scope] = $s->from === null ? [new Values([], [[]]), new BindingScope([], $outer)] : $this->from($s->from, $outer);
        $plain = new ExpressionBinder($this, $scope);
        if ($s->where !== null) {
            $relation = new FilterNode($relation, $plain->condition($s->where)->conjuncts());
        }
        $items = $this->expand($s->items, $scope);
        $groups = array_map(fn (Ast\Expression $e): Expr => $plain->bind($this->groupItem($e, $s->items, $scope)), $s->groupBy);

        $gathering = new Gathering();
        $binder = new ExpressionBinder($this, $scope, $gathering, $s->windows);
        $names = [];
        $values = [];
        foreach ($items as [$item, $name]) {
            $values[] = $item instanceof Ast\Expression ? $binder->bind($item) : $item->ref();
            $names[] = $name;
        }
        $having = $s->having === null ? null : $binder->condition($s->having);
        $order = $this->order($orderBy, $names, $binder);
        $grouped = $groups !== [] || $gathering->aggregates !== [] || $having !== null;
        $change = static fn (Expr $e): Expr => $e;
        if ($grouped) {
            [$relation, $change] = $this->group($relation, $groups, $gathering, $scope, $s->at);
            if ($having !== null) {
                $relation = new FilterNode($relation, $change($having)->conjuncts());
            }
        }
        if ($gathering->windows !== []) {
            $added = array_column($gathering->windows, 0);
            $calls = array_map(static fn (WindowCall $call): WindowCall => $call->with($change), array_column($gathering->windows, 1));
            $relation = new WindowNode($relation, $added, $calls);
        }
        $values = array_map($change, $values);
        $fields = [];
        foreach ($values as $i => $value) {
            $fields[] = $this->field($names[$i], $value->type, $value->nullable);
        }
        $order = array_map(
            static fn (array $term): array => [$term[0] instanceof Expr ? $change($term[0]) : $term[0], $term[1], $term[2]],
            $order,
        );

        return $this->project($relation, $fields, $values, $order, $s->distinct, $s->at);
    }

    /**
     * The last steps of SELECT: values, DISTINCT, order; sort keys that are no output are carried along and dropped.
     *
     * @param  list<Field>  $fields
     * @param  list<Expr>  $values
     * @param  list<array{int|Expr, bool, bool}>  $order number of an output or an expression, descending, nulls first
     */
    private function project(RelationNode $relation, array $fields, array $values, array $order, bool $distinct, int $at): RelationNode
    {
        $all = $fields;
        $allValues = $values;
        $terms = [];
        foreach ($order as [$key, $descending, $nullsFirst]) {
            if ($key instanceof Expr) {
                $same = array_search($key->key(), array_map(static fn (Expr $value): string => $value->key(), $allValues), true);
                if ($same === false) {
                    if ($distinct) {
                        throw new WarehouseError('With SELECT DISTINCT, ORDER BY can only use columns of the result.', $at);
                    }
                    $same = count($all);
                    $all[] = $this->field($key->text(), $key->type, $key->nullable);
                    $allValues[] = $key;
                }
                $key = $same;
            }
            $terms[] = [(int) $key, $descending, $nullsFirst];
        }
        $result = new Project($relation, $all, $allValues);
        if ($distinct) {
            $result = $this->distinct($result);
            $all = $result->fields();
        }
        if ($terms === []) {
            return $result;
        }
        $sorted = new Sort(
            $result,
            array_map(static fn (array $term): SortTerm => new SortTerm($all[$term[0]]->ref(), $term[1], $term[2]), $terms),
            null,
        );

        return count($all) === count($fields) ? $sorted : $this->keep($sorted, array_slice($all, 0, count($fields)));
    }

    /**
     * @param  list<Expr>  $groups
     * @return array{RelationNode, callable(Expr): Expr} the groups, and how expressions above them read
     */
    private function group(RelationNode $relation, array $groups, Gathering $gathering, BindingScope $scope, int $at): array
    {
        $byKey = [];
        $groupFields = [];
        $kept = [];
        foreach ($groups as $group) {
            if (! isset($byKey[$group->key()])) {
                $field = $this->field($group instanceof Ref ? $group->name : $group->text(), $group->type, $group->nullable);
                $byKey[$group->key()] = $field;
                $groupFields[] = $field;
                $kept[] = $group;
            }
        }
        $inside = $relation->ids();
        $relation = new Aggregation(
            $relation,
            $groupFields,
            $kept,
            array_column($gathering->aggregates, 0),
            array_column($gathering->aggregates, 1),
        );
        $change = static function (Expr $e) use ($byKey, $inside, $at): Expr {
            $changed = $e->replace(static fn (Expr $part): ?Expr => isset($byKey[$part->key()]) ? $byKey[$part->key()]->ref() : null);
            foreach (array_intersect_key($changed->refs(), $inside) as $id => $_) {
                $name = '';
                $changed->replace(static function (Expr $part) use ($id, &$name): ?Expr {
                    $name = $part instanceof Ref && $part->id === $id ? $part->name : $name;

                    return null;
                });
                throw new WarehouseError("The column {$name} is neither in GROUP BY nor inside an aggregate.", $at);
            }

            return $changed;
        };

        return [$relation, $change];
    }

    /**
     * @param  list<Ast\SelectItem>  $items
     * @return list<array{Ast\Expression|Field, string}> expression or column of a star, name
     */
    private function expand(array $items, BindingScope $scope): array
    {
        $list = [];
        foreach ($items as $item) {
            if (! ($item->value instanceof Ast\Star)) {
                $list[] = [$item->value, $item->alias ?? $this->defaultName($item->value)];

                continue;
            }
            $qualifier = $item->value->qualifier;
            $star =
                $scope->names->star($qualifier) ??
                throw new WarehouseError(
                    $qualifier === []
                        ? 'SELECT * needs a FROM.'
                        : 'There is no table '.strtolower($qualifier[count($qualifier) - 1]).' here.',
                    $item->at,
                );
            foreach ($star as [, , $field]) {
                $list[] = [$field, $field->name];
            }
        }

        return $list;
    }

    private function defaultName(Ast\Expression $e): string
    {
        return match (true) {
            $e instanceof Ast\ColumnName => $e->parts[count($e->parts) - 1],
            $e instanceof Ast\Call => $e->name,
            $e instanceof Ast\Cast => $this->defaultName($e->value),
            $e instanceof Ast\Extract => strtolower($e->unit),
            $e instanceof Ast\CaseOf => 'case',
            default => 'value',
        };
    }

    /**
     * GROUP BY may name an output by its number or alias.
     *
     * @param  list<Ast\SelectItem>  $items
     */
    private function groupItem(Ast\Expression $e, array $items, BindingScope $scope): Ast\Expression
    {
        $number = $e instanceof Ast\NumberLiteral ? $e->text : '';

        return $scope->names->grouped($e, $items) ??
            throw new WarehouseError("GROUP BY {$number}: there are only ".count($items).' columns.', $e->at);
    }

    /**
     * @param  list<Ast\SortKey>  $keys
     * @param  list<string>  $names
     * @return list<array{int|Expr, bool, bool}>
     */
    private function order(array $keys, array $names, ExpressionBinder $binder): array
    {
        $terms = [];
        foreach ($keys as $key) {
            $target = $this->outputNumber($key->value, $names);
            $terms[] = [$target ?? $binder->bind($key->value), $key->descending, $key->nullsFirst ?? ! $key->descending];
        }

        return $terms;
    }

    /**
     * @param  list<string>  $names
     */
    private function outputNumber(Ast\Expression $e, array $names): ?int
    {
        $number = Names\NameScope::ordered($e, $names);
        if ($number !== null && ! isset($names[$number])) {
            throw new WarehouseError('ORDER BY '.($number + 1).': there are only '.count($names).' columns.', $e->at);
        }

        return $number;
    }

    /**
     * @param  list<Ast\SortKey>  $keys
     * @param  list<Field>  $fields
     * @return list<SortTerm>
     */
    private function outputOrder(array $keys, array $fields, ?BindingScope $outer): array
    {
        $names = array_map(static fn (Field $field): string => $field->name, $fields);
        $binder = new ExpressionBinder($this, new BindingScope([['', $fields]], $outer));

        return array_map(function (Ast\SortKey $key) use ($names, $fields, $binder): SortTerm {
            $number = $this->outputNumber($key->value, $names);

            return new SortTerm(
                $number === null ? $binder->bind($key->value) : $fields[$number]->ref(),
                $key->descending,
                $key->nullsFirst ?? ! $key->descending,
            );
        }, $keys);
    }

    /**
     * @return array{RelationNode, BindingScope}
     */
    private function from(Ast\Relation $r, ?BindingScope $outer): array
    {
        if ($r instanceof Ast\TableName) {
            $relation = $this->named($r);

            return [
                $relation,
                new BindingScope(
                    [[$r->alias ?? $r->parts[count($r->parts) - 1], $this->renamed($relation->fields(), $r->columns, $r->at)]],
                    $outer,
                ),
            ];
        }
        if ($r instanceof Ast\DerivedTable) {
            if ($r->lateral) {
                throw new WarehouseError('LATERAL cannot be run here.', $r->at);
            }
            $relation = $this->query($r->query, null);

            return [$relation, new BindingScope([[$r->alias, $this->renamed($relation->fields(), $r->columns, $r->at)]], $outer)];
        }
        if ($r instanceof Ast\Join) {
            return $this->join($r, $outer);
        }
        throw new WarehouseError('A function behind FROM cannot be run here.', $r->at);
    }

    /**
     * @param  list<Field>  $fields
     * @param  list<string>  $names
     * @return list<Field>
     */
    private function renamed(array $fields, array $names, int $at): array
    {
        if ($names === []) {
            return $fields;
        }
        if (count($names) !== count($fields)) {
            throw new WarehouseError(count($names).' names for '.count($fields).' columns.', $at);
        }

        return array_map(
            static fn (Field $field, string $name): Field => new Field($field->id, $name, $field->type, $field->nullable),
            $fields,
            $names,
        );
    }

    private function named(Ast\TableName $r): RelationNode
    {
        if (count($r->parts) === 1 && $r->asOf === null) {
            $wanted = strtolower($r->parts[0]);
            for ($i = count($this->common) - 1; $i >= 0; $i--) {
                if (isset($this->common[$i][$wanted])) {
                    [$query, $columns, $depth] = $this->common[$i][$wanted];
                    // A common table sees only those in front of it.
                    $hidden = array_splice($this->common, $depth);
                    $relation = $this->query($query);
                    array_push($this->common, ...$hidden);
                    if ($columns !== []) {
                        $relation = $this->keep($relation, $this->renamed($relation->fields(), $columns, $r->at));
                    }

                    return $relation;
                }
            }
        }
        [$schema, $name] = $this->name($r->parts, $r->at);
        $view = $this->warehouse->view($schema, $name);
        if ($view === null) {
            $table = $this->table($r->parts, $r->at);

            $pinned = $this->session->versions[$table->directory] ?? null;

            return $this->scan(
                $table,
                $r->alias ?? $name,
                match (true) {
                    $r->asOf !== null => $this->versionOf($table, $r->asOf),
                    $pinned !== null => $table->version($pinned),
                    default => null,
                },
            );
        }
        if ($r->asOf !== null) {
            throw new WarehouseError("{$schema}.{$name} is a view; only tables keep versions.", $r->at);
        }
        if (++$this->viewDepth > 16) {
            throw new WarehouseError("The view {$schema}.{$name} leads back to itself.", $r->at);
        }
        $statement = (new Parser())->statement($view);
        [$hidden, $around] = [$this->common, $this->schema];
        $this->common = [];
        // A view means what it meant where it was made, not what its names mean to its reader.
        $this->schema = $schema;
        $relation =
            $statement instanceof Ast\CreateView
                ? $this->query($statement->query)
                : throw new WarehouseError("The view {$schema}.{$name} cannot be read.", $r->at);
        [$this->common, $this->schema] = [$hidden, $around];
        $this->viewDepth--;
        $relation = $this->keep($relation, $this->renamed($relation->fields(), $statement->columns, $r->at));
        foreach ($relation->fields as $field) {
            $this->viewColumns[$field->id] = "{$schema}.{$name}.".strtolower($field->name);
        }

        return $relation;
    }

    /**
     * @return array{RelationNode, BindingScope}
     */
    private function join(Ast\Join $r, ?BindingScope $outer): array
    {
        [$left, $leftScope] = $this->from($r->left, $outer);
        [$right, $rightScope] = $this->from($r->right, $outer);
        foreach ($leftScope->tables as [$a]) {
            foreach ($rightScope->tables as [$b]) {
                if (strcasecmp($a, $b) === 0) {
                    throw new WarehouseError("Two tables are called {$a} here; give one another alias.", $r->right->at);
                }
            }
        }
        $both = new BindingScope([...$leftScope->tables, ...$rightScope->tables], $outer, $leftScope->merged + $rightScope->merged);
        $using = $r->using;
        if ($r->natural) {
            $names = static fn (BindingScope $scope): array => array_map(
                static fn (Field $field): string => strtolower($field->name),
                array_merge([], ...array_column($scope->tables, 1)),
            );
            $using = array_values(array_intersect($names($leftScope), $names($rightScope)));
        }
        $conditions = [];
        $pairs = [];
        foreach ($using as $column) {
            $a =
                $leftScope->here([$column], $r->at) ??
                throw new WarehouseError("The left side of the join has no column {$column}.", $r->at);
            $b =
                $rightScope->here([$column], $r->at) ??
                throw new WarehouseError("The right side of the join has no column {$column}.", $r->at);
            [$sides] = Coercion::unify([$a->ref(), $b->ref()], $r->at);
            $conditions[] = Coercion::op('eq', $sides, ColumnType::of(TypeKind::Boolean), $a->nullable || $b->nullable);
            $pairs[strtolower($column)] = [$a, $b];
        }
        if ($r->on !== null) {
            $conditions = (new ExpressionBinder($this, $both))->condition($r->on)->conjuncts();
        }
        $kind = match ($r->kind) {
            Ast\JoinKind::Left, Ast\JoinKind::Right => JoinNode::LEFT,
            Ast\JoinKind::Full => JoinNode::FULL,
            default => JoinNode::INNER,
        };
        $join =
            $r->kind === Ast\JoinKind::Right
                ? new JoinNode($kind, $right, $left, $conditions)
                : new JoinNode($kind, $left, $right, $conditions);
        $nullable = [];
        foreach ($join->fields() as $field) {
            $nullable[$field->id] = $field->nullable;
        }
        // Behind an outer join a column may be null that never was before; names given by an alias stay.
        $tables = array_map(
            static fn (array $table): array => [
                $table[0],
                array_map(static fn (Field $field): Field => $nullable[$field->id] === true ? $field->asNullable() : $field, $table[1]),
            ],
            $both->tables,
        );
        $relation = $join;
        $merged = array_map(static fn (Field $field): Field =>
            $nullable[$field->id] ?? true ? $field->asNullable() : $field, $both->merged);
        foreach ($pairs as $column => [$a, $b]) {
            if ($kind !== JoinNode::FULL) {
                $kept = $r->kind === Ast\JoinKind::Right ? $b : $a;
                $merged[$column] = $nullable[$kept->id] ? $kept->asNullable() : $kept;

                continue;
            }
            [$sides, $type] = Coercion::unify([$a->asNullable()->ref(), $b->asNullable()->ref()], $r->at);
            $field = $this->field($a->name, $type, true);
            $old = $relation->fields();
            $relation = new Project(
                $relation,
                [...$old, $field],
                [...array_map(static fn (Field $f): Expr => $f->ref(), $old), new Op('coalesce', $sides, $type, true)],
            );
            $merged[$column] = $field;
        }

        return [$relation, new BindingScope($tables, $outer, $merged)];
    }
}
