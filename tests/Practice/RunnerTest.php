<?php

declare(strict_types=1);

namespace Tests\Practice;

use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Plans\PlanTotals;
use Fulcrion\Core\Plans\StepKind;
use Fulcrion\Practice\Physical\Limits;
use Fulcrion\Practice\Physical\StoppedRun;

final class RunnerTest extends WarehouseTestCase
{
    public function test_a_narrow_filter_on_the_clustering_column_skips_most_bytes_and_changes_no_answer(): void
    {
        $this->numbers('t', 2800, 'SORTED BY (day) CHUNKS OF 100 ROWS');
        $this->sql('CREATE TABLE whole SORTED BY (day) CHUNKS OF 25 ROWS AS SELECT * FROM t');
        foreach (
            [
                "day = DATE '2026-01-08'",
                "day >= DATE '2026-01-28'",
                "day IN (DATE '2026-01-02', DATE '2026-01-09')",
                'n BETWEEN 500 AND 530',
                "day < DATE '2026-01-02' AND word LIKE 'w1%'",
            ] as $filter
        ) {
            $plan = $this->planOf("SELECT count(*), sum(n) FROM whole WHERE {$filter}");
            $scan = $this->steps($plan, StepKind::Scan)[0];
            self::assertLessThan(0.25, (int) $scan->reads->bytes / (int) $scan->reads->bytesTotal, $filter);
            // The same rows by brute force: a filter nothing can be skipped by.
            self::assertEquals(
                $this->rows("SELECT count(*), sum(n) FROM whole WHERE ({$filter}) IS TRUE"),
                $this->rows("SELECT count(*), sum(n) FROM whole WHERE {$filter}"),
            );
        }
        $wrapped = $this->steps(
            $this->planOf("SELECT count(*) FROM whole WHERE date_trunc('day', day) = DATE '2026-01-08'"),
            StepKind::Scan,
        )[0];
        self::assertSame($wrapped->reads->bytesTotal, $wrapped->reads->bytes);
        self::assertSame(100.0, $wrapped->rows->actual);
    }

    public function test_counters_add_up_and_show_where_rows_are(): void
    {
        $this->numbers('t', 1000, 'PLACED BY (word) CHUNKS OF 100 ROWS');
        $plan = $this->planOf('SELECT k, count(*) FROM t WHERE k < 7 GROUP BY k');
        $scan = $this->steps($plan, StepKind::Scan)[0];
        self::assertSame([1000.0, 700.0], [$scan->rows->in, $scan->rows->actual]);
        self::assertSame(1000, array_sum(array_map(static fn ($node) => $node->rowsIn, $scan->nodes)));
        // Seven words on four nodes cannot be even.
        self::assertGreaterThan(1.1, $scan->spread());
        $move = $this->steps($plan, StepKind::Repartition)[0];
        self::assertGreaterThan(0, $move->cost->bytesSent);
        self::assertSame(7.0, $plan->root->rows->actual);
    }

    public function test_rows_move_only_where_they_must(): void
    {
        $this->numbers('a', 1200, 'PLACED BY (n)');
        $this->numbers('b', 1000, 'PLACED BY (n)');
        $this->numbers('c', 1000, 'PLACED BY (word)');
        $this->numbers('small', 10, 'PLACED EVENLY');
        $this->numbers('everywhere', 50, 'PLACED EVERYWHERE');
        foreach (['a', 'b', 'c', 'small', 'everywhere'] as $name) {
            $this->sql("ANALYZE {$name}");
        }
        $exchanges = fn (string $sql): array => array_values(
            array_map(
                static fn (PlanStep $step): string => $step->kind->value,
                array_filter(
                    $this->planOf($sql)->steps(),
                    static fn (PlanStep $step): bool => $step->kind->isExchange() && $step->kind !== StepKind::Gather,
                ),
            ),
        );
        self::assertSame([], $exchanges('SELECT a.n FROM a JOIN b ON a.n = b.n'));
        self::assertSame([], $exchanges('SELECT a.n, count(*) FROM a JOIN b ON a.n = b.n GROUP BY a.n'));
        self::assertSame([], $exchanges('SELECT a.n FROM a JOIN everywhere e ON a.k = e.n'));
        self::assertSame(['broadcast'], $exchanges('SELECT a.n FROM a JOIN small s ON a.k = s.n'));
        self::assertSame(['repartition'], $exchanges('SELECT a.n FROM a JOIN c ON a.n = c.n'));
        self::assertSame(['repartition', 'repartition'], $exchanges('SELECT a.n FROM a JOIN c ON a.day = c.day AND a.k = c.k'));
        // A filtered dimension first tells the fact which keys are wanted.
        $scan = $this->steps($this->planOf("SELECT count(*) FROM a JOIN small s ON a.n = s.n WHERE s.word = 'w3'"), StepKind::Scan);
        self::assertSame(1.0, min(array_map(static fn (PlanStep $step): float => $step->rows->actual ?? 0, $scan)));
        foreach ($scan as $step) {
            self::assertLessThan(10, $step->errorFactor(), 'what was told away beforehand was not a wrong estimate');
        }
    }

