<?php

declare(strict_types=1);

namespace Tests\Core\Profiling;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Plans\StepCost;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Core\Plans\TableFacts;
use Fulcrion\Core\Profiling\PlanStacks;
use PHPUnit\Framework\TestCase;

final class PlanStacksTest extends TestCase
{
    public function test_a_step_is_called_by_the_one_that_takes_its_rows(): void
    {
        $scan = new PlanStep(StepKind::Scan, table: new TableFacts('field.pick'), cost: new StepCost(2_500));
        $other = new PlanStep(StepKind::Scan, table: new TableFacts('ref;odd'), cost: new StepCost(0));
        $join = new PlanStep(StepKind::HashJoin, cost: new StepCost(1_500), inputs: [$scan, $other]);
        $tree = PlanStacks::of(self::plan(new PlanStep(StepKind::Aggregate, inputs: [$join])));
        self::assertSame(4.0, $tree->root->total, 'milliseconds');
        $top = StepKind::Aggregate->label();
        self::assertSame([4.0, 0.0], [$tree->root->at([$top])?->total, $tree->root->at([$top])?->own]);
        self::assertSame(1.5, $tree->root->at([$top, StepKind::HashJoin->label()])?->own);
        self::assertSame(2.5, $tree->root->at([$top, StepKind::HashJoin->label(), StepKind::Scan->label().' field.pick'])?->own);
        self::assertCount(1, $tree->root->at([$top, StepKind::HashJoin->label()])->children, 'what took nothing is not there');
    }

    public function test_a_plan_that_does_not_say_what_its_steps_took_is_empty(): void
    {
        self::assertSame(0.0, PlanStacks::of(self::plan(new PlanStep(StepKind::Scan)))->root->total);
    }

    private static function plan(PlanStep $root): Plan
    {
        return new Plan($root, 'practice', true, true);
    }
}
