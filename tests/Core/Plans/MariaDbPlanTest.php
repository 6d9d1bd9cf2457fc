<?php

declare(strict_types=1);

namespace Tests\Core\Plans;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanError;
use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Core\Text\Parts;
use PHPUnit\Framework\TestCase;

/**
 * Each construct of EXPLAIN and ANALYZE FORMAT=JSON, with what it becomes and every figure worked out.
 */
final class MariaDbPlanTest extends TestCase
{
    public function test_a_table_that_was_read_has_its_rows_in_all_its_loops(): void
    {
        $step = self::read(['table' => [
            'table_name' => 'pick', 'access_type' => 'ref', 'possible_keys' => ['by_bay', 'by_day'], 'key' => 'by_bay',
            'used_key_parts' => ['bay', 'day'], 'ref' => ['b.id', 'const'], 'r_loops' => 40, 'rows' => 12, 'r_rows' => 8.5,
            'r_table_time_ms' => 2.5, 'r_other_time_ms' => 0.25, 'filtered' => 50, 'r_filtered' => 20, 'using_index' => true,
            'attached_condition' => 'pick.kilos > 3',
        ]]);
        self::assertSame(StepKind::IndexRead, $step->kind);
        self::assertSame('pick', $step->table?->name);
        self::assertSame(['pick.kilos > 3'], $step->conditions);
        self::assertSame('pick.kilos > 3', $step->detail);
        self::assertEqualsWithDelta([6.0, 68.0, 340.0, 40], [
            $step->rows->estimated, $step->rows->actual, $step->rows->in, $step->rows->loops,
        ], 1e-9, '12 by a half; 8.5 forty times; a fifth of those');
        self::assertSame(2_750, $step->cost->ownUs);
        self::assertSame(
            ['access ref', 'index by_bay (bay, day)', 'the index holds all that is needed', 'by b.id, const'],
            $step->notes,
        );
    }

    public function test_a_table_without_an_index_says_which_were_possible(): void
    {
        $step = self::read(['table' => ['table_name' => 'pick', 'access_type' => 'ALL', 'possible_keys' => ['x', 'y'], 'rows' => 9]]);
        self::assertSame([StepKind::Scan, ['access ALL', 'no index', 'possible: x, y']], [$step->kind, $step->notes]);
        self::assertSame([9.0, null, null, 1, null], [
            $step->rows->estimated, $step->rows->actual, $step->rows->in, $step->rows->loops, $step->cost->ownUs,
        ]);
        $kinds = ['index' => StepKind::Scan, 'range' => StepKind::IndexRead, 'eq_ref' => StepKind::IndexRead, '' => StepKind::Scan];
        foreach ($kinds as $access => $kind) {
            self::assertSame($kind, self::read(['table' => ['table_name' => 'a', 'access_type' => $access]])->kind, $access);
        }
        $timed = self::read(['table' => ['table_name' => 'a', 'access_type' => 'ALL', 'r_total_time_ms' => 4]]);
        self::assertSame(4_000, $timed->cost->ownUs, 'older servers tell one time');
        self::assertNull(self::read(['table' => ['table_name' => 'a', 'access_type' => 'ALL', 'rows' => 4]])->rows->actual);
    }

    public function test_tables_are_joined_from_left_to_right(): void
    {
        $table = static fn (string $name, float $rows, float $read, int $loops): array => ['table' => [
            'table_name' => $name, 'access_type' => 'ref', 'rows' => $rows, 'filtered' => 100, 'r_loops' => $loops, 'r_rows' => $read,
            'r_filtered' => 100,
        ]];
        $step = self::read(['nested_loop' => [$table('a', 5, 4, 1), $table('b', 2, 3, 4), $table('c', 1, 1, 12)]]);
        self::assertSame(StepKind::LoopJoin, $step->kind);
        self::assertSame('each row of the first looks up the second', $step->detail);
        self::assertSame(['a', 'b', 'c'], self::tables($step));
        self::assertEquals([10.0, 12.0, 24.0], [$step->rows->estimated, $step->rows->actual, $step->rows->in]);
        self::assertEquals([10.0, 12.0, 16.0], [
            $step->inputs[0]->rows->estimated, $step->inputs[0]->rows->actual, $step->inputs[0]->rows->in,
        ]);
        $alone = self::read(['nested_loop' => [$table('a', 5, 4, 1)]]);
        self::assertSame(StepKind::IndexRead, $alone->kind, 'one alone is no join');
    }

