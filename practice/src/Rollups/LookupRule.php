<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Rollups;

use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Practice\Expression\Constant;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Expression\Op;
use Fulcrion\Practice\Expression\Ref;
use Fulcrion\Practice\Logical\Field;
use Fulcrion\Practice\Logical\FilterNode;
use Fulcrion\Practice\Logical\JoinNode;
use Fulcrion\Practice\Logical\Project;
use Fulcrion\Practice\Logical\RelationNode;
use Fulcrion\Practice\Logical\Rewriter;
use Fulcrion\Practice\Logical\Scan;
use Fulcrion\Practice\Physical\Kernel;
use Fulcrion\Practice\Physical\Run;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Practice\WarehouseError;

/**
 * Turns joins with a dimension into lookups by its key. What the dimension is filtered by is answered beforehand: the
 * keys that are left become a condition on the other table, which is known before its chunks are chosen.
 */
final class LookupRule
{
    /** Keys that are listed one by one; of more only the span is told, and each is asked for. */
    private const LISTED = 1000;

    private const DAY_US = 86_400_000_000;

    /** @var list<string> */
    public array $remarks = [];

    /** @var list<array{Lookup, float, float}> */
    public array $used = [];

    /** @var array<string, array<int|string, int|float|string|bool|null>> what a run looks values up in */
    public array $maps = [];

    /** @var list<Lookup> */
    private array $taken = [];

    public function __construct(private readonly Warehouse $warehouse, private readonly int $nowUs)
    {
    }

    /**
     * @param  array<int, true>  $needed ids the result is to have
     */
    public function apply(RelationNode $relation, array $needed): RelationNode
    {
        $lookups = $this->warehouse->rollupBook()->lookups();
        if ($lookups === []) {
            return $relation;
        }
        $changed = $this->within($relation, $lookups);
        $taken = $this->taken;
        if (count($taken) === 0) {
            return $relation;
        }
        $rewriter = new Rewriter();
        $changed = $rewriter->prune($rewriter->rewrite($changed), $needed);
        $before = ReadCost::of($relation, $this->warehouse->profile, $this->warehouse->nodes);
        $after = ReadCost::of($changed, $this->warehouse->profile, $this->warehouse->nodes);
        foreach ($taken as $lookup) {
            // What several spare together is shared among them.
            $this->used[] = [
                $lookup,
                max(0.0, $before->us - $after->us) / count($taken),
                ((float) max(0, $before->bytes - $after->bytes) * $this->warehouse->profile->rowFactor) / count($taken),
            ];
        }
        $this->taken = [];

        return $changed;
    }

    /**
     * @param  list<Lookup>  $lookups
     */
    private function within(RelationNode $relation, array $lookups): RelationNode
    {
        $inputs = array_map(fn (RelationNode $input): RelationNode => $this->within($input, $lookups), $relation->inputs());
        $relation = $inputs === [] ? $relation : $relation->withInputs($inputs);
        if (! ($relation instanceof JoinNode)) {
            return $relation;
        }
        $sides = match ($relation->kind) {
            JoinNode::INNER => [[$relation->left, $relation->right], [$relation->right, $relation->left]],
            JoinNode::LEFT, JoinNode::SEMI => [[$relation->left, $relation->right]],
            default => [],
        };
        foreach ($sides as [$other, $dimension]) {
            $changed = $dimension instanceof Scan ? $this->looked($relation, $other, $dimension, $lookups) : null;
            if ($changed !== null) {
                return $changed;
            }
        }

        return $relation;
    }

    /**
     * @param  list<Lookup>  $lookups
     */
    private function looked(JoinNode $join, RelationNode $other, Scan $dimension, array $lookups): ?RelationNode
    {
        $name = "{$dimension->table->schema}.{$dimension->table->name}";
        foreach ($lookups as $lookup) {
            if ($lookup->table !== $name) {
                continue;
            }
            [$key, $rest] = $this->key($join->conditions, $dimension, $other, $lookup->key);
            $lacking = array_diff(array_map(static fn (Field $field): string => $field->name, $dimension->fields()), $lookup->columns);
            $why = match (true) {
                $key === null => "the join is not by {$lookup->key} alone",
                $rest !== [] && $join->kind !== JoinNode::INNER => 'the join has a further condition',
                $lacking !== [] => 'it does not keep '.implode(', ', $lacking),
                array_diff_key(Expr::refsOf($dimension->conditions), $dimension->ids()) !== [] => 'the filter of the dimension depends '
                    .'on an outer statement',
                default => (new LookupKeeper($this->warehouse, $this->nowUs))->map($lookup, $dimension->table, $dimension->manifest),
            };
            if (is_string($why)) {
                $this->remarks[] = "lookup {$lookup->path()} not used: {$why}";

                continue;
            }

            assert($key !== null);

            return $this->replaced($join, $other, $dimension, $lookup, $why, $key, $rest);
        }

        return null;
    }

