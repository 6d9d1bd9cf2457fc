<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Logical;

use Fulcrion\Core\Catalog\ColumnStatistics;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Practice\Expression\Constant;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Expression\Op;
use Fulcrion\Practice\Expression\Ref;

/**
 * How many rows a relation will have, from collected statistics only: what was never collected is guessed.
 */
final class Estimator
{
    /** Rows of a table nobody collected statistics of. */
    public const UNKNOWN_ROWS = 1000;

    private const UNKNOWN_DISTINCT = 100;

    private const UNKNOWN_EQUAL = 0.01;

    private const UNKNOWN_RANGE = 0.33;

    private const UNKNOWN_TEST = 0.25;

    /** @var array<int, ColumnStatistics|null> by id of the column */
    private array $columns = [];

    /** @var array<int, array{RelationNode, float}> by object id; the relation is kept so that its id is not used again */
    private array $known = [];

    public function rows(RelationNode $relation): float
    {
        $id = spl_object_id($relation);
        if (! isset($this->known[$id])) {
            $this->known[$id] = [$relation, max(1.0, $this->compute($relation))];
        }

        return $this->known[$id][1];
    }

    /** Bytes of a row on its way. */
    public function width(RelationNode $relation): float
    {
        $width = 0.0;
        foreach ($relation->fields() as $field) {
            $width += $field->type->is(TypeKind::Text)
                ? ($this->columns[$field->id] ?? null)->averageBytes ?? 16.0
                : ($field->type->is(TypeKind::Boolean)
                    ? 1
                    : 8);
        }

        return max(1.0, $width);
    }

    public function distinct(Expr $e, float $rows): float
    {
        if ($e instanceof Constant) {
            return 1.0;
        }
        if ($e instanceof Ref) {
            $statistics = $this->columns[$e->id] ?? null;

            return min($rows, $statistics === null ? (float) self::UNKNOWN_DISTINCT : $statistics->distinct);
        }
        $refs = array_keys($e->refs());
        if (count($refs) === 1 && $e instanceof Op && $e->args[0] instanceof Ref) {
            $of = $this->distinct($e->args[0], $rows);
            $bounds = ($this->columns[$refs[0]] ?? null)?->histogram->bounds ?? [];
            if (
                $e->args[0]->type->is(TypeKind::Timestamp) &&
                $bounds !== [] &&
                is_int($bounds[0]) &&
                ($e->name === 'date_trunc' || ($e->name === 'cast' && $e->type->is(TypeKind::Date)))
            ) {
                $span = ((int) $bounds[count($bounds) - 1] - $bounds[0]) / 86_400_000_000;

                return max(
                    1.0,
                    min(
                        $of,
                        match ($e->extra) {
                            'hour' => $span * 24,
                            'minute' => $span * 1440,
                            'week' => $span / 7,
                            'month' => $span / 30,
                            'quarter' => $span / 91,
                            'year' => $span / 365,
                            default => $span,
                        },
                    ),
                );
            }

            return $of;
        }

        return min($rows, (float) self::UNKNOWN_DISTINCT);
    }

    /** Share of rows a condition keeps. */
    public function selectivity(Expr $e): float
    {
        if ($e instanceof Constant) {
            return $e->value === true ? 1.0 : 0.0;
        }
        if (! ($e instanceof Op)) {
            return 0.5;
        }
        switch ($e->name) {
            case 'and':
                return $this->conjunction($e->args);
            case 'or':
                return 1 - array_product(array_map(fn (Expr $arg): float => 1 - $this->selectivity($arg), $e->args));
            case 'not':
                return 1 - $this->selectivity($e->args[0]);
            case 'isnull':
                return $e->args[0] instanceof Ref ? ($this->columns[$e->args[0]->id] ?? null)->nullShare ?? 0.05 : 0.05;
            case 'in':
                return min(1.0, array_sum(array_map(fn (Expr $item): float => $this->equal($e->args[0], $item), array_slice($e->args, 1))));
            case 'like':
                return $e->args[1] instanceof Constant && is_string($e->args[1]->value) && ! str_starts_with($e->args[1]->value, '%')
                    ? 0.05
                    : 0.1;
            case 'eq':
            case 'same':
                return $this->equal($e->args[0], $e->args[1]);
            case 'ne':
                return 1 - $this->equal($e->args[0], $e->args[1]);
            case 'lt':
            case 'le':
                return $this->range($e->args[0], $e->args[1], true);
            case 'gt':
            case 'ge':
                return $this->range($e->args[0], $e->args[1], false);
        }

        return self::UNKNOWN_TEST;
    }

