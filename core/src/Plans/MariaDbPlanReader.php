<?php

declare(strict_types=1);

namespace Fulcrion\Core\Plans;

/**
 * Reads EXPLAIN FORMAT=JSON and ANALYZE FORMAT=JSON of MariaDB (MariaDB Server Documentation, "EXPLAIN FORMAT=JSON",
 * "ANALYZE FORMAT=JSON"). Its tables are joined from left to right, each looked up for every row of those before it.
 *
 * @internal
 */
final class MariaDbPlanReader
{
    private const DEEPEST = 100;

    private bool $actual = false;

    private int $depth = 0;

    /**
     * @throws PlanError
     */
    public function read(Fields $f): Plan
    {
        $block = $f->inner('query_block');
        $root = $this->block($block);
        $total = $block->maybeFloat('r_total_time_ms');

        $totalUs = $total === null ? null : (int) round($total * 1000);
        $untimed = array_values(
            array_filter($root->all(), static fn (PlanStep $step): bool => $step->table !== null && $step->cost->ownUs === null),
        );
        if ($totalUs !== null && count($untimed) === 1) {
            // The server does not time every kind of table; where only one is left out, it is what the others leave.
            $root = $this->timed($root, $untimed[0], max(0, $totalUs - ($root->cumulativeUs() ?? 0)));
        }

        return new Plan($root, 'mariadb', false, $this->actual, $totalUs);
    }

    private function timed(PlanStep $step, PlanStep $wanted, int $ownUs): PlanStep
    {
        $inputs = array_map(fn (PlanStep $input): PlanStep => $this->timed($input, $wanted, $ownUs), $step->inputs);

        return $step === $wanted
            ? $step->with($inputs, $ownUs, 'its time is what the other steps leave of the whole')
            : $step->with($inputs, $step->cost->ownUs, '');
    }

    /**
     * @throws PlanError
     */
    private function block(Fields $f): PlanStep
    {
        if (++$this->depth > self::DEEPEST) {
            throw new PlanError('The plan is nested more than '.self::DEEPEST.' levels deep.');
        }
        $below = [];
        foreach ($f->names() as $name) {
            $step = $this->part($name, $f);
            if ($step !== null) {
                $below[] = $step;
            }
        }
        $extra = [];
        foreach (['subqueries', 'optimized_away_subqueries'] as $key) {
            foreach ($f->list($key) as $inner) {
                $extra[] = $this->subquery($inner);
            }
        }
        $this->depth--;
        $main = $below[0] ?? new PlanStep(StepKind::Values, $f->inner('table')->text('message'));
        $condition = $f->text('having_condition');
        if ($condition !== '') {
            $main = new PlanStep(StepKind::Filter, $condition, null, [$condition], inputs: [$main]);
        }

        return count($below) <= 1 && $extra === []
            ? $main
            : new PlanStep(StepKind::Result, '', inputs: [$main, ...array_slice($below, 1), ...$extra]);
    }

    /**
     * @throws PlanError
     */
    private function subquery(Fields $f): PlanStep
    {
        $cache = $f->inner('expression_cache');
        $inner = $cache->has('query_block') ? $cache->inner('query_block') : $f->inner('query_block');
        $loops = $inner->maybeInt('r_loops');
        $notes = $cache->has('state') || $cache->has('r_hit_ratio') ? ['answers are kept by the values asked for'] : [];

        return new PlanStep(
            StepKind::Subquery,
            'query '.$inner->text('select_id'),
            rows: new StepRows(loops: max(1, $loops ?? 1)),
            inputs: [$this->block($inner)],
            notes: $notes,
        );
    }

    /**
     * @throws PlanError
     */
    private function part(string $name, Fields $f): ?PlanStep
    {
        $inner = $f->inner($name);

        return match ($name) {
            'nested_loop' => $this->loop($f->list($name)),
            'table' => $f->inner('table')->has('table_name') ? $this->table($inner) : null,
            'filesort' => $this->wrapped(StepKind::Sort, 'by '.$inner->text('sort_key'), $inner),
            'temporary_table' => $this->wrapped(StepKind::Store, 'temporary table', $inner),
            'read_sorted_file' => $this->inside($inner),
            'window_functions_computation' => $this->wrapped(StepKind::Window, '', $inner),
            'sorts' => $this->sorts($f),
            'duplicates_removal' => $this->wrapped(StepKind::Distinct, 'remove duplicates', $inner),
            'buffer_type', 'materialized' => null,
            'union_result', 'except_result', 'intersect_result', 'unit_result' => new PlanStep(
                StepKind::Append,
                str_replace('_', ' ', $name),
                inputs: array_map(
                    fn (Fields $query): PlanStep => $this->block($query->inner('query_block')),
                    $inner->list('query_specifications'),
                ),
            ),
            'group_by', 'grouping' => $this->wrapped(StepKind::Aggregate, '', $inner),
            default => null,
        };
    }

    /**
     * @throws PlanError
     */
    private function sorts(Fields $f): ?PlanStep
    {
        $below = null;
        foreach ($f->list('sorts') as $sort) {
            foreach ($sort->names() as $name) {
                $below = $this->part($name, $sort) ?? $below;
            }
        }

        return $below;
    }