    public function test_a_buffered_join_keeps_the_share_that_passed(): void
    {
        $join = static fn (array $more): PlanStep => self::read(['nested_loop' => [
            ['table' => ['table_name' => 'a', 'access_type' => 'ALL', 'rows' => 10, 'r_loops' => 1, 'r_rows' => 10, 'r_filtered' => 100]],
            ['block-nl-join' => [
                'table' => ['table_name' => 'b', 'access_type' => 'ALL', 'rows' => 6, 'r_loops' => 2, 'r_rows' => 6, 'r_filtered' => 50],
            ] + $more],
        ]]);
        $hash = $join(['join_type' => 'BNLH', 'attached_condition' => 'b.x = a.x', 'r_filtered' => 5]);
        self::assertSame([StepKind::HashJoin, 'b.x = a.x', ['b.x = a.x']], [$hash->kind, $hash->detail, $hash->conditions]);
        // 6 rows of which half pass, a buffer at a time; each of the 10 meets 3, and one in twenty matches.
        self::assertEqualsWithDelta(10 * 3 * 0.05, $hash->rows->actual, 1e-9);
        self::assertEqualsWithDelta(60.0, $hash->rows->estimated, 1e-9);
        self::assertEqualsWithDelta(16.0, $hash->rows->in, 1e-9);
        $loop = $join(['join_type' => 'BNL', 'attached_condition' => 'b.x > a.x', 'r_filtered' => 100]);
        self::assertSame(StepKind::LoopJoin, $loop->kind);
        $cross = $join(['join_type' => 'BNL', 'r_filtered' => 100]);
        self::assertSame([StepKind::CrossJoin, 'every row with every row, through a buffer', []], [
            $cross->kind, $cross->detail, $cross->conditions,
        ]);
        self::assertNull($join(['join_type' => 'BNL'])->rows->actual, 'what is not told is not made up');
    }

    public function test_sorting_and_storing_wrap_what_is_below(): void
    {
        $table = ['table' => [
            'table_name' => 'a', 'access_type' => 'ALL', 'rows' => 10, 'r_loops' => 1, 'r_rows' => 10, 'r_filtered' => 100,
        ]];
        $step = self::read(['filesort' => [
            'sort_key' => 'a.x desc', 'r_loops' => 2, 'r_total_time_ms' => 1.5, 'r_output_rows' => 3, 'r_sort_passes' => 4,
            'r_used_priority_queue' => true, 'temporary_table' => $table,
        ]]);
        self::assertSame([StepKind::Sort, 'by a.x desc'], [$step->kind, $step->detail]);
        self::assertSame(['4 merge passes', 'kept only the first rows while sorting'], $step->notes);
        self::assertEquals([10.0, 6.0, 10.0, 2, 1_500], [
            $step->rows->estimated, $step->rows->actual, $step->rows->in, $step->rows->loops, $step->cost->ownUs,
        ]);
        self::assertSame([StepKind::Store, 'temporary table'], [$step->inputs[0]->kind, $step->inputs[0]->detail]);
        self::assertSame(StepKind::Scan, $step->inputs[0]->inputs[0]->kind);
        $plain = self::read(['filesort' => ['sort_key' => 'x'] + $table]);
        self::assertEquals([10.0, []], [$plain->rows->actual, $plain->notes], 'all come out where it does not say how many');
        $kinds = [
            'duplicates_removal' => [StepKind::Distinct, 'remove duplicates'],
            'group_by' => [StepKind::Aggregate, ''],
            'window_functions_computation' => [StepKind::Window, ''],
        ];
        foreach ($kinds as $name => [$kind, $detail]) {
            $step = self::read([$name => $table]);
            self::assertSame([$kind, $detail, ['a']], [$step->kind, $step->detail, self::tables($step)]);
        }
        self::assertSame(StepKind::Scan, self::read(['read_sorted_file' => ['filesort' => ['sort_key' => 'x'] + $table]])->inputs[0]->kind);
        $sorts = self::read(['window_functions_computation' => ['sorts' => [['filesort' => ['sort_key' => 'x']]]] + $table]);
        self::assertSame(StepKind::Window, $sorts->kind);
    }

