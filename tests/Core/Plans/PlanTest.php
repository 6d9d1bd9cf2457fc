<?php

declare(strict_types=1);

namespace Tests\Core\Plans;

use Fulcrion\Core\Plans\NodeShare;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Plans\PlanTotals;
use Fulcrion\Core\Plans\StepCost;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Core\Plans\StepReads;
use Fulcrion\Core\Plans\StepRows;
use Fulcrion\Core\Plans\TableFacts;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class PlanTest extends TestCase
{
    public function test_totals_are_those_of_all_reads_in_measures_of_the_modelled_cluster(): void
    {
        $scan = static fn (float $rows, int $bytes, int $spilled): PlanStep => new PlanStep(
            StepKind::Scan,
            rows: new StepRows(in: $rows),
            cost: new StepCost(100, bytesSpilled: $spilled),
            reads: new StepReads(3, 16, bytes: $bytes),
        );
        $join = new PlanStep(
            StepKind::HashJoin,
            rows: new StepRows(in: 999.0),
            cost: new StepCost(40, bytesSpilled: 5),
            reads: new StepReads(bytes: 999),
            inputs: [$scan(7.0, 20, 1), $scan(3.0, 4, 0)],
        );
        $totals = PlanTotals::of(new Plan($join, 'practice', true, true, rowFactor: 10));
        self::assertSame([2740, 100, 240, 60, false], [
            $totals->durationUs, $totals->rowsExamined, $totals->bytesScanned, $totals->bytesSpilled, $totals->fullScan,
        ]);
        $more = $totals->grownBy(1000, $totals);
        self::assertSame([6480, 200, 480, 120, false], [
            $more->durationUs, $more->rowsExamined, $more->bytesScanned, $more->bytesSpilled, $more->fullScan,
        ]);
    }

    #[TestWith([16, 16, true])]
    #[TestWith([15, 15, false])]
    #[TestWith([15, 16, false])]
    public function test_a_table_of_many_chunks_that_is_read_whole_is_a_full_read(int $read, int $of, bool $full): void
    {
        $plan = new Plan(new PlanStep(StepKind::Scan, reads: new StepReads($read, $of)), 'practice', true, true);
        $totals = PlanTotals::of($plan);
        self::assertSame($full, $totals->fullScan);
        $none = PlanTotals::of(new Plan(new PlanStep(StepKind::Values), 'practice', true, true));
        self::assertSame([$full, $full], [$totals->grownBy(0, $none)->fullScan, $none->grownBy(0, $totals)->fullScan]);
        self::assertSame(2500, $none->durationUs, 'what a statement takes by itself');
    }

    public function test_the_hottest_step_is_the_one_most_time_goes_into(): void
    {
        $step = static fn (?int $us, PlanStep ...$inputs): PlanStep => new PlanStep(
            StepKind::Filter,
            cost: new StepCost($us),
            inputs: array_values($inputs),
        );
        $hot = $step(9);
        $of = static fn (PlanStep $root): Plan => new Plan($root, 'practice', true, true);
        self::assertSame($hot, $of($step(3, $step(7), $hot, $step(8)))->hottest());
        $first = $step(9);
        self::assertSame($first, $of($step(3, $first, $hot))->hottest(), 'of equals the upper');
        self::assertNull($of($step(null, $step(null)))->hottest());
        self::assertNull($of($step(0))->hottest(), 'nothing is hot that took no time');
        self::assertSame([27, 12, null], [
            $of($step(3, $step(7), $hot, $step(8)))->sumUs(),
            $of($step(null, $step(5), $step(7)))->sumUs(),
            $of($step(null))->sumUs(),
        ]);
        self::assertSame(500, (new Plan($step(3), 'practice', true, true, 500))->sumUs(), 'what was told of the whole counts');
    }

    public function test_the_fingerprint_knows_shape_and_tables_and_no_figures(): void
    {
        $plan = static fn (string $table, StepKind $kind, float $rows, int $inputs = 1): string => (new Plan(
            new PlanStep($kind, rows: new StepRows(actual: $rows), inputs: array_fill(0, $inputs, new PlanStep(
                StepKind::Scan,
                table: new TableFacts($table),
                conditions: ["a = {$rows}"],
            ))),
            'practice',
            true,
            true,
        ))->fingerprint();
        $one = $plan('a.b', StepKind::Filter, 1.0);
        self::assertSame($one, $plan('a.b', StepKind::Filter, 99.0));
        self::assertSame(
            4,
            count(array_unique([$one, $plan('a.c', StepKind::Filter, 1.0), $plan('a.b', StepKind::Sort, 1.0),
                $plan('a.b', StepKind::Filter, 1.0, 2)])),
        );
    }

    public function test_a_plan_comes_back_from_its_text_as_it_was(): void
    {
        $step = new PlanStep(
            StepKind::Scan,
            'by index',
            new TableFacts('a.b', 7, 'by c', 'd', ['e'], ['c' => 'text'], 5, 0.25, true),
            ['c = 1', 'd < 2'],
            new StepRows(1.5, 2.0, 3.0, 4),
            new StepCost(5, 6, 7, 8),
            new StepReads(9, 10, 11, 12, 13, 14),
            [new NodeShare(1, 2, 3, 4, 5, 6), new NodeShare(6, 5, 4, 3, 2, 1)],
            [new PlanStep(StepKind::Values)],
            ['a note'],
            0,
        );
        foreach ([[true, true, 500], [false, false, null]] as [$modelled, $actual, $totalUs]) {
            $plan = new Plan($step, 'practice', $modelled, $actual, $totalUs, 'SELECT 1', 3, 1000, ['remark']);
            self::assertEquals($plan, Plan::read($plan->toJson()));
        }
        $bare = new Plan(new PlanStep(StepKind::Values), 'mariadb', false, false);
        self::assertEquals($bare, Plan::read($bare->toJson()));
    }

    #[TestWith([10.0, 40.0, 1, 4.0])]
    #[TestWith([40.0, 10.0, 1, 4.0])]
    #[TestWith([10.0, 40.0, 4, 1.0])]
    #[TestWith([0.0, 8.0, 1, 8.0])]
    #[TestWith([8.0, 0.0, 1, 8.0])]
    #[TestWith([8.0, 8.0, 0, 1.0])]
    public function test_how_far_an_estimate_is_off_counts_both_ways_and_a_run(float $of, float $actual, int $loops, float $factor): void
    {
        $step = new PlanStep(StepKind::Filter, rows: new StepRows($of, $actual, loops: $loops));
        self::assertEqualsWithDelta($factor, (float) $step->errorFactor(), 1e-12);
        self::assertNull((new PlanStep(StepKind::Filter, rows: new StepRows($of)))->errorFactor());
        self::assertNull((new PlanStep(StepKind::Filter, rows: new StepRows(actual: $actual)))->errorFactor());
    }

    public function test_how_unevenly_nodes_are_used_is_the_most_over_the_mean(): void
    {
        $of = static fn (array ...$nodes): ?float => (new PlanStep(StepKind::Filter, nodes: array_values(array_map(
            static fn (array $n): NodeShare => new NodeShare((int) $n[0], (int) $n[1], 0, 0, 0, 0),
            $nodes,
        ))))->spread();
        self::assertSame(1.0, $of([5, 1], [2, 5]));
        self::assertSame(1.5, $of([6, 0], [2, 2]));
        self::assertNull($of([6, 0]));
        self::assertNull($of([0, 0], [0, 0]));
        self::assertNull($of());
    }

    public function test_tables_get_their_full_names_where_they_are_known_by_another(): void
    {
        $scan = static fn (string $name): PlanStep => new PlanStep(StepKind::Scan, table: new TableFacts($name), cost: new StepCost(3));
        $root = new PlanStep(StepKind::HashJoin, cost: new StepCost(4, 5, 6, 7), inputs: [$scan('p'), $scan('field.bay')]);
        $named = (new Plan($root, 'mariadb', false, true))->named(['p' => 'field.pick'], 'SELECT 1');
        self::assertSame('SELECT 1', $named->statement);
        $tables = array_map(static fn (PlanStep $s): ?string => $s->table?->name, $named->root->inputs);
        self::assertSame(['field.pick', 'field.bay'], $tables);
        self::assertSame([['as p'], []], array_column($named->root->inputs, 'notes'));
        self::assertEquals(new StepCost(4, 5, 6, 7), $named->root->cost);
        self::assertSame(3, $named->root->inputs[0]->cost->ownUs);
    }
}
