<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Practice\Expression\Aggregate;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Expression\Ref;
use Fulcrion\Practice\Expression\SubqueryExpr;
use Fulcrion\Practice\Logical\Aggregation;
use Fulcrion\Practice\Logical\Estimator;
use Fulcrion\Practice\Logical\Field;
use Fulcrion\Practice\Logical\FilterNode;
use Fulcrion\Practice\Logical\JoinNode;
use Fulcrion\Practice\Logical\JoinOrder;
use Fulcrion\Practice\Logical\Project;
use Fulcrion\Practice\Logical\RelationNode;
use Fulcrion\Practice\Logical\Rewriter;
use Fulcrion\Practice\Logical\Scan;
use Fulcrion\Practice\Logical\Sort;
use Fulcrion\Practice\Logical\Union;
use Fulcrion\Practice\Logical\Values;
use Fulcrion\Practice\Logical\WindowNode;
use Fulcrion\Practice\Rollups\LookupRule;
use Fulcrion\Practice\Rollups\RollupRule;
use Fulcrion\Practice\Switches;
use LogicException;

/**
 * Chooses how a relation is computed on the nodes: join order, what moves where, one phase or two.
 */
final class Planner
{
    private const TINY = 4;

    /** Values of the columns that place the rows of a join, for each node, below which some nodes would have little to do. */
    private const VALUES_PER_NODE = 4.0;

    private readonly Estimator $estimator;

    /** @var list<Step> */
    public array $subqueries = [];

    /** @var array<int, array{SubqueryExpr, int}> by object id of the expression's relation */
    private array $numbers = [];

    private int $nextId = 1_000_000;

    /**
     * @param  float  $loopBelow expected rows of a right side up to which no hash table is built for it; 0 for always
     */
    public function __construct(
        private readonly int $nodes,
        private readonly float $loopBelow = 0.0,
        private readonly Switches $switches = new Switches(),
        private readonly ?RollupRule $rollups = null,
        private readonly ?LookupRule $lookups = null,
        private readonly bool $careful = false,
    ) {
        $this->estimator = new Estimator();
    }

    /** A plan whose rows all arrive on the first node. */
    public function plan(RelationNode $relation): Step
    {
        $rewriter = new Rewriter($this->switches, $this->careful);
        $ids = $relation->ids();
        $relation = $rewriter->rewrite($relation);
        $plain = $relation;
        $used = count($this->rollups->used ?? []);
        $rollups = $this->switches->on(Switches::ROLLUPS) ? $this->rollups : null;
        $relation = $rollups?->apply($relation) ?? $relation;
        $relation = $this->lookups !== null && $this->switches->on(Switches::LOOKUPS) ? $this->lookups->apply($relation, $ids) : $relation;
        if ($rollups !== null && count($rollups->used) === $used && $relation !== $plain) {
            // What a lookup gives is known of whole groups where its key is.
            $relation = $rollups->apply($relation);
        }
        if ($this->switches->on(Switches::ORDER)) {
            $relation = (new JoinOrder($this->estimator, $this->careful))->order($relation);
        }
        $relation = $this->switches->on(Switches::COLUMNS) ? $rewriter->prune($relation, $ids) : $relation;

        return $this->gathered($this->step($relation));
    }

    private function subquery(SubqueryExpr $e): int
    {
        $id = spl_object_id($e->plan);
        if (! isset($this->numbers[$id])) {
            $step = $this->plan($e->plan);
            $this->subqueries[] = $step;
            // The expression is kept so that its id is not given to another.
            $this->numbers[$id] = [$e, count($this->subqueries) - 1];
        }

        return $this->numbers[$id][1];
    }

    private function step(RelationNode $relation): Step
    {
        $step = match (true) {
            $relation instanceof Scan => new ScanStep($relation, $this->switches->on(Switches::SKIPPING)),
            $relation instanceof Values => new ValuesStep($relation, $this->subquery(...)),
            $relation instanceof FilterNode => new FilterStep($this->step($relation->input), $relation->conditions, $this->subquery(...)),
            $relation instanceof Project => new ProjectStep(
                $this->step($relation->input),
                $relation->fields,
                $relation->values,
                $this->subquery(...),
            ),
            $relation instanceof JoinNode => $this->join($relation),
            $relation instanceof Aggregation => $this->aggregate($relation),
            $relation instanceof Union => $this->union($relation),
            $relation instanceof WindowNode => $this->window($relation),
            $relation instanceof Sort => $this->sort($relation),
            default => throw new LogicException($relation::class),
        };
        $step->estimate = $this->estimator->rows($relation);

        return $step;
    }

