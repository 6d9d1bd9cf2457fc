<?php

declare(strict_types=1);

namespace Tests\Practice;

use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Practice\Sql\Session;

/**
 * What the planner makes of a query, seen in its plan.
 */
final class PlannerTest extends WarehouseTestCase
{
    protected function setUp(): void
    {
        parent::setUp();
        $this->sql(
            'CREATE TABLE fact (id bigint NOT NULL, dim bigint, other bigint, day date, amount decimal(10, 2)) PLACED BY (id) SORTED BY '
                .'(day) CHUNKS OF 200 ROWS',
        );
        $this->sql('CREATE TABLE dim (id bigint NOT NULL, name text, house text) PLACED BY (id)');
        $this->sql('CREATE TABLE tiny (id bigint NOT NULL, label text) PLACED EVENLY');
        $this->sql(
            'INSERT INTO dim VALUES '.
                implode(', ', array_map(static fn (int $i): string => "({$i}, 'd{$i}', 'h".$i % 4 ."')", range(0, 99))),
        );
        $this->sql("INSERT INTO tiny VALUES (0, 'zero'), (1, 'one'), (2, 'two')");
        foreach (array_chunk(range(0, 1999), 500) as $part) {
            $this->sql(
                'INSERT INTO fact VALUES '.
                    implode(
                        ', ',
                        array_map(
                            static fn (int $i): string => "({$i}, ".
                                $i % 100 .
                                ', '.
                                $i % 3 .
                                ", DATE '2026-01-01' + INTERVAL ".
                                intdiv($i, 100).
                                " DAY, {$i}.25)",
                            $part,
                        ),
                    ),
            );
        }
        foreach (['fact', 'dim', 'tiny'] as $table) {
            $this->sql("ANALYZE {$table}");
        }
    }

    public function test_filters_reach_the_scans_through_every_level(): void
    {
        foreach (
            [
                'derived tables' => 'SELECT x.amount FROM (SELECT y.amount, y.day FROM (SELECT amount, day FROM fact) y) x WHERE x.day '
                    ."= DATE '2026-01-05'",
                'groups' => 'SELECT day, total FROM (SELECT day, sum(amount) AS total FROM fact GROUP BY day) g WHERE g.day = DATE '
                    ."'2026-01-05'",
                'unions' => 'SELECT day FROM (SELECT day, amount FROM fact WHERE other = 1 UNION ALL SELECT day, amount FROM fact WHERE '
                    ."other = 2) u WHERE u.day = DATE '2026-01-05'",
                'joins' => "SELECT f.amount FROM fact f JOIN dim d ON d.id = f.dim WHERE f.day = DATE '2026-01-05'",
                'outer joins, on the side that stays' => 'SELECT f.amount FROM fact f LEFT JOIN dim d ON d.id = f.dim WHERE f.day = '
                    ."DATE '2026-01-05'",
                'window partitions' => 'SELECT day, n FROM (SELECT day, row_number() OVER (PARTITION BY day ORDER BY id) AS n FROM '
                    ."fact) w WHERE w.day = DATE '2026-01-05'",
            ] as $level => $sql
        ) {
            foreach ($this->scansOf($this->explain($sql), 's.fact') as $scan) {
                self::assertContains("day = DATE '2026-01-05'", $scan->conditions, $level);
            }
        }
        $limited = $this->scansOf(
            $this->explain("SELECT day FROM (SELECT day FROM fact ORDER BY id LIMIT 5) x WHERE x.day = DATE '2026-01-05'"),
            's.fact',
        )[0];
        self::assertSame([], $limited->conditions, 'not below a LIMIT');
        $outer = $this->scansOf($this->explain('SELECT f.id FROM fact f LEFT JOIN dim d ON d.id = f.dim WHERE d.name IS NULL'), 's.dim')[0];
        self::assertSame([], $outer->conditions, 'not below the side that may be missing');
    }

