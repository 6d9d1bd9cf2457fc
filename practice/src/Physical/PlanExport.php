<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

use Fulcrion\Core\Plans\NodeShare;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Plans\StepCost;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Core\Plans\StepReads;
use Fulcrion\Core\Plans\StepRows;
use Fulcrion\Core\Plans\TableFacts;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Logical\Field;
use Fulcrion\Practice\Logical\JoinNode;
use Fulcrion\Practice\Storage\Warehouse;

/**
 * Steps of the practice cluster as a plan everyone can read.
 */
final readonly class PlanExport
{
    private TimeModel $model;

    public function __construct(private Warehouse $warehouse, private int $nowUs)
    {
        $this->model = new TimeModel($warehouse->profile);
    }

    /**
     * @param  list<Step>  $subqueries
     * @param  list<string>  $remarks on what the planner used, and why not
     * @param  array<int, int>|null  $runs number of the subquery => times it was run; null where nothing ran
     */
    public function plan(Step $root, array $subqueries, ?array $runs, string $statement, array $remarks = []): Plan
    {
        $actual = $runs !== null;
        $step = $this->step($root, $actual);
        $below = [];
        foreach ($subqueries as $number => $subquery) {
            $loops = $runs[$number] ?? 1;
            $inner = $this->step($subquery, $actual);
            $below[] = new PlanStep(
                StepKind::Subquery,
                $loops > 1 ? "run {$loops} times, once for each new value asked for" : 'run once',
                rows: new StepRows($inner->rows->estimated, $inner->rows->actual, loops: max(1, $loops)),
                inputs: [$inner],
            );
        }
        if ($below !== []) {
            $step = new PlanStep(
                StepKind::Result,
                '',
                rows: new StepRows($step->rows->estimated, $step->rows->actual),
                cost: new StepCost($actual ? 0 : null),
                inputs: [$step, ...$below],
            );
        }

        return new Plan(
            $step,
            'practice',
            true,
            $actual,
            $actual ? $step->cumulativeUs() : null,
            $statement,
            $this->warehouse->nodes,
            $this->warehouse->profile->rowFactor,
            array_values(array_unique($remarks)),
        );
    }

    private function step(Step $step, bool $actual): PlanStep
    {
        // A step that only renames columns is nothing to look at.
        while ($step instanceof ProjectStep && ! $step->works()) {
            $step = $step->inputs[0];
        }
        $inputs = array_map(fn (Step $input): PlanStep => $this->step($input, $actual), $step->inputs);
        $table = $step instanceof ScanStep ? $this->table($step) : null;
        $conditions = array_map(
            static fn (Expr $e): string => $e->text(),
            match (true) {
                $step instanceof ScanStep => $step->conditions(),
                $step instanceof JoinStep => $step->conditions,
                default => [],
            },
        );
        $notes = self::notes($step);
        $onlyFilters = $step instanceof JoinStep ? ['left' => 0, 'right' => 1][$step->onlyFilters] ?? -1 : -1;
        $scan = $step instanceof ScanStep;
        if (! $actual) {
            return new PlanStep(
                $this->kind($step),
                $step->detail(),
                $table,
                $conditions,
                new StepRows($step->estimate),
                inputs: $inputs,
                notes: $notes,
                onlyFilters: $onlyFilters,
            );
        }
        [$sum, $shares] = $this->counted($step);
        // Rows that are on every node are the same rows.
        $everywhere = $step->placement->kind === Placement::EVERYWHERE;
        $rows = $everywhere ? max([0, ...array_map(static fn (NodeShare $share): int => $share->rowsOut, $shares)]) : $sum->rowsOut;
        $partitions = $scan ? $this->partitions($step) : [null, null];

        return new PlanStep(
            $this->kind($step),
            $step->detail(),
            $table,
            $conditions,
            new StepRows(
                $step->estimate,
                (float) $rows,
                (float) ($everywhere && $scan ? intdiv($sum->rowsIn, $this->warehouse->nodes) : $sum->rowsIn),
                1,
            ),
            new StepCost(
                $this->model->stepUs($step, $this->warehouse->nodes),
                $step instanceof ExchangeStep ? $sum->bytesSent : null,
                $sum->memoryPeak > 0 ? $sum->memoryPeak : null,
                max(0, $sum->bytesSpilled),
            ),
            new StepReads(
                $scan ? $sum->chunksRead : null,
                $scan ? $sum->chunksTotal : null,
                $partitions[0],
                $partitions[1],
                $scan ? $sum->bytesRead : null,
                $scan ? $sum->bytesTotal : null,
            ),
            $step->placement->kind === Placement::SINGLE && ! ($step instanceof ExchangeStep) ? [] : $shares,
            $inputs,
            $notes,
            $onlyFilters,
        );
    }

    /**
     * @return list<string>
     */
    private static function notes(Step $step): array
    {
        $notes = [];
        if ($step instanceof ScanStep) {
            $all = count($step->scan->manifest->definition->columns);
            if (count($step->scan->columns) < $all) {
                $notes[] = count($step->scan->columns)." of {$all} columns";
            }
            $bounds = array_map(
                static fn (Field $field): string => $field->name,
                array_filter($step->fields, static fn (Field $field): bool => isset($step->pruner()->columns()[$field->id])),
            );
            if ($bounds !== []) {
                $notes[] = 'chunks are skipped by the bounds of '.implode(', ', $bounds);
            }
        }
        if ($step instanceof ScanStep && $step->reduced) {
            $notes[] = 'reduced by the keys a join above has found';
        }
        if ($step->placement->kind === Placement::EVERYWHERE && $step instanceof ScanStep) {
            $notes[] = 'read whole on every node';
        }
        if ($step instanceof JoinStep && $step->join !== JoinNode::INNER) {
            $notes[] = [
                'left' => 'keeps rows of the first input without a match',
                'full' => 'keeps rows of both inputs without a match',
                'semi' => 'only asks whether there is a match',
                'anti' => 'keeps rows without a match',
            ][$step->join];
        }

        return $notes;
    }

    /**
     * @return array{Counters, list<NodeShare>} of all nodes and of each
     */
    private function counted(Step $step): array
    {
        $shares = [];
        $sum = new Counters();
        for ($node = 0; $node < $this->warehouse->nodes; $node++) {
            $c = $step->counters($node);
            foreach (['rowsIn', 'rowsOut', 'chunksRead', 'chunksTotal', 'bytesRead', 'bytesTotal', 'bytesSent', 'bytesSpilled'] as $name) {
                $sum->{$name} += $c->{$name};
            }
            $sum->memoryPeak = max($sum->memoryPeak, $c->memoryPeak);
            $shares[] = new NodeShare(
                $c->rowsIn,
                $c->rowsOut,
                $c->bytesRead,
                $c->bytesSent,
                $c->memoryPeak,
                $this->model->nodeUs($step, $c),
            );
        }

        return [$sum, $shares];
    }

    private function kind(Step $step): StepKind
    {
        $kind = $step->kind();

        return StepKind::tryFrom($kind) ??
            match (true) {
                str_ends_with($kind, 'hash-join') => StepKind::HashJoin,
                str_ends_with($kind, 'cross-join') => StepKind::CrossJoin,
                str_ends_with($kind, 'loop-join') => StepKind::LoopJoin,
                default => StepKind::Other,
            };
    }

    /**
     * @return array{int|null, int|null}
     */
    private function partitions(ScanStep $step): array
    {
        $manifest = $step->scan->manifest;
        if ($manifest->definition->partitioning === null) {
            return [null, null];
        }
        $all = [];
        foreach ($manifest->chunks as $chunk) {
            $all[$chunk->partition] = ($all[$chunk->partition] ?? false) || ! $step->pruner()->skips($chunk);
        }

        return [count(array_filter($all)), count($all)];
    }

    private function table(ScanStep $step): TableFacts
    {
        $manifest = $step->scan->manifest;
        $definition = $manifest->definition;
        $statistics = $step->scan->table->statistics();
        $types = [];
        foreach ($definition->columns as $column) {
            $types[$column->name] = (string) $column->type;
        }

        return new TableFacts(
            "{$step->scan->table->schema}.{$step->scan->table->name}",
            $manifest->rows(),
            $definition->distribution->describe(),
            $definition->partitioning?->column,
            $definition->clustering,
            $types,
            $statistics === null ? null : $this->nowUs - $statistics->collectedUs,
            $statistics === null ? null : ($manifest->rowsChanged - $statistics->rowsChanged) / max(1, $statistics->rows),
            true,
        );
    }
}