    /**
     * @param  list<Expr>  $by
     * @param  list<list<int>>  $keys
     */
    private function exchange(Step $input, string $way, array $by = [], array $keys = []): ExchangeStep
    {
        $exchange = new ExchangeStep($input, $way, $by, $keys);
        $exchange->estimate = $input->estimate;

        return $exchange;
    }

    private function gathered(Step $step): Step
    {
        if ($step->placement->kind === Placement::SINGLE) {
            return $step;
        }
        $step->split();

        return $this->exchange($step, ExchangeStep::GATHER);
    }

    private function union(Union $union): Step
    {
        $branches = array_map($this->step(...), $union->branches);
        foreach ($branches as $branch) {
            $branch->split();
        }

        return new UnionStep($union->fields, $branches);
    }

    private function sort(Sort $sort): Step
    {
        $input = $this->step($sort->input);
        if ($input->placement->kind !== Placement::SINGLE) {
            $input->split();
            if ($sort->limit !== null) {
                // Each node gives no more than can be in the result.
                $local = new SortStep($input, $sort->terms, $sort->limit + $sort->offset, 0, $this->subquery(...));
                $local->estimate = min($input->estimate, ($sort->limit + $sort->offset) * $this->nodes);
                $input = $local;
            }
            $input = $this->gathered($input);
        }

        return new SortStep($input, $sort->terms, $sort->limit, $sort->offset, $this->subquery(...));
    }

    private function window(WindowNode $window): Step
    {
        $input = $this->step($window->input);
        $keys = $window->commonKeys();
        if (! $input->placement->gathers($keys)) {
            $input->split();
            $input =
                $keys === []
                    ? $this->gathered($input)
                    : $this->exchange(
                        $input,
                        ExchangeStep::REPARTITION,
                        array_values($keys),
                        array_map(static fn (int $id): array => [$id], array_keys($keys)),
                    );
        }

        return new WindowStep($input, $window->added, $window->calls, $this->subquery(...));
    }

