<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

use Closure;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Expression\Op;
use Fulcrion\Practice\Expression\Ref;
use Fulcrion\Practice\Expression\SubqueryExpr;
use Fulcrion\Practice\Logical\JoinNode;

/**
 * Joins two inputs: by a hash table of the right one where columns must be equal, else each row with each.
 */
final class JoinStep extends Step
{
    private const PAIRS = 8192;

    /** @var list<Expr> */
    private array $leftKeys = [];

    /** @var list<Expr> */
    private array $rightKeys = [];

    /** @var list<Expr> */
    private array $rest = [];

    private readonly Closure $leftKey;

    private readonly Closure $rightKey;

    private readonly Closure $filter;

    /** @var list<array{ScanStep, int}> scans below on the left and the column whose values this join looks for */
    private array $reduces = [];

    /**
     * @param  list<Expr>  $conditions
     * @param  callable(SubqueryExpr): int  $subquery
     */
    public function __construct(
        public readonly string $join,
        Step $left,
        Step $right,
        public readonly array $conditions,
        array $fields,
        Placement $placement,
        callable $subquery,
        public readonly string $onlyFilters = '',
        bool $loop = false,
    ) {
        parent::__construct($fields, [$left, $right], $placement);
        [$this->leftKeys, $this->rightKeys, $this->rest] = $loop
            ? [[], [], $conditions]
            : self::sides($conditions, array_flip($left->ids()), array_flip($right->ids()));
        $this->leftKey =
            $this->leftKeys === [] ? static fn (): array => [] : Kernel::keys($this->leftKeys, array_flip($left->ids()), $subquery);
        $this->rightKey =
            $this->leftKeys === [] ? static fn (): array => [] : Kernel::keys($this->rightKeys, array_flip($right->ids()), $subquery);
        $this->filter = Kernel::filter($this->rest, array_flip([...$left->ids(), ...$right->ids()]), $subquery);
    }

    /**
     * @param  list<Expr>  $conditions
     * @param  array<int, mixed>  $left
     * @param  array<int, mixed>  $right
     * @return array{list<Expr>, list<Expr>, list<Expr>} keys of the left, keys of the right, other conditions
     */
    public static function sides(array $conditions, array $left, array $right): array
    {
        $keys = [[], [], []];
        foreach ($conditions as $condition) {
            if ($condition instanceof Op && $condition->name === 'eq' && ! $condition->hasSubquery()) {
                [$a, $b] = $condition->args;
                [$ra, $rb] = [$a->refs(), $b->refs()];
                if ($ra !== [] && $rb !== [] && array_diff_key($ra, $left) === [] && array_diff_key($rb, $right) === []) {
                    $keys[0][] = $a;
                    $keys[1][] = $b;

                    continue;
                }
                if ($ra !== [] && $rb !== [] && array_diff_key($ra, $right) === [] && array_diff_key($rb, $left) === []) {
                    $keys[0][] = $b;
                    $keys[1][] = $a;

                    continue;
                }
            }
            $keys[2][] = $condition;
        }

        return $keys;
    }

    public function kind(): string
    {
        $way = $this->leftKeys === [] ? ($this->conditions === [] ? 'cross' : 'loop') : 'hash';

        return $this->join === JoinNode::INNER ? "{$way}-join" : "{$this->join}-{$way}-join";
    }

    public function detail(): string
    {
        return $this->conditions === []
            ? 'every row with every row'
            : implode(' AND ', array_map(static fn (Expr $e): string => $e->text(), $this->conditions));
    }

    public function rowWeight(): float
    {
        return 2.0;
    }

    /** The right side stays whole: each part of the left needs all of it. */
    public function split(): void
    {
        if ($this->placement->kind === Placement::EVERYWHERE) {
            $this->inputs[0]->split();
            $this->placement = new Placement(Placement::EVEN);
        }
    }

    /**
     * Lets this join tell a scan on its left which keys there are, before that scan reads.
     *
     * @return list<ScanStep> scans that are told
     */
    public function reduceLeft(): array
    {
        // Keys of several parts are one text; only a single key can be looked up as it is.
        $key = count($this->leftKeys) === 1 ? $this->leftKeys[0] : null;
        if (
            ! in_array($this->join, [JoinNode::INNER, JoinNode::SEMI], true) ||
            ! ($key instanceof Ref) ||
            $key->type->is(TypeKind::Double, TypeKind::Boolean, TypeKind::Timestamp)
        ) {
            return [];
        }
        $scan = self::scanOf($this->inputs[0], $key->id);
        if ($scan === null) {
            return [];
        }
        $scan->reduced = true;
        $this->reduces[] = [$scan, $key->id];

        return [$scan];
    }