    /**
     * @throws PlanError
     */
    private function wrapped(StepKind $kind, string $detail, Fields $f): PlanStep
    {
        $below = $this->inside($f);
        $ms = $f->maybeFloat('r_total_time_ms');
        $loops = max(1, $f->maybeInt('r_loops') ?? 1);
        $rows = $f->maybeFloat('r_output_rows');
        $notes = array_values(
            array_filter(
                [
                    $f->has('r_sort_passes') ? $f->text('r_sort_passes').' merge passes' : '',
                    $f->has('r_used_priority_queue') && $f->bool('r_used_priority_queue') ? 'kept only the first rows while sorting' : '',
                ],
                self::said(...),
            ),
        );

        return new PlanStep(
            $kind,
            $detail,
            null,
            [],
            new StepRows(
                $below?->rows->estimated,
                $rows === null ? $below?->rows->actual : $rows * $loops,
                $below?->rows->actual,
                $loops,
            ),
            new StepCost($ms === null ? null : (int) round($ms * 1000)),
            inputs: $below === null ? [] : [$below],
            notes: $notes,
        );
    }

    /**
     * @throws PlanError
     */
    private function inside(Fields $f): ?PlanStep
    {
        foreach ($f->names() as $name) {
            $step = $this->part($name, $f);
            if ($step !== null) {
                return $step;
            }
        }

        return null;
    }

    /**
     * @param  list<Fields>  $parts
     *
     * @throws PlanError
     */
    private function loop(array $parts): ?PlanStep
    {
        $left = null;
        foreach ($parts as $part) {
            $buffered = $part->inner('block-nl-join');
            $step = $buffered->has('table') ? $this->table($buffered->inner('table')) : $this->inside($part);
            if ($step === null) {
                continue;
            }
            if ($left === null) {
                $left = $step;

                continue;
            }
            $condition = $buffered->text('attached_condition');
            $hash = $buffered->text('join_type') === 'BNLH';
            $estimated =
                $left->rows->estimated === null || $step->rows->estimated === null ? null : $left->rows->estimated * $step->rows->estimated;
            $filtered = $buffered->maybeFloat('r_filtered');
            $actual = $step->rows->actual;
            if ($buffered->has('table') && $left->rows->actual !== null && $actual !== null) {
                // A buffered join reads its table once a buffer; its rows are known by the share that passed.
                $actual = $filtered === null ? null : ((($left->rows->actual * $actual) / max(1, $step->rows->loops)) * $filtered) / 100;
            }
            $kind = $hash ? StepKind::HashJoin : ($condition === '' && $buffered->has('table') ? StepKind::CrossJoin : StepKind::LoopJoin);
            $left = new PlanStep(
                $kind,
                $condition !== ''
                    ? $condition
                    : ($buffered->has('table')
                        ? 'every row with every row, through a buffer'
                        : 'each row of the first looks up the second'),
                null,
                $condition === '' ? [] : [$condition],
                new StepRows($estimated, $actual, ($left->rows->actual ?? 0) + ($step->rows->actual ?? 0)),
                inputs: [$left, $step],
            );
        }

        return $left;
    }

    /**
     * @throws PlanError
     */
    private function table(Fields $f): PlanStep
    {
        $loops = $f->maybeInt('r_loops');
        $this->actual = $this->actual || $loops !== null;
        $access = $f->text('access_type');
        $condition = $f->text('attached_condition');
        $estimated = $f->maybeFloat('rows');
        $read = $f->maybeFloat('r_rows');
        $passed = $f->maybeFloat('r_filtered');
        $rowsIn = $read === null || $loops === null ? null : $read * max(1, $loops);
        $ms =
            $f->maybeFloat('r_table_time_ms') === null && $f->maybeFloat('r_total_time_ms') === null
                ? null
                : ($f->maybeFloat('r_table_time_ms') ?? ($f->maybeFloat('r_total_time_ms') ?? 0)) +
                    ($f->maybeFloat('r_other_time_ms') ?? 0);
        $whole = $access === 'ALL' || $access === 'index' || $access === '';
        $notes = array_values(
            array_filter(
                [
                    'access '.$access,
                    $f->has('key')
                        ? 'index '.
                            $f->text('key').
                            ($f->texts('used_key_parts') === [] ? '' : ' ('.implode(', ', $f->texts('used_key_parts')).')')
                        : 'no index',
                    $f->has('possible_keys') && ! $f->has('key') ? 'possible: '.implode(', ', $f->texts('possible_keys')) : '',
                    $f->bool('using_index') ? 'the index holds all that is needed' : '',
                    $f->texts('ref') === [] ? '' : 'by '.implode(', ', $f->texts('ref')),
                ],
                self::said(...),
            ),
        );
        $inputs = [];
        $materialized = $f->inner('materialized');
        if ($materialized->has('query_block')) {
            $inputs[] = $this->block($materialized->inner('query_block'));
        } elseif ($materialized->has('unique') || $materialized->names() !== []) {
            $inner = $this->inside($materialized);
            $inputs = $inner === null ? [] : [$inner];
        }

        return new PlanStep(
            $whole ? StepKind::Scan : StepKind::IndexRead,
            $condition,
            // Of a table that is read as a whole the rows expected are all it has, as far as the server knows.
            new TableFacts($f->text('table_name'), $whole && $estimated !== null ? (int) $estimated : null),
            $condition === '' ? [] : [$condition],
            new StepRows(
                $estimated === null ? null : ($estimated * ($f->maybeFloat('filtered') ?? 100)) / 100,
                $rowsIn === null ? null : ($rowsIn * ($passed ?? 100)) / 100,
                $rowsIn,
                max(1, $loops ?? 1),
            ),
            new StepCost($ms === null ? null : (int) round($ms * 1000)),
            inputs: $inputs,
            notes: $notes,
            index: $f->text('key'),
        );
    }

    private static function said(string $note): bool
    {
        return $note !== '';
    }
}