    private function aggregate(Aggregation $aggregation): Step
    {
        $input = $this->step($aggregation->input);
        $groupIds = [];
        $names = [];
        foreach ($aggregation->groups as $i => $group) {
            if ($group instanceof Ref) {
                $groupIds[$group->id] = true;
                $names[$group->id][] = $aggregation->groupFields[$i]->id;
            }
        }
        [$slots, $results] = $this->slots($aggregation->aggregates);
        if ($input->placement->gathers($groupIds)) {
            return new AggregateStep(
                $input,
                $aggregation->fields(),
                $aggregation->groups,
                $slots,
                $results,
                $input->placement->renamed($names),
                $this->subquery(...),
            );
        }
        $input->split();
        $hasSet = array_filter($slots, static fn (Slot $slot): bool => $slot->kind === Slot::SET) !== [];
        $final = array_map(static fn (Field $field): array => [$field->id], $aggregation->groupFields);
        if ($hasSet || ! $this->switches->on(Switches::PARTIAL)) {
            // Sets do not travel: the rows do.
            if ($aggregation->groups === []) {
                return new AggregateStep(
                    $this->gathered($input),
                    $aggregation->fields(),
                    [],
                    $slots,
                    $results,
                    new Placement(Placement::SINGLE),
                    $this->subquery(...),
                );
            }
            [$prepared, $groups] = $this->keysAsColumns($input, $aggregation);
            $keys = array_map(static fn (Ref $ref): array => [$ref->id], $groups);
            $moved = $this->exchange($prepared, ExchangeStep::REPARTITION, $groups, $keys);
            $names = [];
            foreach ($groups as $i => $ref) {
                $names[$ref->id][] = $aggregation->groupFields[$i]->id;
            }

            return new AggregateStep(
                $moved,
                $aggregation->fields(),
                $groups,
                $slots,
                $results,
                $moved->placement->renamed($names),
                $this->subquery(...),
            );
        }
        $groupFields = array_map(
            fn (Field $field): Field => new Field($this->nextId++, $field->name, $field->type, $field->nullable),
            $aggregation->groupFields,
        );
        $slotFields = array_map(
            fn (Slot $slot): Field => new Field(
                $this->nextId++,
                $slot->kind,
                $slot->kind === Slot::SKETCH
                    ? ColumnType::of(TypeKind::Text)
                    : ($slot->kind === Slot::COUNT || $slot->argument === null
                        ? ColumnType::of(TypeKind::Bigint)
                        : $slot->argument->type),
                $slot->kind !== Slot::COUNT,
            ),
            $slots,
        );
        $partial = new AggregateStep(
            $input,
            [...$groupFields, ...$slotFields],
            $aggregation->groups,
            $slots,
            null,
            new Placement(Placement::EVEN),
            $this->subquery(...),
        );
        $partial->estimate = min($input->estimate, $this->estimator->rows($aggregation) * $this->nodes);
        $groups = array_map(static fn (Field $field): Ref => $field->ref(), $groupFields);
        $moved =
            $groups === []
                ? $this->exchange($partial, ExchangeStep::GATHER)
                : $this->exchange(
                    $partial,
                    ExchangeStep::REPARTITION,
                    $groups,
                    array_map(static fn (Field $field): array => [$field->id], $groupFields),
                );
        $merged = array_map(
            static fn (Slot $slot, Field $field): Slot => new Slot(
                $slot->kind === Slot::COUNT ? Slot::SUM : $slot->kind,
                $field->ref(),
                null,
                $slot->kind === Slot::SKETCH,
            ),
            $slots,
            $slotFields,
        );

        return new AggregateStep(
            $moved,
            $aggregation->fields(),
            $groups,
            $merged,
            $results,
            $groups === [] ? new Placement(Placement::SINGLE) : new Placement(Placement::HASH, $final),
            $this->subquery(...),
        );
    }

    /**
     * @return array{Step, list<Ref>}
     */
    private function keysAsColumns(Step $input, Aggregation $aggregation): array
    {
        $fields = $input->fields;
        $values = array_map(static fn (Field $field): Expr => $field->ref(), $fields);
        $groups = [];
        foreach ($aggregation->groups as $i => $group) {
            if ($group instanceof Ref && in_array($group->id, $input->ids(), true)) {
                $groups[] = $group;
            } else {
                $field = new Field($this->nextId++, $aggregation->groupFields[$i]->name, $group->type, $group->nullable);
                $fields[] = $field;
                $values[] = $group;
                $groups[] = $field->ref();
            }
        }
        if (count($fields) === count($input->fields)) {
            return [$input, $groups];
        }
        $prepared = new ProjectStep($input, $fields, $values, $this->subquery(...));
        $prepared->estimate = $input->estimate;

        return [$prepared, $groups];
    }

    /**
     * @param  list<Aggregate>  $aggregates
     * @return array{list<Slot>, list<array{Aggregate, list<int>}>}
     */
    private function slots(array $aggregates): array
    {
        $slots = [];
        $results = [];
        foreach ($aggregates as $aggregate) {
            $numbers = [count($slots)];
            if ($aggregate->function === 'approx_count_distinct' || $aggregate->function === 'sketch') {
                $slots[] = new Slot(Slot::SKETCH, $aggregate->argument, $aggregate->filter, $aggregate->folds);
            } elseif ($aggregate->folds) {
                $slots[] = new Slot(
                    in_array($aggregate->function, [Slot::MIN, Slot::MAX], true) ? $aggregate->function : Slot::SUM,
                    $aggregate->argument,
                    $aggregate->filter,
                );
                if ($aggregate->counts !== null) {
                    $numbers[] = count($slots);
                    $slots[] = new Slot(Slot::SUM, $aggregate->counts, $aggregate->filter);
                }
            } elseif ($aggregate->distinct) {
                $slots[] = new Slot(Slot::SET, $aggregate->argument, $aggregate->filter);
            } elseif ($aggregate->function === 'avg') {
                $slots[] = new Slot(Slot::SUM, $aggregate->argument, $aggregate->filter);
                $numbers[] = count($slots);
                $slots[] = new Slot(Slot::COUNT, $aggregate->argument, $aggregate->filter);
            } else {
                $slots[] = new Slot($aggregate->function, $aggregate->argument, $aggregate->filter);
            }
            $results[] = [$aggregate, $numbers];
        }

        return [$slots, $results];
    }

