<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Rollups;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Practice\Expression\Aggregate;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Logical\Aggregation;
use Fulcrion\Practice\Logical\Field;
use Fulcrion\Practice\Logical\Project;
use Fulcrion\Practice\Logical\RelationNode;
use Fulcrion\Practice\Logical\Rewriter;
use Fulcrion\Practice\Logical\Scan;
use Fulcrion\Practice\Sql\QueryBinder;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\Manifest;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Practice\WarehouseError;

/**
 * What a rollup computes, bound to the tables: its groups, and the parts its measures are kept as. A mean is kept as
 * sum and count, so that means of coarser groups come out exactly; a distinct count as a sketch.
 */
final readonly class Shape
{
    public const ROWS = 'count||';

    /**
     * @param  list<Expr>  $groups
     * @param  array<string, Aggregate>  $parts over columns of the block
     * @param  list<string>  $names of its columns: groups, then parts
     */
    private function __construct(
        public RelationNode $input,
        public Block $block,
        public array $groups,
        public array $parts,
        public array $names,
        private QueryBinder $binder,
    ) {
    }

    /**
     * @param  int  $firstId above all ids of the statement it is to be put into
     *
     * @throws WarehouseError
     */
    public static function of(Warehouse $warehouse, Session $session, string $sql, int $firstId = 1): self
    {
        $query = (new Parser())->statement($sql);
        if (! ($query instanceof Ast\Query)) {
            throw new WarehouseError('A rollup is made of a SELECT.');
        }
        if ($query->orderBy !== [] || $query->limit !== null || $query->offset !== null) {
            throw new WarehouseError(
                'A rollup has no order and no limit; leave ORDER BY and LIMIT to the statements that use it.',
                $query->at,
            );
        }
        // Without a schema of its own, so that it means the same for everybody.
        $binder = new QueryBinder($warehouse, new Session('', $session->user, $session->nowUs), $firstId);
        $relation = $binder->query($query);
        $relation = (new Rewriter())->rewrite($relation);
        while ($relation instanceof Project) {
            $relation = $relation->input;
        }
        if (! ($relation instanceof Aggregation) || $relation->groups === []) {
            throw new WarehouseError('A rollup is SELECT groups and measures FROM tables GROUP BY groups, without HAVING.', $query->at);
        }
        $block = Block::of($relation->input);
        if (is_string($block)) {
            throw new WarehouseError("This cannot be a rollup: {$block}.", $query->at);
        }
        $directories = array_map(static fn (Scan $scan): string => $scan->table->directory, $block->scans);
        if (count(array_unique($directories)) < count($directories)) {
            throw new WarehouseError('This cannot be a rollup: it reads a table twice.', $query->at);
        }
        $groups = array_map(static fn (Expr $e): Expr => $e->substitute($block->computed), $relation->groups);
        $whole = ColumnType::of(TypeKind::Bigint);
        $parts = [self::ROWS => new Aggregate('count', null, false, null, $whole, false)];
        foreach ($relation->aggregates as $aggregate) {
            $aggregate = $aggregate->with(static fn (Expr $e): Expr => $e->substitute($block->computed));
            if ($aggregate->distinct) {
                throw new WarehouseError(
                    'An exact distinct count or sum cannot be put together from parts. Use approx_count_distinct, or add the column to '
                        .'the groups.',
                    $query->at,
                );
            }
            foreach (self::partsOf($aggregate) as $part) {
                $parts[self::key($part)] ??= $part;
            }
        }
        $names = array_map(static fn (Field $field): string => mb_strtolower($field->name), $relation->groupFields);
        foreach (array_values($parts) as $i => $part) {
            $names[] = $i === 0 ? 'rows' : mb_strtolower($part->text());
        }
        foreach ($names as $i => $name) {
            $names[$i] = in_array($name, array_slice($names, 0, $i), true) ? "{$name} {$i}" : $name;
        }

        // Groups and measures are said by columns of the tables, so nothing is computed on the way to them.
        $input = self::bare($relation->input)->withExpressions(static fn (Expr $e): Expr => $e->substitute($block->computed));

        return new self($input, $block, $groups, $parts, array_values($names), $binder);
    }

    private static function bare(RelationNode $relation): RelationNode
    {
        return $relation instanceof Project
            ? self::bare($relation->input)
            : $relation->withInputs(array_map(self::bare(...), $relation->inputs()));
    }

    public static function key(Aggregate $part): string
    {
        return "{$part->function}|{$part->argument?->key()}|{$part->filter?->key()}";
    }

    /**
     * @return list<Column> of the table its rows lie in
     */
    public function columns(): array
    {
        return array_map(static fn (Field $field): Column => new Column($field->name, $field->type, $field->nullable), $this->fields());
    }

    /**
     * Fields of one use of it, groups first, with new ids.
     *
     * @return list<Field>
     */
    public function fields(): array
    {
        $fields = [];
        foreach ($this->groups as $i => $group) {
            $fields[] = $this->binder->field($this->names[$i], $group->type, true);
        }
        foreach (array_values($this->parts) as $i => $part) {
            $fields[] = $this->binder->field($this->names[count($this->groups) + $i], $part->type, $part->nullable);
        }

        return $fields;
    }

    /**
     * Its parts computed from its tables.
     *
     * @param  array<string, Manifest>  $manifests directory => chunks to read, where not all
     * @param  list<Expr>  $conditions further ones, each over columns of one table
     */
    public function computed(array $manifests, array $conditions = []): Aggregation
    {
        $fields = $this->fields();
        $groups = count($this->groups);

        return new Aggregation(
            self::limited($this->input, $manifests, $conditions),
            array_slice($fields, 0, $groups),
            $this->groups,
            array_slice($fields, $groups),
            array_values($this->parts),
        );
    }

    /**
     * @param  array<string, Manifest>  $manifests
     * @param  list<Expr>  $conditions
     */
    private static function limited(RelationNode $relation, array $manifests, array $conditions): RelationNode
    {
        if ($relation instanceof Scan) {
            $own = array_map(static fn (Field $field): int => $field->id, $relation->columns);
            $further = array_filter($conditions, static fn (Expr $e): bool => array_diff(array_keys($e->refs()), $own) === []);

            return new Scan(
                $relation->table,
                $manifests[$relation->table->directory] ?? $relation->manifest,
                $relation->alias,
                $relation->columns,
                [...$relation->conditions, ...array_values($further)],
            );
        }

        return $relation->withInputs(
            array_map(static fn (RelationNode $input): RelationNode => self::limited($input, $manifests, $conditions), $relation->inputs()),
        );
    }

    /**
     * @return list<Aggregate>
     */
    private static function partsOf(Aggregate $a): array
    {
        $whole = ColumnType::of(TypeKind::Bigint);
        $count = new Aggregate('count', $a->argument, false, $a->filter, $whole, false);

        return match ($a->function) {
            'avg' => [new Aggregate('sum', $a->argument, false, $a->filter, self::sumType($a->argument), true), $count],
            'approx_count_distinct' => [new Aggregate('sketch', $a->argument, false, $a->filter, ColumnType::of(TypeKind::Text), false)],
            'count' => [$count],
            default => [$a],
        };
    }

    private static function sumType(?Expr $e): ColumnType
    {
        $type = $e->type ?? ColumnType::of(TypeKind::Bigint);

        return $type->is(TypeKind::Decimal) ? ColumnType::decimal(ColumnType::MOST_DIGITS, $type->scale) : $type;
    }
}