    private static function scanOf(Step $step, int $id): ?ScanStep
    {
        if ($step instanceof ScanStep) {
            return isset(array_flip($step->ids())[$id]) ? $step : null;
        }
        if ($step instanceof FilterStep || $step instanceof self) {
            return $step instanceof self && ! in_array($step->join, [JoinNode::INNER, JoinNode::LEFT, JoinNode::SEMI, JoinNode::ANTI], true)
                ? null
                : self::scanOf($step->inputs[0], $id);
        }

        return null;
    }

    protected function produce(Run $run, int $node): iterable
    {
        $right = Batch::all($this->from($run, $node, 1), $this->inputs[1]->ids());
        $run->hold($this, $node, $right->bytes() + 16 * $right->rows);
        $run->reserve(8 * $right->rows);
        $table = [];
        if ($this->leftKeys !== []) {
            foreach (($this->rightKey)($right->columns, $right->rows, $run->outer, $run) as $row => $key) {
                if ($key !== null) {
                    $table[$key][] = $row;
                }
            }
            foreach ($this->reduces as [$scan, $id]) {
                $scan->want($id, $table);
            }
        }
        $all = $this->leftKeys === [] ? range(0, $right->rows - 1) : [];
        if ($right->rows === 0) {
            $all = [];
        }
        $matchedRight = [];
        $counters = $this->counters($node);
        foreach ($this->inputs[0]->batches($run, $node) as $left) {
            $run->tick();
            $counters->rowsIn += $left->rows;
            $matchedLeft = [];
            if ($left->rows === 0) {
                continue;
            }
            $keys = $this->leftKeys === [] ? null : ($this->leftKey)($left->columns, $left->rows, $run->outer, $run);
            if ($this->rest === [] && $keys !== null && ($this->join === JoinNode::SEMI || $this->join === JoinNode::ANTI)) {
                $kept = [];
                foreach ($keys as $row => $key) {
                    if (($key !== null && isset($table[$key])) === ($this->join === JoinNode::SEMI)) {
                        $kept[] = $row;
                    }
                }
                if ($kept !== []) {
                    yield $left->take($kept);
                }

                continue;
            }
            [$a, $b] = [[], []];
            for ($row = 0; $row < $left->rows; $row++) {
                $matches = $keys === null ? $all : ($keys[$row] === null ? [] : $table[$keys[$row]] ?? []);
                foreach ($matches as $match) {
                    $a[] = $row;
                    $b[] = $match;
                }
                if (count($a) >= self::PAIRS) {
                    yield from $this->pairs($run, $left, $right, $a, $b, $matchedLeft, $matchedRight);
                    [$a, $b] = [[], []];
                    $run->tick();
                }
            }
            yield from $this->pairs($run, $left, $right, $a, $b, $matchedLeft, $matchedRight);
            if ($this->join === JoinNode::SEMI) {
                yield $left->take(array_keys($matchedLeft));
            } elseif ($this->join !== JoinNode::INNER) {
                $alone = array_keys(array_diff_key(array_fill(0, $left->rows, true), $matchedLeft));
                if ($alone !== []) {
                    yield $this->join === JoinNode::ANTI ? $left->take($alone) : $this->withNulls($left->take($alone), $this->inputs[1]);
                }
            }
        }
        if ($this->join === JoinNode::FULL) {
            $alone = array_values(array_diff(range(0, $right->rows), array_keys($matchedRight), [$right->rows]));
            yield $this->withNulls($right->take($alone), $this->inputs[0]);
        }
    }

    /**
     * @param  list<int>  $a rows of the left
     * @param  list<int>  $b rows of the right, one a row of the left
     * @param  array<int, true>  $matchedLeft
     * @param  array<int, true>  $matchedRight
     * @return iterable<Batch>
     */
    private function pairs(Run $run, Batch $left, Batch $right, array $a, array $b, array &$matchedLeft, array &$matchedRight): iterable
    {
        if ($a === []) {
            return;
        }
        $pairs = new Batch(count($a), $left->take($a)->columns + $right->take($b)->columns);
        if ($this->rest !== []) {
            $rows = ($this->filter)($pairs->columns, $pairs->rows, $run->outer, $run);
            if (count($rows) < $pairs->rows) {
                $pairs = $pairs->take($rows);
                $a = array_map(static fn (int $row): int => $a[$row], $rows);
                $b = array_map(static fn (int $row): int => $b[$row], $rows);
            }
        }
        if ($this->join !== JoinNode::INNER) {
            $matchedLeft += array_fill_keys($a, true);
        }
        if ($this->join === JoinNode::FULL) {
            $matchedRight += array_fill_keys($b, true);
        }
        if ($this->join !== JoinNode::SEMI && $this->join !== JoinNode::ANTI) {
            yield $pairs;
        }
    }

    private function withNulls(Batch $batch, Step $other): Batch
    {
        return new Batch($batch->rows, $batch->columns + array_fill_keys($other->ids(), array_fill(0, $batch->rows, null)));
    }
}