    private function join(JoinNode $join): Step
    {
        $left = $this->step($join->left);
        $right = $this->step($join->right);
        [$leftKeys, $rightKeys] = JoinStep::sides($join->conditions, $join->left->ids(), $join->right->ids());
        [$left, $right, $placement] = $this->placed($join, $left, $right, $leftKeys, $rightKeys);
        $step = new JoinStep(
            $join->kind,
            $left,
            $right,
            $join->conditions,
            $join->fields(),
            $placement,
            $this->subquery(...),
            $join->onlyFilters,
            $this->isTiny($join->right) || $this->estimator->rows($join->right) <= $this->loopBelow,
        );
        foreach ($this->switches->on(Switches::KEYS) ? $step->reduceLeft() : [] as $scan) {
            // Of what it reads only rows that will be joined go on.
            $scan->estimate = min($scan->estimate, $this->estimator->rows($join));
        }

        return $step;
    }

    /** Whether a side surely has so few rows that a hash table of them is not worth building. Estimates are not asked. */
    private function isTiny(RelationNode $relation): bool
    {
        return match (true) {
            $relation instanceof Values => count($relation->rows) <= self::TINY,
            $relation instanceof Aggregation => $relation->groups === [],
            $relation instanceof Sort => $relation->limit !== null && $relation->limit <= self::TINY,
            $relation instanceof Project, $relation instanceof FilterNode => $this->isTiny($relation->input),
            default => false,
        };
    }

    /**
     * @param  list<Expr>  $leftKeys
     * @param  list<Expr>  $rightKeys
     * @return array{Step, Step, Placement}
     */
    private function placed(JoinNode $join, Step $left, Step $right, array $leftKeys, array $rightKeys): array
    {
        $full = $join->kind === JoinNode::FULL;
        $there = $this->asTheyLie($join, $left, $right);
        if ($there !== null) {
            return [$left, $right, $there];
        }
        $pairs = $columns = [];
        foreach ($leftKeys as $i => $key) {
            if ($key instanceof Ref && $rightKeys[$i] instanceof Ref) {
                $pairs[] = [$key->id, $rightKeys[$i]->id];
                $columns[] = [$key, $rightKeys[$i]];
            }
        }
        if ($this->together($left->placement, $right->placement, $pairs)) {
            return [$left, $right, $this->joinedPlacement($join, $left->placement, $pairs)];
        }
        $left->split();
        [$a, $b] = [
            $this->estimator->rows($join->left) * $this->estimator->width($join->left),
            $this->estimator->rows($join->right) * $this->estimator->width($join->right),
        ];
        $values = 1.0;
        foreach ($leftKeys as $i => $key) {
            $values *=
                $key instanceof Ref && $rightKeys[$i] instanceof Ref
                    ? $this->estimator->distinct($key, $this->estimator->rows($join->left))
                    : 1.0;
        }
        // Rows that match agree in every key, so the columns among them place them; few values would leave nodes idle.
        $dealt = $pairs !== [] && (count($pairs) === count($leftKeys) || $values >= self::VALUES_PER_NODE * $this->nodes);
        $right->split();
        // A side that already lies by the keys stays.
        $leftStays = $left->placement->kind === Placement::HASH && $this->covers($left->placement, array_column($pairs, 0));
        $share = ($this->nodes - 1) / $this->nodes;
        $repartition = ($leftStays ? 0.0 : $a * $share) + $b * $share;
        if (! $dealt && $full) {
            return [$this->gathered($left), $this->gathered($right), new Placement(Placement::SINGLE)];
        }
        if (! $dealt || (! $full && $b * ($this->nodes - 1) <= $repartition)) {
            return [$left, $this->exchange($right, ExchangeStep::BROADCAST), $left->placement];
        }
        [$left, $right] = $leftStays
            ? [$left, $this->dealtLike($left->placement, $right, $pairs, $columns)]
            : $this->dealt($left, $right, $pairs, $columns);

        return [$left, $right, $this->joinedPlacement($join, $left->placement, $pairs)];
    }