    public function test_what_is_known_of_one_side_of_an_equality_is_known_of_the_other(): void
    {
        $plan = $this->explain('SELECT f.amount FROM fact f JOIN dim d ON d.id = f.dim WHERE f.dim = 7');
        self::assertContains('id = 7', $this->scansOf($plan, 's.dim')[0]->conditions);
    }

    public function test_an_outer_join_whose_nulls_are_filtered_out_is_an_inner_one(): void
    {
        $kept = fn (string $where): bool => array_filter(
            $this->explain("SELECT f.id FROM fact f LEFT JOIN dim d ON d.id = f.dim WHERE {$where}")->steps(),
            static fn (PlanStep $step): bool => in_array('keeps rows of the first input without a match', $step->notes, true),
        ) !== [];
        foreach (
            ["d.name = 'd4'", 'd.id > 3 AND f.other = 1', 'd.name IS NOT NULL', "d.house IN ('h1', 'h2')", 'upper(d.name) = '
                ."'D4'"] as $rejecting
        ) {
            self::assertFalse($kept($rejecting), $rejecting);
        }
        foreach (
            [
                'd.name IS NULL',
                "coalesce(d.name, 'd4') = 'd4'",
                'f.other = 1',
                "d.name = 'd4' OR f.other = 1",
                "(d.name = 'd4') IS NOT TRUE",
            ] as $keeping
        ) {
            self::assertTrue($kept($keeping), $keeping);
        }
    }

    public function test_subqueries_become_joins_where_that_means_the_same(): void
    {
        $note = 'only asks whether there is a match';
        foreach (
            ['dim IN (SELECT id FROM dim WHERE house = \'h1\')', 'EXISTS (SELECT 1 FROM dim d WHERE d.id = fact.dim AND d.house = '
                .'\'h1\')'] as $condition
        ) {
            $plan = $this->explain("SELECT id FROM fact WHERE {$condition}");
            self::assertSame([], $this->steps($plan, StepKind::Subquery), $condition);
            self::assertContains(
                $note,
                array_merge(...array_map(static fn (PlanStep $step): array => $step->notes, $plan->steps())),
                $condition,
            );
        }
        // NOT IN knows NULL and stays what it is.
        self::assertCount(1, $this->steps($this->explain('SELECT id FROM fact WHERE dim NOT IN (SELECT id FROM dim)'), StepKind::Subquery));
    }

    public function test_only_used_columns_are_read(): void
    {
        $read = fn (string $sql): int => (int) $this->steps($this->planOf($sql), StepKind::Scan)[0]->reads->bytesTotal;
        $one = $read('SELECT sum(amount) FROM fact');
        self::assertSame(0, $read('SELECT count(*) FROM fact'));
        self::assertSame($one, $read('SELECT x.amount FROM (SELECT * FROM fact) x'));
        self::assertGreaterThan(2 * $one, $read('SELECT * FROM fact'));
    }

    public function test_joins_begin_where_rows_are_few_and_hold_the_smaller_side(): void
    {
        $plan = $this->explain(
            "SELECT f.amount FROM fact f JOIN dim d ON d.id = f.dim JOIN tiny t ON t.id = f.other WHERE t.label = 'one' AND d.house = 'h2'",
        );
        foreach ($this->steps($plan, StepKind::HashJoin) as $join) {
            self::assertLessThanOrEqual($join->inputs[0]->rows->estimated, $join->inputs[1]->rows->estimated);
        }
        // Written the other way round it is as good a plan.
        $made = fn (Plan $plan): float => array_sum(
            array_map(
                static fn (PlanStep $join): float => (float) $join->inputs[1]->rows->estimated + (float) $join->rows->estimated,
                $this->steps($plan, StepKind::HashJoin),
            ),
        );
        self::assertEqualsWithDelta(
            $made($plan),
            $made(
                $this->explain(
                    "SELECT f.amount FROM tiny t, dim d, fact f WHERE d.house = 'h2' AND f.other = t.id AND d.id = f.dim AND t.label = "
                        ."'one'",
                ),
            ),
            0.1 * $made($plan),
        );
        // No cross join between dimensions that only the fact connects.
        self::assertSame([], $this->steps($plan, StepKind::CrossJoin));
    }