    public function test_subqueries_stand_beside_what_they_are_asked_by(): void
    {
        $step = self::read([
            'table' => ['table_name' => 'a', 'access_type' => 'ALL', 'rows' => 1],
            'subqueries' => [
                ['expression_cache' => ['r_loops' => 9, 'r_hit_ratio' => 50, 'query_block' => [
                    'select_id' => 2, 'r_loops' => 5, 'table' => ['table_name' => 'b', 'access_type' => 'ALL', 'rows' => 1],
                ]]],
                ['query_block' => ['select_id' => 3, 'table' => ['table_name' => 'c', 'access_type' => 'ALL', 'rows' => 1]]],
            ],
        ]);
        self::assertSame(StepKind::Result, $step->kind);
        self::assertSame(['a', 'b', 'c'], self::tables($step));
        [, $cached, $plain] = $step->inputs;
        self::assertSame(['query 2', 5, ['answers are kept by the values asked for']], [
            $cached->detail, $cached->rows->loops, $cached->notes,
        ]);
        self::assertSame(['query 3', 1, []], [$plain->detail, $plain->rows->loops, $plain->notes]);
    }

    public function test_a_condition_on_groups_filters_what_came_out(): void
    {
        $step = self::read([
            'having_condition' => 'sum(x) > 3',
            'filesort' => ['sort_key' => 'y', 'temporary_table' => ['table' => ['table_name' => 'a', 'access_type' => 'ALL']]],
        ]);
        self::assertSame([StepKind::Filter, ['sum(x) > 3'], StepKind::Sort], [$step->kind, $step->conditions, $step->inputs[0]->kind]);
    }

    public function test_queries_put_together_are_one_behind_the_other(): void
    {
        $query = static fn (string $name): array => ['query_block' => ['table' => ['table_name' => $name, 'access_type' => 'ALL']]];
        foreach (['union_result', 'except_result', 'intersect_result', 'unit_result'] as $name) {
            $step = self::read([$name => ['table_name' => '<union1,2>', 'query_specifications' => [$query('a'), $query('b')]]]);
            self::assertSame([StepKind::Append, str_replace('_', ' ', $name), ['a', 'b']], [
                $step->kind, $step->detail, self::tables($step),
            ]);
        }
    }

    public function test_a_derived_table_is_read_from_what_made_it(): void
    {
        $step = self::read(['table' => ['table_name' => '<derived2>', 'access_type' => 'ALL', 'rows' => 5, 'materialized' => [
            'query_block' => ['select_id' => 2, 'table' => ['table_name' => 'a', 'access_type' => 'ALL', 'rows' => 50]],
        ]]]);
        self::assertSame(['<derived2>', 'a'], self::tables($step));
        $semi = self::read(['table' => ['table_name' => '<subquery2>', 'access_type' => 'eq_ref', 'materialized' => [
            'unique' => 1, 'query_block' => ['select_id' => 2, 'table' => ['table_name' => 'b', 'access_type' => 'ALL']],
        ]]]);
        self::assertSame(['<subquery2>', 'b'], self::tables($semi));
    }