    /** Where rows of a join come to lie if both sides stay where they are; null where they cannot. */
    private function asTheyLie(JoinNode $join, Step $left, Step $right): ?Placement
    {
        $full = $join->kind === JoinNode::FULL;
        [$single, $everywhere] = [Placement::SINGLE, Placement::EVERYWHERE];
        [$lies, $other] = [$left->placement->kind, $right->placement->kind];

        return match (true) {
            $lies === $single && $other === $single => $left->placement,
            $other === $everywhere && ! $full => $left->placement,
            $lies === $everywhere && $join->kind === JoinNode::INNER && $other !== $single => $right->placement,
            default => null,
        };
    }

    /**
     * The second side sent to where rows of the first lie.
     *
     * @param  list<array{int, int}>  $pairs columns of both that are equal
     * @param  list<array{Ref, Ref}>  $columns
     */
    private function dealtLike(Placement $placement, Step $right, array $pairs, array $columns): Step
    {
        $by = [];
        foreach ($placement->keys as $part) {
            foreach ($pairs as $i => [$l]) {
                if (in_array($l, $part, true)) {
                    $by[] = $columns[$i][1];

                    continue 2;
                }
            }
        }

        return $this->exchange(
            $right,
            ExchangeStep::REPARTITION,
            $by,
            array_map(static fn (Expr $e): array => array_keys($e->refs()), $by),
        );
    }

    /**
     * Both sides sent to where their keys say, but the second where it lies so.
     *
     * @param  list<array{int, int}>  $pairs columns of both that are equal
     * @param  list<array{Ref, Ref}>  $columns
     * @return array{Step, Step}
     */
    private function dealt(Step $left, Step $right, array $pairs, array $columns): array
    {
        $ids = static fn (int $side): array => array_map(static fn (array $pair): array => [$pair[$side]], $pairs);
        $left = $this->exchange($left, ExchangeStep::REPARTITION, array_column($columns, 0), $ids(0));
        if (! ($right->placement->kind === Placement::HASH && $this->together($left->placement, $right->placement, $pairs))) {
            $right = $this->exchange($right, ExchangeStep::REPARTITION, array_column($columns, 1), $ids(1));
        }

        return [$left, $right];
    }

    /**
     * @param  list<int>  $ids
     */
    private function covers(Placement $placement, array $ids): bool
    {
        foreach ($placement->keys as $part) {
            if (array_intersect($part, $ids) === []) {
                return false;
            }
        }

        return true;
    }

    /**
     * Whether rows that match are on the same node already.
     *
     * @param  list<array{int, int}>  $pairs
     */
    private function together(Placement $left, Placement $right, array $pairs): bool
    {
        if ($left->kind !== Placement::HASH || $right->kind !== Placement::HASH || count($left->keys) !== count($right->keys)) {
            return false;
        }
        foreach ($left->keys as $i => $part) {
            $found = false;
            foreach ($pairs as [$l, $r]) {
                $found = $found || (in_array($l, $part, true) && in_array($r, $right->keys[$i], true));
            }
            if (! $found) {
                return false;
            }
        }

        return true;
    }

    /**
     * After an inner join the equal columns of both sides tell the node.
     *
     * @param  list<array{int, int}>  $pairs
     */
    private function joinedPlacement(JoinNode $join, Placement $left, array $pairs): Placement
    {
        if ($join->kind === JoinNode::FULL) {
            // Rows without partner have NULL where the key was.
            return new Placement(Placement::EVEN);
        }
        if ($join->kind !== JoinNode::INNER) {
            return $left;
        }

        return new Placement(
            Placement::HASH,
            array_map(static function (array $part) use ($pairs): array {
                foreach ($pairs as [$l, $r]) {
                    if (in_array($l, $part, true)) {
                        $part[] = $r;
                    }
                }

                return $part;
            }, $left->keys),
        );
    }
}
