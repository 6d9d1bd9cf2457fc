<?php

declare(strict_types=1);

namespace Tests\Core\Plans;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Plans\PlanVeil;
use Fulcrion\Core\Plans\StepCost;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Core\Plans\StepReads;
use Fulcrion\Core\Plans\StepRows;
use Fulcrion\Core\Plans\TableFacts;
use PHPUnit\Framework\TestCase;

final class PlanVeilTest extends TestCase
{
    private static function scan(string $table): PlanStep
    {
        return new PlanStep(
            StepKind::Scan,
            'all of it',
            new TableFacts($table),
            ['id < 5'],
            new StepRows(41.0, 3.0, 4242.0, 1),
            new StepCost(707, 1503, 1504, 1505),
            new StepReads(11, 12, 13, 14, 1501, 1502),
            [],
            [],
            ['a note of 4242 rows'],
        );
    }

    private static function plan(): Plan
    {
        $join = new PlanStep(
            StepKind::HashJoin,
            'by id',
            null,
            ['a.id = b.id'],
            new StepRows(55.0, 6.0, 77.0, 1),
            new StepCost(808),
            inputs: [self::scan('people.crew'), self::scan('field.pick')],
        );

        return new Plan(new PlanStep(
            StepKind::Sort,
            'by id',
            null,
            [],
            new StepRows(56.0, 6.0, 6.0, 1),
            new StepCost(909),
            inputs: [$join],
        ), 'test', false, true);
    }

    public function test_a_table_that_is_seen_whole_takes_nothing_away(): void
    {
        $plan = self::plan();
        self::assertSame($plan, PlanVeil::over($plan, []));
        self::assertSame($plan, PlanVeil::over($plan, ['field.other']));
        self::assertSame(['people.crew', 'field.pick'], PlanVeil::tables($plan));
    }

    public function test_counters_of_a_table_seen_in_part_go_and_what_came_out_of_it_stays(): void
    {
        $veiled = PlanVeil::over(self::plan(), ['People.Crew']);
        [$crew, $pick] = $veiled->root->inputs[0]->inputs;
        self::assertSame(
            [null, 3.0, null, null, null, null, null, null],
            [
                $crew->rows->estimated,
                $crew->rows->actual,
                $crew->rows->in,
                $crew->cost->ownUs,
                $crew->reads->chunks,
                $crew->reads->chunksTotal,
                $crew->reads->bytes,
                $crew->cost->memoryPeak,
            ],
        );
        self::assertSame(['id < 5'], $crew->conditions);
        self::assertSame([], $crew->notes);
        self::assertEquals(self::scan('field.pick'), $pick, 'the other table is as it was');
        $join = $veiled->root->inputs[0];
        self::assertSame(
            [null, 6.0, null],
            [$join->rows->estimated, $join->rows->actual, $join->cost->ownUs],
            'what is expected above a filter depends on what is below it',
        );
        self::assertSame(6.0, $veiled->root->rows->actual);
        self::assertStringContainsString('Figures of People.Crew are not shown', $veiled->remarks[0]);
        foreach (['41', '707', '1501', '1504', '808', '909', '55', '56'] as $figure) {
            self::assertStringNotContainsString(
                $figure,
                (string) json_encode([$crew, array_diff_key(get_object_vars($join), ['inputs' => 0])]),
                $figure,
            );
        }
    }

    public function test_of_a_plan_somebody_else_made_no_count_is_shown_at_all(): void
    {
        $veiled = PlanVeil::ofOthers(self::plan(), ['people.crew']);
        [$crew, $pick] = $veiled->root->inputs[0]->inputs;
        foreach ([$crew, $veiled->root->inputs[0], $veiled->root] as $step) {
            self::assertNull($step->rows->actual, $step->detail);
            self::assertNull($step->rows->in, $step->detail);
        }
        self::assertSame(3.0, $pick->rows->actual);
    }
}