    /**
     * @param  array<string, list<int|float|string|bool|null>>  $map
     * @param  list<Expr>  $rest
     */
    private function replaced(
        JoinNode $join,
        RelationNode $other,
        Scan $dimension,
        Lookup $lookup,
        array $map,
        Expr $key,
        array $rest,
    ): RelationNode {
        $all = count($map[$lookup->key]);
        $rows = $all === 0 ? [] : range(0, $all - 1);
        if ($dimension->conditions !== []) {
            $columns = [];
            foreach ($dimension->columns as $field) {
                $columns[$field->id] = $map[$field->name];
            }
            $rows = Kernel::filter(
                $dimension->conditions,
                $columns,
                static fn (): int => throw new WarehouseError('a subquery in a filter of a lookup'),
            )($columns, $all, [], $this->nobody());
        }
        /** @var list<int|string> $keys */
        $keys = array_map(static fn (int $row) => $map[$lookup->key][$row], $rows);
        $id = "{$lookup->path()}#".count($this->maps);
        $conditions = $join->kind === JoinNode::LEFT ? [] : $this->conditions($key, $keys, $rows === [] || count($rows) < $all, $id);
        $input = $conditions === [] ? $other : new FilterNode($other, $conditions);
        if ($join->kind !== JoinNode::SEMI) {
            $fields = $other->fields();
            $values = array_map(static fn (Field $field): Expr => $field->ref(), $fields);
            foreach ($dimension->columns as $field) {
                $this->maps["{$id}.{$field->name}"] = array_combine(
                    $keys,
                    array_map(static fn (int $row) => $map[$field->name][$row], $rows),
                );
                $field = $join->kind === JoinNode::LEFT ? $field->asNullable() : $field;
                $fields[] = $field;
                $values[] = new Op('lookup', [$key], $field->type, $field->nullable || $key->nullable, "{$id}.{$field->name}");
            }
            $input = new Project($input, $fields, $values);
        }
        $this->taken[] = $lookup;
        $this->remarks[] =
            "lookup {$lookup->path()} used in place of a join with {$lookup->table}".
            (count($rows) < $all ? ': '.count($rows)." of its {$all} keys meet the filter".$this->span($key, $keys) : '');

        return $rest === [] ? $input : new FilterNode($input, $rest);
    }

    /**
     * Conditions only rows whose key is wanted meet, such that bounds of chunks can be held against them.
     *
     * @param  list<int|string>  $keys
     * @return list<Expr>
     */
    private function conditions(Expr $key, array $keys, bool $filtered, string $id): array
    {
        $boolean = ColumnType::of(TypeKind::Boolean);
        if ($keys === []) {
            return [new Constant(false, $boolean)];
        }
        $test = static fn (string $name, Expr $e, int|string $value): Op => new Op(
            $name,
            [$e, new Constant($value, $e->type)],
            $boolean,
            $e->nullable,
        );
        $conditions = [];
        $exact = false;
        if (
            $filtered &&
            $key instanceof Op &&
            $key->name === 'cast' &&
            $key->type->is(TypeKind::Date) &&
            $key->args[0]->type->is(TypeKind::Timestamp)
        ) {
            [$least, $most] = [(int) min($keys), (int) max($keys)];
            $conditions = [$test('ge', $key->args[0], $least * self::DAY_US), $test('lt', $key->args[0], ($most + 1) * self::DAY_US)];
            $exact = $most - $least + 1 === count($keys);
        } elseif ($filtered && count($keys) > self::LISTED && is_int($keys[0])) {
            $conditions = [$test('ge', $key, min($keys)), $test('le', $key, max($keys))];
        }
        if ($exact) {
            return $conditions;
        }
        if (count($keys) <= self::LISTED) {
            return [
                ...$conditions,
                new Op(
                    'in',
                    [
                        $key,
                        ...array_map(
                            static fn (int|string $value): Constant => new Constant(
                                $key->type->is(TypeKind::Text) ? (string) $value : $value,
                                $key->type,
                            ),
                            $keys,
                        ),
                    ],
                    $boolean,
                    $key->nullable,
                ),
            ];
        }
        $this->maps["{$id}.?"] = array_fill_keys($keys, true);

        return [...$conditions, new Op('known', [$key], $boolean, false, "{$id}.?")];
    }

    /**
     * The other side of the equality with the key, and the conditions beside it.
     *
     * @param  list<Expr>  $conditions
     * @return array{Expr|null, list<Expr>}
     */
    private function key(array $conditions, Scan $dimension, RelationNode $other, string $name): array
    {
        $ids = $dimension->ids();
        foreach ($conditions as $i => $condition) {
            if (! ($condition instanceof Op) || $condition->name !== 'eq') {
                continue;
            }
            foreach ([$condition->args, array_reverse($condition->args)] as [$mine, $theirs]) {
                if (
                    $mine instanceof Ref &&
                    isset($ids[$mine->id]) &&
                    $mine->name === $name &&
                    (string) $theirs->type === (string) $mine->type &&
                    ! $theirs->hasSubquery() &&
                    $theirs->refs() !== [] &&
                    array_diff_key($theirs->refs(), $other->ids()) === []
                ) {
                    return [$theirs, array_values(array_diff_key($conditions, [$i => true]))];
                }
            }
        }

        return [null, []];
    }

    /**
     * @param  list<int|string>  $keys
     */
    private function span(Expr $key, array $keys): string
    {
        return $keys === [] || ! is_int($keys[0]) ? '' : ", {$key->type->show(min($keys))} to {$key->type->show(max($keys))}";
    }

    /** Filters of a dimension ask nothing of a run. */
    private function nobody(): Run
    {
        return new Run(
            1,
            $this->warehouse->profile,
            new \Fulcrion\Practice\Physical\ChunkCache(1),
            new \Fulcrion\Practice\Physical\Limits(1, 0, null, static fn (): int => 0, PHP_INT_MAX),
            [],
        );
    }
}
