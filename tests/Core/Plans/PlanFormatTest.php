<?php

declare(strict_types=1);

namespace Tests\Core\Plans;

use Fulcrion\Core\Plans\NodeShare;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanError;
use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Plans\StepCost;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Core\Plans\StepReads;
use Fulcrion\Core\Plans\StepRows;
use Fulcrion\Core\Plans\TableFacts;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class PlanFormatTest extends TestCase
{
    public function test_a_plan_written_reads_back_the_same(): void
    {
        $scan = new PlanStep(
            StepKind::Scan,
            'a.b',
            new TableFacts('a.b', 7, 'evenly', 'd', ['c'], ['c' => 'bigint'], 5, 0.5, true),
            ['c > 1'],
            new StepRows(3.5, 4.0, 7.0, 1),
            new StepCost(12, null, 8, 9),
            new StepReads(1, 2, 3, 4, 5, 6),
            [new NodeShare(1, 2, 3, 4, 5, 6)],
            notes: ['a note'],
        );
        $plan = new Plan(
            new PlanStep(
                StepKind::HashJoin,
                'x = y',
                null,
                ['x = y'],
                new StepRows(loops: 3),
                inputs: [$scan, new PlanStep(StepKind::Values)],
                onlyFilters: 1,
            ),
            'practice',
            true,
            true,
            99,
            'SELECT 1',
            12,
            1000,
        );
        self::assertEquals($plan, Plan::read($plan->toJson()));
        self::assertSame($plan->fingerprint(), Plan::read($plan->toJson())->fingerprint());
    }

    public function test_the_fingerprint_is_of_the_shape_only(): void
    {
        $plan = static fn (StepKind $kind, string $table, float $rows): string => (new Plan(
            new PlanStep(
                $kind,
                inputs: [new PlanStep(StepKind::Scan, table: new TableFacts($table), rows: new StepRows(actual: $rows))],
            ),
            'practice',
            true,
            true,
        ))->fingerprint();
        self::assertSame($plan(StepKind::Sort, 'a.b', 1), $plan(StepKind::Sort, 'a.b', 2));
        self::assertNotSame($plan(StepKind::Sort, 'a.b', 1), $plan(StepKind::Top, 'a.b', 1));
        self::assertNotSame($plan(StepKind::Sort, 'a.b', 1), $plan(StepKind::Sort, 'a.c', 1));
    }

    public function test_mariadbs_figures_are_read(): void
    {
        $plan = Plan::read((string) file_get_contents(__DIR__.'/mariadb-analyze.json'));
        self::assertSame([true, false, 105_086], [$plan->actual, $plan->modelled, $plan->totalUs]);
        $steps = $plan->steps();
        self::assertSame(
            [StepKind::Sort, StepKind::Store, StepKind::LoopJoin, StepKind::IndexRead, StepKind::IndexRead],
            array_map(static fn (PlanStep $step): StepKind => $step->kind, $steps),
        );
        [, , , $outer, $inner] = $steps;
        self::assertSame(
            ['f', 16_282.0, 1, ['f.cluster_id = 2 and f.bucket_at >= 1795000000']],
            [$outer->table?->name, $outer->rows->actual, $outer->rows->loops, $outer->conditions],
        );
        self::assertEqualsWithDelta(5221.0, $outer->rows->estimated, 1);
        self::assertSame([16_282, 16_282.0, 104_922], [$inner->rows->loops, $inner->rows->actual, $inner->cost->ownUs]);
        // Expected one row a loop, and one came.
        self::assertSame(1.0, $inner->errorFactor());
        self::assertSame(105_086, $plan->root->cumulativeUs());
    }

    public function test_a_plan_without_figures_has_expectations_only(): void
    {
        $plan = Plan::read(
            '{"query_block": {"select_id": 1, "nested_loop": [{"table": {"table_name": "a", "access_type": "ALL", "rows": 50, '
                .'"filtered": 10, "attached_condition": "a.x > 3"}}, {"block-nl-join": {"table": {"table_name": "b", "access_type": '
                .'"ALL", "rows": 20, "filtered": 100}, "buffer_type": "flat", "join_type": "BNLH", "attached_condition": "b.y = '
                .'a.x"}}], "subqueries": [{"query_block": {"select_id": 2, "table": {"message": "No tables used"}}}]}}',
        );
        self::assertFalse($plan->actual);
        self::assertSame(
            ['result', 'hash-join', 'scan', 'scan', 'subquery', 'values'],
            array_map(static fn (PlanStep $step): string => $step->kind->value, $plan->steps()),
        );
        self::assertEquals([5.0, 100.0], [$plan->steps()[2]->rows->estimated, $plan->steps()[1]->rows->estimated]);
        self::assertNull($plan->hottest());
    }

    #[TestWith(['', 'The text is not JSON'])]
    #[TestWith(['{"a": 1}', 'neither a plan of the format fulcrion-plan/1'])]
    #[TestWith(['{"format": "fulcrion-plan/1", "root": {"kind": "dance"}}', 'The step kind "dance" is not known'])]
    public function test_what_is_no_plan_is_refused_with_its_reason(string $json, string $reason): void
    {
        $this->expectException(PlanError::class);
        $this->expectExceptionMessage($reason);
        Plan::read($json);
    }
}