    /**
     * Two bounds of one column make a span, whose share is not the product of both.
     *
     * @param  list<Expr>  $conditions
     */
    public function conjunction(array $conditions): float
    {
        $share = 1.0;
        $below = [];
        $above = [];
        foreach ($conditions as $condition) {
            if (
                $condition instanceof Op &&
                in_array($condition->name, ['lt', 'le', 'gt', 'ge'], true) &&
                $condition->args[1] instanceof Constant
            ) {
                $key = $condition->args[0]->key();
                $one = $this->selectivity($condition);
                if ($condition->name === 'lt' || $condition->name === 'le') {
                    $below[$key] = min($below[$key] ?? 1.0, $one);
                } else {
                    $above[$key] = min($above[$key] ?? 1.0, $one);
                }
            } else {
                $share *= $this->selectivity($condition);
            }
        }
        foreach ($below + $above as $key => $_) {
            $share *= isset($below[$key], $above[$key]) ? max(0.0005, $below[$key] + $above[$key] - 1) : $below[$key] ?? $above[$key];
        }

        return max(0.0, min(1.0, $share));
    }

    /**
     * @param  list<Expr>  $conditions
     */
    public function joinRows(string $kind, float $left, float $right, array $conditions): float
    {
        $share = 1.0;
        foreach ($conditions as $condition) {
            if ($condition instanceof Op && $condition->name === 'eq') {
                $share /= max(
                    $this->distinct($condition->args[0], max($left, $right)),
                    $this->distinct($condition->args[1], max($left, $right)),
                    1.0,
                );
            } else {
                $share *= $this->selectivity($condition);
            }
        }
        $rows = $left * $right * $share;

        return match ($kind) {
            JoinNode::LEFT => max($left, $rows),
            JoinNode::FULL => max($left, $right, $rows),
            JoinNode::SEMI => min($left, max(1.0, $rows)),
            JoinNode::ANTI => max(1.0, $left - min($left, $rows)),
            default => $rows,
        };
    }

    private function compute(RelationNode $relation): float
    {
        if ($relation instanceof Scan) {
            $statistics = $relation->table->statistics();
            foreach ($relation->columns as $field) {
                $this->columns[$field->id] = $statistics?->columns[$field->name] ?? null;
            }

            return ($statistics === null ? self::UNKNOWN_ROWS : $statistics->rows) * $this->conjunction($relation->conditions);
        }
        $inputs = array_map($this->rows(...), $relation->inputs());
        if ($relation instanceof Project) {
            foreach ($relation->fields as $i => $field) {
                $value = $relation->values[$i];
                $this->columns[$field->id] = $value instanceof Ref ? $this->columns[$value->id] ?? null : null;
            }

            return $inputs[0];
        }
        if ($relation instanceof Aggregation) {
            $groups = 1.0;
            foreach ($relation->groups as $i => $group) {
                $groups *= $this->distinct($group, $inputs[0]);
                $this->columns[$relation->groupFields[$i]->id] = $group instanceof Ref ? $this->columns[$group->id] ?? null : null;
            }

            return $relation->groups === [] ? 1.0 : min($inputs[0], $groups);
        }

        return match (true) {
            $relation instanceof Values => (float) count($relation->rows),
            $relation instanceof FilterNode => $inputs[0] * $this->conjunction($relation->conditions),
            $relation instanceof JoinNode => $this->joinRows($relation->kind, $inputs[0], $inputs[1], $relation->conditions),
            $relation instanceof Union => array_sum($inputs),
            $relation instanceof Sort => $relation->limit === null
                ? max(0, $inputs[0] - $relation->offset)
                : min($inputs[0], $relation->limit),
            default => $inputs[0] ?? 1.0,
        };
    }

    private function equal(Expr $a, Expr $b): float
    {
        if ($a instanceof Constant) {
            [$a, $b] = [$b, $a];
        }
        if ($a instanceof Ref && $b instanceof Constant && $b->value !== null) {
            $statistics = $this->columns[$a->id] ?? null;

            return $statistics === null ? self::UNKNOWN_EQUAL : $statistics->equal($b->value);
        }
        if ($a instanceof Op && $b instanceof Constant) {
            return 1 / max(1.0, $this->distinct($a, 1e12));
        }

        return self::UNKNOWN_EQUAL;
    }

    private function range(Expr $a, Expr $b, bool $below): float
    {
        if ($a instanceof Constant && ! ($b instanceof Constant)) {
            return $this->range($b, $a, ! $below);
        }
        if (
            $a instanceof Op &&
            $a->name === 'cast' &&
            $a->args[0] instanceof Ref &&
            $a->args[0]->type->is(TypeKind::Timestamp) &&
            $b instanceof Constant &&
            is_int($b->value) &&
            $a->type->is(TypeKind::Date)
        ) {
            return $this->range($a->args[0], new Constant($b->value * 86_400_000_000, $a->args[0]->type), $below);
        }
        if (! ($a instanceof Ref) || ! ($b instanceof Constant) || $b->value === null || is_bool($b->value)) {
            return self::UNKNOWN_RANGE;
        }
        $statistics = $this->columns[$a->id] ?? null;
        if ($statistics === null || $statistics->histogram->bounds === []) {
            return self::UNKNOWN_RANGE;
        }
        $share = $statistics->below($b->value);

        return max(0.0, $below ? $share : 1 - $statistics->nullShare - $share);
    }
}
