<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Lineage;

use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Expression\Ref;
use Fulcrion\Practice\Expression\SortTerm;
use Fulcrion\Practice\Expression\SubqueryExpr;
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
use Fulcrion\Practice\Storage\TableStore;

/**
 * Where the columns of a bound query come from, and which columns decided on its rows. Taken from what is run, not from
 * names in a text. A column is written schema.table.column.
 */
final class Provenance
{
    /** @var array<int, array<string, bool>> id of a field => column it flows from => whether its value is the same */
    private array $flows = [];

    /** @var array<string, TableStore|null> schema.table => its store; null for a view */
    public array $tables = [];

    /** @var array<string, true> columns that decided which rows there are */
    public array $conditions = [];

    /** @var array<string, true> tables of which more than one row may have come into a row */
    public array $apart = [];

    /** @var array<string, array<int, true>> column of a view => fields it was read as */
    private array $viewFields = [];

    private int $within = 0;

    /**
     * @param  array<int, string>  $views id of a field => column of a view it is
     */
    public function __construct(private readonly array $views)
    {
    }

    /**
     * @return list<array<string, bool>> one a column of the query
     */
    public function of(RelationNode $relation): array
    {
        $this->walk($relation);

        return array_map(fn (Field $field): array => $this->flows[$field->id] ?? [], $relation->fields());
    }

    /**
     * Of an expression over columns of one table.
     *
     * @return array<string, bool>
     */
    public function ofExpression(Expr $e): array
    {
        if ($e instanceof Ref) {
            return $this->flows[$e->id] ?? [];
        }
        $found = [];
        foreach (array_keys($e->refs()) as $id) {
            $found += $this->flows[$id] ?? [];
        }
        foreach ($this->subqueries($e) as $query) {
            $this->within++;
            foreach ($this->of($query->plan) as $flows) {
                $found += $flows;
            }
            $this->within--;
        }

        return array_map(static fn (): bool => false, $found);
    }

    public function walk(RelationNode $relation): void
    {
        foreach ($relation->inputs() as $input) {
            $this->walk($input);
        }
        match (true) {
            $relation instanceof Scan => $this->scan($relation),
            $relation instanceof Project => $this->set($relation->fields, array_map($this->ofExpression(...), $relation->values)),
            $relation instanceof Aggregation => $this->aggregation($relation),
            $relation instanceof WindowNode => $this->window($relation),
            $relation instanceof Union => $this->union($relation),
            $relation instanceof Values => $this->values($relation),
            $relation instanceof FilterNode => $this->decide($relation->conditions),
            $relation instanceof JoinNode => $this->decide($relation->conditions),
            $relation instanceof Sort => $this->decide(
                $relation->limit === null && $relation->offset === 0
                    ? []
                    : array_map(static fn (SortTerm $term): Expr => $term->value, $relation->terms),
            ),
            default => throw new \LogicException('It is not known what flows through '.$relation::class.'.'),
        };
        foreach ($relation->fields() as $field) {
            $view = $this->views[$field->id] ?? null;
            if ($view !== null) {
                $this->flows[$field->id] = [...$this->flows[$field->id] ?? [], $view => true];
                $name = substr($view, 0, (int) strrpos($view, '.'));
                $this->tables += [$name => null];
                $this->viewFields[$view][$field->id] = true;
                if ($this->within > 0 || count($this->viewFields[$view]) > 1) {
                    $this->apart[$name] = true;
                }
            }
        }
    }

    private function scan(Scan $scan): void
    {
        $table = "{$scan->table->schema}.{$scan->table->name}";
        if ($this->within > 0 || isset($this->tables[$table])) {
            $this->apart[$table] = true;
        }
        $this->tables[$table] = $scan->table;
        foreach ($scan->columns as $number => $field) {
            $this->flows[$field->id] = ["{$table}.{$scan->manifest->definition->columns[$number]->name}" => true];
        }
        $this->decide($scan->conditions);
    }

    private function window(WindowNode $relation): void
    {
        $this->set($relation->added, array_map(fn ($call): array => $this->all($call->expressions()), $relation->calls));
        // What is worked out over other rows stands in this one.
        $this->apart += array_map(static fn (): bool => true, $this->tables);
    }

    private function aggregation(Aggregation $relation): void
    {
        $this->set($relation->groupFields, array_map($this->ofExpression(...), $relation->groups));
        $this->set(
            $relation->aggregateFields,
            array_map(fn ($aggregate): array => $this->all($aggregate->expressions()), $relation->aggregates),
        );
    }

    private function union(Union $relation): void
    {
        foreach ($relation->fields as $i => $field) {
            $this->flows[$field->id] = [];
            foreach ($relation->branches as $branch) {
                foreach ($this->flows[$branch->fields()[$i]->id] ?? [] as $column => $isCopy) {
                    $this->flows[$field->id][$column] = ($this->flows[$field->id][$column] ?? true) && $isCopy;
                }
            }
        }
    }

    private function values(Values $relation): void
    {
        foreach ($relation->fields as $i => $field) {
            $this->flows[$field->id] = $this->all(array_column($relation->rows, $i));
        }
    }

    /**
     * @param  list<Field>  $fields
     * @param  list<array<string, bool>>  $flows
     */
    private function set(array $fields, array $flows): void
    {
        foreach ($fields as $i => $field) {
            $this->flows[$field->id] = $flows[$i] ?? [];
        }
    }

    /**
     * @param  array<Expr>  $expressions
     * @return array<string, bool> none of them the value itself
     */
    private function all(array $expressions): array
    {
        $found = [];
        foreach ($expressions as $e) {
            $found += $this->ofExpression($e);
        }

        return array_map(static fn (): bool => false, $found);
    }

    /**
     * @param  array<Expr>  $conditions
     */
    private function decide(array $conditions): void
    {
        foreach ($conditions as $condition) {
            $this->conditions += array_map(static fn (): bool => true, $this->ofExpression($condition));
        }
    }

    /**
     * @return list<SubqueryExpr>
     */
    private function subqueries(Expr $e): array
    {
        $found = $e instanceof SubqueryExpr ? [$e] : [];
        foreach ($e->parts() as $part) {
            array_push($found, ...$this->subqueries($part));
        }

        return $found;
    }
}