    public function test_what_needs_no_table_says_so(): void
    {
        $step = self::read(['table' => ['message' => 'Impossible WHERE noticed after reading const tables']]);
        self::assertSame([StepKind::Values, 'Impossible WHERE noticed after reading const tables', null], [
            $step->kind, $step->detail, $step->table,
        ]);
    }

    public function test_the_one_table_that_was_not_timed_is_what_the_others_leave(): void
    {
        $block = static fn (?float $first, float $total): Plan => Plan::read((string) json_encode(['query_block' => [
            'r_total_time_ms' => $total,
            'nested_loop' => [
                ['table' => ['table_name' => 'a', 'access_type' => 'ALL', 'r_loops' => 1, 'r_rows' => 1] +
                    ($first === null ? [] : ['r_table_time_ms' => $first])],
                ['table' => ['table_name' => 'b', 'access_type' => 'ref', 'r_loops' => 1, 'r_rows' => 1, 'r_table_time_ms' => 3]],
            ],
        ]]));
        $plan = $block(null, 10);
        self::assertSame([7_000, 3_000, 10_000], [
            $plan->root->inputs[0]->cost->ownUs, $plan->root->inputs[1]->cost->ownUs, $plan->totalUs,
        ]);
        self::assertContains('its time is what the other steps leave of the whole', $plan->root->inputs[0]->notes);
        self::assertSame([2_000, 10_000], [$block(2, 10)->root->inputs[0]->cost->ownUs, $block(2, 10)->totalUs]);
        self::assertSame(0, $block(null, 2)->root->inputs[0]->cost->ownUs, 'never less than none');
        self::assertTrue($plan->actual);
        self::assertFalse($plan->modelled);
        self::assertSame('mariadb', $plan->engine);
    }

    public function test_nesting_has_an_end(): void
    {
        $deep = ['table' => ['table_name' => 'a', 'access_type' => 'ALL']];
        for ($i = 0; $i < 99; $i++) {
            $deep = ['table' => ['table_name' => "<derived{$i}>", 'access_type' => 'ALL', 'materialized' => ['query_block' => $deep]]];
        }
        self::assertCount(100, self::tables(self::read($deep)));
        $this->expectException(PlanError::class);
        $this->expectExceptionMessage('The plan is nested more than 100 levels deep.');
        self::read(['table' => ['table_name' => 'x', 'access_type' => 'ALL', 'materialized' => ['query_block' => $deep]]]);
    }

    public function test_anything_else_in_a_plan_breaks_nothing(): void
    {
        foreach (
            [
                [], ['table' => []], ['table' => 'x'], ['nested_loop' => []], ['nested_loop' => 'x'],
                ['nested_loop' => [[], ['table' => []]]], ['filesort' => []], ['subqueries' => [[]]], ['subqueries' => 7],
                ['union_result' => []], ['table' => ['table_name' => ['x']]],
                ['table' => ['table_name' => 'a', 'rows' => 'many', 'r_loops' => -3, 'r_rows' => 'x', 'filtered' => null]],
                ['temporary_table' => ['nested_loop' => [['block-nl-join' => []]]]], ['sorts' => [['filesort' => []]]],
                ['table' => ['table_name' => 'a', 'materialized' => ['unique' => 1]]],
            ] as $block
        ) {
            $step = self::read($block);
            self::assertGreaterThanOrEqual(1, $step->rows->loops, (string) json_encode($block));
        }
    }

    /**
     * @param  array<string, mixed>  $block
     */
    private static function read(array $block): PlanStep
    {
        return Plan::read((string) json_encode(['query_block' => $block + ['select_id' => 1]]))->root;
    }

    /**
     * @return list<string> tables from left to right
     */
    private static function tables(PlanStep $step): array
    {
        return Parts::said(array_map(static fn (PlanStep $one): ?string => $one->table?->name, $step->all()));
    }
}
