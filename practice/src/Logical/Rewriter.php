<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Logical;

use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Practice\Expression\Constant;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Expression\Failing;
use Fulcrion\Practice\Expression\Op;
use Fulcrion\Practice\Expression\Ref;
use Fulcrion\Practice\Expression\SubqueryExpr;
use Fulcrion\Practice\Switches;

/**
 * Changes a relation into a cheaper one with the same rows: subqueries to semi-joins, conditions as far down as they
 * can go, outer joins to inner ones where their NULLs are filtered out anyway, columns nobody reads left out.
 */
final readonly class Rewriter
{
    /** Operators that give NULL, or not TRUE, as soon as one argument is NULL. */
    private const STRICT = [
        'eq',
        'ne',
        'lt',
        'le',
        'gt',
        'ge',
        'like',
        'add',
        'sub',
        'mul',
        'div',
        'mod',
        'neg',
        'abs',
        'cast',
        'date_trunc',
        'extract',
        'plus_interval',
        'datediff',
        'upper',
        'lower',
        'length',
        'substring',
        'round',
        'floor',
        'ceil',
    ];

    /**
     * @param  bool  $careful whether conditions that can fail stay above joins
     */
    public function __construct(private Switches $switches = new Switches(), private bool $careful = false)
    {
    }

    public function rewrite(RelationNode $relation): RelationNode
    {
        if ($this->switches->on(Switches::SUBQUERIES)) {
            $relation = $this->unnest($relation);
        }
        if ($this->switches->on(Switches::DOWN)) {
            $relation = $this->push($relation, []);
        }

        return $this->switches->on(Switches::COLUMNS) ? $this->prune($relation, $relation->ids()) : $relation;
    }

    private function unnest(RelationNode $relation): RelationNode
    {
        $inputs = array_map($this->unnest(...), $relation->inputs());
        if ($inputs !== []) {
            $relation = $relation->withInputs($inputs);
        }
        if (! ($relation instanceof FilterNode)) {
            return $relation;
        }
        $input = $relation->input;
        $rest = [];
        foreach ($relation->conditions as $condition) {
            $joined = $this->asJoin($input, $condition);
            if ($joined === null) {
                $rest[] = $condition;
            } else {
                $input = $joined;
            }
        }

        return $rest === [] ? $input : new FilterNode($input, $rest);
    }

    private function asJoin(RelationNode $input, Expr $condition): ?JoinNode
    {
        $negated = $condition instanceof Op && $condition->name === 'not';
        $query = $negated ? $condition->args[0] : $condition;
        if (
            ! ($query instanceof SubqueryExpr) ||
            ($query->kind !== SubqueryExpr::EXISTS && ($query->kind !== SubqueryExpr::IN || $negated)) ||
            $query->left?->hasSubquery() === true
        ) {
            return null;
        }
        // What the subquery reads must be here, not further outside.
        if (array_diff_key($query->plan->free(), $input->ids()) !== []) {
            return null;
        }
        $plan = $this->unnest($query->plan);
        $conditions = [];
        if ($query->kind === SubqueryExpr::IN) {
            $value = $plan->fields()[0]->ref();
            if ($plan->free() !== []) {
                if (! ($plan instanceof Project)) {
                    return null;
                }
                $value = $plan->values[0];
                $plan = $plan->input;
            }
            $left = $query->left ?? $value;
            $conditions[] = new Op('eq', [$left, $value], ColumnType::of(TypeKind::Boolean), $left->nullable || $value->nullable);
            if (array_diff_key($value->refs(), $plan->ids()) !== []) {
                return null;
            }
        } else {
            while ($plan instanceof Project || ($plan instanceof Sort && $plan->limit === null && $plan->offset === 0)) {
                $plan = $plan->input;
            }
        }
        if ($plan->free() !== []) {
            if (! ($plan instanceof FilterNode) || $plan->input->free() !== []) {
                return null;
            }
            $inside = $plan->input->ids();
            $kept = [];
            foreach ($plan->conditions as $inner) {
                if (array_diff_key($inner->refs(), $inside) === []) {
                    $kept[] = $inner;
                } elseif ($inner->hasSubquery()) {
                    return null;
                } else {
                    $conditions[] = $inner;
                }
            }
            $plan = $kept === [] ? $plan->input : new FilterNode($plan->input, $kept);
        }

        return new JoinNode($negated ? JoinNode::ANTI : JoinNode::SEMI, $input, $plan, $conditions);
    }

    /**
     * @param  list<Expr>  $conditions to be met by the relation's rows
     */
    private function push(RelationNode $relation, array $conditions): RelationNode
    {
        $conditions = array_values(array_filter($conditions, static fn (Expr $e): bool =>
            ! ($e instanceof Constant && $e->value === true)));

        return match (true) {
            $relation instanceof FilterNode => $this->push($relation->input, [...$relation->conditions, ...$conditions]),
            $relation instanceof Scan => $this->pushIntoScan($relation, $conditions),
            $relation instanceof Project => $this->pushThroughProject($relation, $conditions),
            $relation instanceof JoinNode => $this->pushThroughJoin($relation, $conditions),
            $relation instanceof Aggregation => $this->pushThroughAggregation($relation, $conditions),
            $relation instanceof Union => new Union(
                $relation->fields,
                array_map(
                    fn (RelationNode $branch): RelationNode => $this->push(
                        $branch,
                        array_map(fn (Expr $e): Expr => $this->renamed($e, $relation->fields, $branch->fields()), $conditions),
                    ),
                    $relation->branches,
                ),
            ),
            $relation instanceof WindowNode => $this->split($relation, $conditions, $relation->commonKeys()),
            $relation instanceof Sort => $relation->limit === null && $relation->offset === 0
                ? $relation->withInputs([$this->push($relation->input, $conditions)])
                : $this->filtered($relation->withInputs([$this->push($relation->input, [])]), $conditions),
            default => $this->filtered($relation, $conditions),
        };
    }

    /**
     * @param  list<Expr>  $conditions
     */
    private function filtered(RelationNode $relation, array $conditions): RelationNode
    {
        return $conditions === [] ? $relation : new FilterNode($relation, $conditions);
    }

    /**
     * @param  list<Expr>  $conditions
     */
    private function pushIntoScan(Scan $scan, array $conditions): RelationNode
    {
        $own = array_filter($conditions, static fn (Expr $e): bool => ! $e->hasSubquery());

        return $this->filtered($scan->where(array_values($own)), array_values(array_diff_key($conditions, $own)));
    }

    /**
     * @param  list<Expr>  $conditions
     */
    private function pushThroughProject(Project $project, array $conditions): RelationNode
    {
        $below = [];
        $above = [];
        foreach ($conditions as $condition) {
            $moved = $project->below($condition);
            // A subquery must not be run again for every row further down.
            if ($moved->hasSubquery() && ! $condition->hasSubquery()) {
                $above[] = $condition;
            } else {
                $below[] = $moved;
            }
        }

        return $this->filtered($project->withInputs([$this->push($project->input, $below)]), $above);
    }

    /**
     * @param  list<Expr>  $conditions
     */
    private function pushThroughJoin(JoinNode $join, array $conditions): RelationNode
    {
        $kind = $join->kind;
        [$left, $right] = [$join->left->ids(), $join->right->ids()];
        if ($kind === JoinNode::LEFT || $kind === JoinNode::FULL) {
            $rejectsRight = $this->rejectsNulls($conditions, $right);
            $rejectsLeft = $this->rejectsNulls($conditions, $left);
            if ($kind === JoinNode::FULL) {
                if ($rejectsLeft && $rejectsRight) {
                    $kind = JoinNode::INNER;
                } elseif ($rejectsLeft) {
                    $kind = JoinNode::LEFT;
                } elseif ($rejectsRight) {
                    return $this->pushThroughJoin(new JoinNode(JoinNode::LEFT, $join->right, $join->left, $join->conditions), $conditions);
                }
            } elseif ($rejectsRight) {
                $kind = JoinNode::INNER;
            }
        }
        $toLeft = [];
        $toRight = [];
        $own = $kind === JoinNode::INNER ? [] : $join->conditions;
        $above = $this->careful ? array_values(array_filter($conditions, Failing::can(...))) : [];
        $conditions = $this->careful ? array_values(array_filter($conditions, static fn (Expr $e): bool =>
            ! Failing::can($e))) : $conditions;
        foreach ($kind === JoinNode::INNER ? [...$join->conditions, ...$conditions] : $conditions as $condition) {
            $refs = $condition->refs();
            $inLeft = array_intersect_key($refs, $right) === [];
            $inRight = array_intersect_key($refs, $left) === [];
            if ($inLeft && $kind !== JoinNode::FULL) {
                $toLeft[] = $condition;
            } elseif ($inRight && $kind === JoinNode::INNER) {
                $toRight[] = $condition;
            } elseif ($kind === JoinNode::INNER && ! $condition->hasSubquery()) {
                $own[] = $condition;
            } else {
                $above[] = $condition;
            }
        }
        if ($kind === JoinNode::LEFT || $kind === JoinNode::SEMI || $kind === JoinNode::ANTI) {
            $kept = [];
            foreach ($own as $condition) {
                $refs = $condition->refs();
                if (array_intersect_key($refs, $left) === [] && array_intersect_key($refs, $right) !== [] && ! $condition->hasSubquery()) {
                    $toRight[] = $condition;
                } elseif (
                    $kind === JoinNode::SEMI &&
                    array_intersect_key($refs, $right) === [] &&
                    array_intersect_key($refs, $left) !== []
                ) {
                    $toLeft[] = $condition;
                } else {
                    $kept[] = $condition;
                }
            }
            $own = $kept;
        }
        if ($kind === JoinNode::INNER || $kind === JoinNode::SEMI) {
            [$toLeft, $toRight] = $this->carryOver($own, $toLeft, $toRight, $left, $right);
        }

        return $this->filtered(new JoinNode($kind, $this->push($join->left, $toLeft), $this->push($join->right, $toRight), $own), $above);
    }

    /**
     * With a = b and a = 5 it is known that b = 5: such conditions on one column hold on the other side too.
     *
     * @param  list<Expr>  $equalities
     * @param  list<Expr>  $toLeft
     * @param  list<Expr>  $toRight
     * @param  array<int, true>  $left
     * @param  array<int, true>  $right
     * @return array{list<Expr>, list<Expr>}
     */
    private function carryOver(array $equalities, array $toLeft, array $toRight, array $left, array $right): array
    {
        foreach ($equalities as $equality) {
            if (
                ! ($equality instanceof Op) ||
                $equality->name !== 'eq' ||
                ! ($equality->args[0] instanceof Ref) ||
                ! ($equality->args[1] instanceof Ref)
            ) {
                continue;
            }
            [$a, $b] = isset($left[$equality->args[0]->id]) ? $equality->args : array_reverse($equality->args);
            if (! ($a instanceof Ref) || ! ($b instanceof Ref) || ! isset($left[$a->id], $right[$b->id])) {
                continue;
            }
            $over = static fn (Expr $e, Ref $from, Ref $to): ?Expr => array_keys($e->refs()) === [$from->id] &&
            ! $e->hasSubquery() &&
            $e instanceof Op &&
            in_array($e->name, ['eq', 'lt', 'le', 'gt', 'ge', 'in'], true)
                ? $e->replace(static fn (Expr $part): ?Expr => $part instanceof Ref && $part->id === $from->id ? $to : null)
                : null;
            $known = array_map(static fn (Expr $e): string => $e->key(), [...$toLeft, ...$toRight]);
            foreach ($toLeft as $e) {
                $copy = $over($e, $a, $b);
                if ($copy !== null && ! in_array($copy->key(), $known, true)) {
                    $toRight[] = $copy;
                }
            }
            foreach ($toRight as $e) {
                $copy = $over($e, $b, $a);
                if (
                    $copy !== null &&
                    ! in_array($copy->key(), $known, true) &&
                    ! in_array($copy->key(), array_map(static fn (Expr $x): string => $x->key(), $toLeft), true)
                ) {
                    $toLeft[] = $copy;
                }
            }
        }

        return [$toLeft, $toRight];
    }

    /**
     * @param  list<Expr>  $conditions
     */
    private function pushThroughAggregation(Aggregation $aggregation, array $conditions): RelationNode
    {
        $map = [];
        foreach ($aggregation->groupFields as $i => $field) {
            $map[$field->id] = $aggregation->groups[$i];
        }
        $below = [];
        $above = [];
        foreach ($conditions as $condition) {
            // Without groups there is one row even of no input, so nothing may be filtered before.
            if (
                $map === [] ||
                array_diff_key(array_intersect_key($condition->refs(), $aggregation->ids()), $map) !== [] ||
                $condition->hasSubquery()
            ) {
                $above[] = $condition;
            } else {
                $below[] = $condition->substitute($map);
            }
        }

        return $this->filtered($aggregation->withInputs([$this->push($aggregation->input, $below)]), $above);
    }

    /**
     * @param  list<Expr>  $conditions
     * @param  array<int, mixed>  $passing columns a condition may read to be moved below
     */
    private function split(WindowNode $window, array $conditions, array $passing): RelationNode
    {
        $below = array_filter(
            $conditions,
            static fn (Expr $e): bool => $e->refs() !== [] && array_diff_key($e->refs(), $passing) === [] && ! $e->hasSubquery(),
        );

        return $this->filtered(
            $window->withInputs([$this->push($window->input, array_values($below))]),
            array_values(array_diff_key($conditions, $below)),
        );
    }

    /**
     * @param  list<Field>  $from
     * @param  list<Field>  $to
     */
    private function renamed(Expr $e, array $from, array $to): Expr
    {
        $map = [];
        foreach ($from as $i => $field) {
            $map[$field->id] = $to[$i]->ref();
        }

        return $e->substitute($map);
    }

    /**
     * Whether some condition cannot be true where all the columns are NULL.
     *
     * @param  list<Expr>  $conditions
     * @param  array<int, true>  $columns
     */
    private function rejectsNulls(array $conditions, array $columns): bool
    {
        foreach ($conditions as $condition) {
            if ($this->rejects($condition, $columns)) {
                return true;
            }
        }

        return false;
    }

    /**
     * @param  array<int, true>  $columns
     */
    private function rejects(Expr $e, array $columns): bool
    {
        if (! ($e instanceof Op)) {
            return $e instanceof Ref && isset($columns[$e->id]);
        }
        if ($e->name === 'and' || $e->name === 'or') {
            $rejecting = array_filter($e->args, fn (Expr $arg): bool => $this->rejects($arg, $columns));

            return $e->name === 'and' ? $rejecting !== [] : count($rejecting) === count($e->args);
        }
        if ($e->name === 'not') {
            $inner = $e->args[0];

            return $inner instanceof Op &&
                ($inner->name === 'isnull'
                    ? $this->nullWith($inner->args[0], $columns)
                    : in_array($inner->name, ['eq', 'ne', 'lt', 'le', 'gt', 'ge', 'like', 'in'], true) &&
                        $this->nullWith($inner->args[0], $columns));
        }
        if ($e->name === 'in') {
            return $this->nullWith($e->args[0], $columns);
        }

        return in_array($e->name, ['eq', 'ne', 'lt', 'le', 'gt', 'ge', 'like'], true) &&
            ($this->nullWith($e->args[0], $columns) || $this->nullWith($e->args[1], $columns));
    }

    /**
     * Whether an expression is surely NULL where the columns are.
     *
     * @param  array<int, true>  $columns
     */
    private function nullWith(Expr $e, array $columns): bool
    {
        if ($e instanceof Ref) {
            return isset($columns[$e->id]);
        }
        if (! ($e instanceof Op) || ! in_array($e->name, self::STRICT, true)) {
            return false;
        }
        foreach ($e->args as $arg) {
            if ($this->nullWith($arg, $columns)) {
                return true;
            }
        }

        return false;
    }

    /**
     * Leaves out columns nobody reads, and marks joins one side of which is only asked for matches.
     *
     * @param  array<int, true>  $needed by id
     */
    public function prune(RelationNode $relation, array $needed): RelationNode
    {
        $own = Expr::refsOf($relation->expressions());
        if ($relation instanceof Scan) {
            return new Scan(
                $relation->table,
                $relation->manifest,
                $relation->alias,
                array_filter($relation->columns, static fn (Field $field): bool => isset($needed[$field->id]) || isset($own[$field->id])),
                $relation->conditions,
            );
        }
        if ($relation instanceof Project) {
            $kept = array_filter($relation->fields, static fn (Field $field): bool => isset($needed[$field->id]));
            $values = array_intersect_key($relation->values, $kept);

            return new Project($this->prune($relation->input, Expr::refsOf($values)), array_values($kept), array_values($values));
        }
        if ($relation instanceof Aggregation) {
            $kept = array_filter($relation->aggregateFields, static fn (Field $field): bool => isset($needed[$field->id]));
            $smaller = new Aggregation(
                $relation->input,
                $relation->groupFields,
                $relation->groups,
                array_values($kept),
                array_values(array_intersect_key($relation->aggregates, $kept)),
            );

            return $smaller->withInputs([$this->prune($relation->input, Expr::refsOf($smaller->expressions()))]);
        }
        if ($relation instanceof Union) {
            $kept = array_filter($relation->fields, static fn (Field $field): bool => isset($needed[$field->id]));
            $branches = array_map(function (RelationNode $branch) use ($kept): RelationNode {
                $fields = array_intersect_key($branch->fields(), $kept);
                $ids = [];
                foreach ($fields as $field) {
                    $ids[$field->id] = true;
                }
                $pruned = $this->prune($branch, $ids);

                // Branches must keep the order of the columns, and none beside them.
                return array_map(static fn (Field $f): int => $f->id, $pruned->fields()) === array_keys($ids)
                    ? $pruned
                    : new Project(
                        $pruned,
                        array_values($fields),
                        array_map(static fn (Field $field): Expr => $field->ref(), array_values($fields)),
                    );
            }, $relation->branches);

            return new Union(array_values($kept), $branches);
        }
        if ($relation instanceof WindowNode) {
            $kept = array_filter($relation->added, static fn (Field $field): bool => isset($needed[$field->id]));
            if ($kept === []) {
                return $this->prune($relation->input, $needed);
            }
            $relation = new WindowNode($relation->input, array_values($kept), array_values(array_intersect_key($relation->calls, $kept)));
        }
        if ($relation instanceof JoinNode && $relation->kind === JoinNode::INNER) {
            $unused = static fn (RelationNode $side): bool => array_intersect_key($needed, $side->ids()) === [];
            $relation = new JoinNode(
                $relation->kind,
                $relation->left,
                $relation->right,
                $relation->conditions,
                $unused($relation->right) ? 'right' : ($unused($relation->left) ? 'left' : ''),
            );
        }
        $inputs = array_map(
            fn (RelationNode $input): RelationNode => $this->prune($input, array_intersect_key($needed + $own, $input->ids())),
            $relation->inputs(),
        );

        return $inputs === [] ? $relation : $relation->withInputs($inputs);
    }
}