    public function test_modelled_time_is_the_slowest_nodes_and_follows_the_formula(): void
    {
        $this->numbers('t', 400, 'PLACED BY (word) CHUNKS OF 400 ROWS');
        $plan = $this->planOf('SELECT n FROM t');
        $scan = $this->steps($plan, StepKind::Scan)[0];
        $slowest = 0.0;
        foreach ($scan->nodes as $node) {
            // 2 cores of 1000 rows/s, 1 MB/s of disk, each stored row stands for 10.
            $slowest = max($slowest, ceil(($node->rowsIn / 2000 + $node->bytesRead / 1_000_000) * 10 * 1e6));
        }
        self::assertEqualsWithDelta($slowest, $scan->cost->ownUs, 1);
        $gather = $this->steps($plan, StepKind::Gather)[0];
        $most = max(
            array_map(
                static fn ($node): float => ceil((($node->rowsIn * 0.2) / 2000 + $node->bytesSent / 1_000_000) * 10 * 1e6),
                $gather->nodes,
            ),
        );
        self::assertEqualsWithDelta($most + 400, $gather->cost->ownUs, 1);
        self::assertEquals($plan->sumUs(), $this->planOf('SELECT n FROM t')->sumUs());
        $totals = PlanTotals::of($plan);
        self::assertSame(
            [4000, (int) $scan->reads->bytes * 10, (int) $plan->sumUs() + 2500],
            [$totals->rowsExamined, $totals->bytesScanned, $totals->durationUs],
        );
    }

    public function test_memory_beyond_a_node_spills(): void
    {
        $this->numbers('t', 20_000, 'PLACED EVENLY');
        $sort = $this->steps($this->planOf('SELECT n, word, day, k FROM t ORDER BY word, n'), StepKind::Sort)[0];
        self::assertGreaterThan(100_000, $sort->cost->memoryPeak);
        self::assertSame((int) $sort->cost->memoryPeak - 100_000, $sort->cost->bytesSpilled);
        $top = $this->steps($this->planOf('SELECT n, word FROM t ORDER BY word, n LIMIT 5'), StepKind::Top);
        self::assertSame(0, $top[0]->cost->bytesSpilled);
    }

    public function test_correlated_subqueries_are_run_once_a_value_and_counted(): void
    {
        $this->numbers('t', 200, '');
        $plan = $this->planOf('SELECT n FROM t WHERE n > (SELECT avg(x.n) FROM t x WHERE x.k = t.k)');
        self::assertSame([10], array_map(static fn (PlanStep $step): int => $step->rows->loops, $this->steps($plan, StepKind::Subquery)));
        self::assertSame(
            [],
            $this->steps($this->planOf('SELECT n FROM t WHERE EXISTS (SELECT 1 FROM t x WHERE x.k = t.n)'), StepKind::Subquery),
        );
    }

    public function test_a_limit_without_order_reads_no_further_than_it_must(): void
    {
        $this->numbers('t', 4000, 'CHUNKS OF 100 ROWS');
        $scan = $this->steps($this->planOf('SELECT n FROM t LIMIT 5'), StepKind::Scan)[0];
        self::assertLessThanOrEqual(4, $scan->reads->chunks);
    }

    public function test_time_rows_and_people_stop_a_run(): void
    {
        $this->numbers('t', 3000, 'CHUNKS OF 20 ROWS');
        self::assertTrue($this->sql('SELECT n FROM t', $this->limits(rows: 7))->cut);
        $now = 0;
        $clock = static function () use (&$now): int {
            return $now += 50_000_000;
        };
        try {
            $this->sql('SELECT count(*) FROM t a JOIN t b ON a.n <> b.n', $this->limits(seconds: 2, clock: $clock));
            self::fail('not stopped');
        } catch (StoppedRun $stopped) {
            self::assertFalse($stopped->byHand);
            self::assertStringContainsString('Stopped after 2 s', $stopped->getMessage());
        }
        foreach (
            [
                'SELECT n, word FROM t ORDER BY word',
                'SELECT n, rank() OVER (ORDER BY word) FROM t',
                'SELECT count(*) FROM t a JOIN t b ON a.n = b.n',
            ] as $sql
        ) {
            try {
                $this->sql($sql, new Limits(30, 10, null, static fn (): int => (int) hrtime(true), memory_get_usage() + 60_000));
                self::fail("not stopped: {$sql}");
            } catch (StoppedRun $stopped) {
                self::assertStringContainsString('more memory than a run may use', $stopped->getMessage());
            }
        }
        $this->expectExceptionObject(new StoppedRun('Stopped by hand.', true));
        $this->sql('SELECT count(*) FROM t a, t b', $this->limits(cancelled: static fn (): bool => true));
    }
}
