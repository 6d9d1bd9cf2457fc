<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Logical;

use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Expression\Failing;
use Fulcrion\Practice\Expression\Op;

/**
 * Orders inner joins: by dynamic programming over all subsets up to eight relations (Selinger et al., "Access path
 * selection in a relational database management system", 1979, with bushy trees), greedily beyond.
 */
final readonly class JoinOrder
{
    private const MOST = 8;

    public function __construct(private Estimator $estimator, private bool $careful = false)
    {
    }

    public function order(RelationNode $relation): RelationNode
    {
        if ($relation instanceof JoinNode && $relation->kind === JoinNode::INNER) {
            $leaves = [];
            $conditions = [];
            $this->flatten($relation, $leaves, $conditions);
            if ($this->careful && array_filter($conditions, Failing::can(...)) !== []) {
                return $relation->withInputs(array_map($this->order(...), $relation->inputs()));
            }
            $leaves = array_map($this->order(...), $leaves);

            return $this->best($leaves, $conditions);
        }
        $inputs = array_map($this->order(...), $relation->inputs());

        return $inputs === [] ? $relation : $relation->withInputs($inputs);
    }

    /**
     * @param  list<RelationNode>  $leaves
     * @param  list<Expr>  $conditions
     */
    private function flatten(RelationNode $relation, array &$leaves, array &$conditions): void
    {
        if ($relation instanceof JoinNode && $relation->kind === JoinNode::INNER) {
            $this->flatten($relation->left, $leaves, $conditions);
            $this->flatten($relation->right, $leaves, $conditions);
            array_push($conditions, ...$relation->conditions);
        } else {
            $leaves[] = $relation;
        }
    }

    /**
     * @param  list<RelationNode>  $leaves
     * @param  list<Expr>  $conditions
     */
    private function best(array $leaves, array $conditions): RelationNode
    {
        $count = count($leaves);
        $masks = [];
        foreach ($conditions as $c => $condition) {
            $masks[$c] = 0;
            foreach ($leaves as $i => $leaf) {
                if (array_intersect_key($condition->refs(), $leaf->ids()) !== []) {
                    $masks[$c] |= 1 << $i;
                }
            }
        }
        /** @var array<int, array{RelationNode, float, float}> $plans relations taken => plan, cost, rows */
        $plans = [];
        foreach ($leaves as $i => $leaf) {
            $plans[1 << $i] = [$leaf, 0.0, $this->estimator->rows($leaf)];
        }
        if ($count > self::MOST) {
            return $this->greedy($plans, $conditions, $masks);
        }
        $all = (1 << $count) - 1;
        // Only subsets that conditions hold together are joined at first: what is crossed is only safe when it is
        // unavoidable, since one wrong estimate multiplies it.
        foreach ([true, false] as $connected) {
            for ($set = 3; $set <= $all && ! isset($plans[$all]); $set++) {
                if (($set & ($set - 1)) !== 0 && ! isset($plans[$set])) {
                    $this->bestOf($set, $plans, $conditions, $masks, $connected);
                }
            }
        }

        return $plans[$all][0];
    }

    /**
     * @param  array<int, array{RelationNode, float, float}>  $plans
     * @param  list<Expr>  $conditions
     * @param  array<int, int>  $masks
     */
    private function bestOf(int $set, array &$plans, array $conditions, array $masks, bool $connected): void
    {
        for ($left = ($set - 1) & $set; $left > 0; $left = ($left - 1) & $set) {
            $right = $set ^ $left;
            if (! isset($plans[$left], $plans[$right]) || ($connected && ! $this->connected($masks, $left, $right))) {
                continue;
            }
            $candidate = $this->joined($plans[$left], $plans[$right], $this->between($conditions, $masks, $left, $right));
            if (! isset($plans[$set]) || $candidate[1] < $plans[$set][1]) {
                $plans[$set] = $candidate;
            }
        }
    }

    /**
     * @param  array<int, array{RelationNode, float, float}>  $plans
     * @param  list<Expr>  $conditions
     * @param  array<int, int>  $masks
     */
    private function greedy(array $plans, array $conditions, array $masks): RelationNode
    {
        while (count($plans) > 1) {
            $best = null;
            foreach ([true, false] as $connected) {
                foreach ($plans as $a => $left) {
                    foreach ($plans as $b => $right) {
                        if ($a === $b || ($connected && ! $this->connected($masks, $a, $b))) {
                            continue;
                        }
                        $candidate = $this->joined($left, $right, $this->between($conditions, $masks, $a, $b));
                        if ($best === null || $candidate[1] < $best[0][1]) {
                            $best = [$candidate, $a, $b];
                        }
                    }
                }
                if ($best !== null) {
                    break;
                }
            }
            if ($best === null) {
                break;
            }
            unset($plans[$best[1]], $plans[$best[2]]);
            $plans[$best[1] | $best[2]] = $best[0];
        }

        return array_values($plans)[0][0];
    }

    /**
     * @param  array<int, int>  $masks
     */
    private function connected(array $masks, int $left, int $right): bool
    {
        foreach ($masks as $mask) {
            if (($mask & ~($left | $right)) === 0 && ($mask & $left) !== 0 && ($mask & $right) !== 0) {
                return true;
            }
        }

        return false;
    }

    /**
     * @param  list<Expr>  $conditions
     * @param  array<int, int>  $masks
     * @return list<Expr>
     */
    private function between(array $conditions, array $masks, int $left, int $right): array
    {
        $own = [];
        foreach ($masks as $c => $mask) {
            if (($mask & ~($left | $right)) === 0 && ($mask & ~$left) !== 0 && ($mask & ~$right) !== 0) {
                $own[] = $conditions[$c];
            }
        }

        return $own;
    }

    /**
     * @param  array{RelationNode, float, float}  $left
     * @param  array{RelationNode, float, float}  $right
     * @param  list<Expr>  $conditions
     * @return array{RelationNode, float, float}
     */
    private function joined(array $left, array $right, array $conditions): array
    {
        $hashed = array_filter($conditions, static fn (Expr $e): bool => $e instanceof Op && $e->name === 'eq') !== [];
        $rows = max(1.0, $this->estimator->joinRows(JoinNode::INNER, $left[2], $right[2], $conditions));
        // The right side is built into a table, which costs more than passing by it.
        $own = $hashed ? $left[2] + 2 * $right[2] + $rows : $left[2] * $right[2] + $rows;

        return [new JoinNode(JoinNode::INNER, $left[0], $right[0], $conditions), $left[1] + $right[1] + $own, $rows];
    }
}