    public function test_a_side_that_is_surely_tiny_is_looped_over(): void
    {
        $kinds = fn (string $sql): array => array_map(
            static fn (PlanStep $step): string => $step->kind->value,
            array_filter($this->explain($sql)->steps(), static fn (PlanStep $step): bool => $step->kind->isJoin()),
        );
        self::assertContains('loop-join', $kinds('SELECT f.id FROM fact f JOIN (SELECT max(id) AS top FROM dim) m ON m.top = f.dim'));
        self::assertContains('loop-join', $kinds('SELECT f.id FROM fact f JOIN (VALUES (1), (2)) v (x) ON v.x = f.dim'));
        self::assertContains('hash-join', $kinds('SELECT f.id FROM fact f JOIN tiny t ON t.id = f.other'));
        self::assertSame([[40]], $this->rows('SELECT count(*) FROM fact f JOIN (VALUES (1), (2)) v (x) ON v.x = f.dim'));
        self::assertSame([[20]], $this->rows('SELECT count(*) FROM fact f JOIN (SELECT max(id) AS top FROM dim) m ON m.top = f.dim'));
    }

    public function test_nine_tables_are_ordered_too(): void
    {
        $sql =
            'SELECT count(*) FROM tiny t0'.
            implode('', array_map(static fn (int $i): string => " JOIN tiny t{$i} ON t{$i}.id = t".($i - 1).'.id', range(1, 8)));
        self::assertSame([[3]], $this->rows($sql));
        self::assertSame([], $this->steps($this->explain($sql), StepKind::CrossJoin));
    }

    public function test_groups_are_made_in_two_phases_unless_they_lie_together(): void
    {
        self::assertCount(
            1,
            $this->steps($this->explain('SELECT other, sum(amount), avg(amount) FROM fact GROUP BY other'), StepKind::PartialAggregate),
        );
        self::assertSame([], $this->steps($this->explain('SELECT id, sum(amount) FROM fact GROUP BY id'), StepKind::PartialAggregate));
        self::assertSame(
            [],
            $this->steps($this->explain('SELECT other, count(DISTINCT dim) FROM fact GROUP BY other'), StepKind::PartialAggregate),
        );
        self::assertCount(2, $this->steps($this->explain('SELECT id FROM fact ORDER BY amount LIMIT 3'), StepKind::Top));
    }

    public function test_estimates_come_from_statistics_and_fall_back_to_guesses(): void
    {
        $rows = fn (string $where): float => (float) $this->scansOf($this->explain("SELECT id FROM fact WHERE {$where}"), 's.fact')[0]
            ->rows->estimated;
        self::assertEqualsWithDelta(20, $rows('dim = 5'), 2);
        self::assertEqualsWithDelta(1000, $rows('id < 1000'), 30);
        self::assertEqualsWithDelta(300, $rows("day >= DATE '2026-01-04' AND day < DATE '2026-01-07'"), 60);
        self::assertEqualsWithDelta(667, $rows('other = 1'), 10);
        $this->sql('CREATE TABLE unknown AS SELECT * FROM fact');
        self::assertSame(
            10.0,
            (float) $this->steps($this->explain('SELECT id FROM unknown WHERE dim = 5'), StepKind::Scan)[0]->rows->estimated,
        );
    }

    private function explain(string $sql): Plan
    {
        return $this->engine->explain($sql, new Session('s', 'tester', self::NOW)) ?? self::fail('no plan');
    }

    /**
     * @return non-empty-list<PlanStep>
     */
    private function scansOf(Plan $plan, string $table): array
    {
        $scans = array_values(
            array_filter(
                $plan->steps(),
                static fn (PlanStep $step): bool => $step->kind === StepKind::Scan && $step->table?->name === $table,
            ),
        );

        return $scans === [] ? self::fail("{$table} is not read") : $scans;
    }
}
