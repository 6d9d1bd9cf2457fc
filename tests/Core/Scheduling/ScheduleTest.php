<?php

declare(strict_types=1);

namespace Tests\Core\Scheduling;

use Fulcrion\Core\Scheduling\Scheduler;
use Fulcrion\Core\Scheduling\Stage;
use Fulcrion\Core\Scheduling\TaskGraph;
use Fulcrion\Core\Scheduling\TaskOrder;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Schedules against Graham's bounds, against the plainest simulation there is, and against the best of all lists.
 */
final class ScheduleTest extends TestCase
{
    public function test_every_makespan_lies_between_the_bounds_and_none_runs_what_is_not_ready(): void
    {
        $random = new Randomizer(new Mt19937(7));
        for ($round = 0; $round < 300; $round++) {
            [$graph, $durations, $edges] = Jobs::randomGraph($random, $random->getInt(1, 40));
            $work = array_sum($durations);
            $span = $graph->spanUs($durations);
            foreach (TaskOrder::cases() as $order) {
                $scheduler = new Scheduler($graph, $durations, $order, range(0, $graph->tasks - 1));
                foreach ([1, 2, 3, 7, 100] as $workers) {
                    $schedule = $scheduler->run($workers, true);
                    self::assertGreaterThanOrEqual(max($work / $workers, $span) - 1e-9, $schedule->makespanUs);
                    self::assertLessThanOrEqual($work / $workers + (1 - 1 / $workers) * $span + 1e-9, $schedule->makespanUs);
                    self::assertLessThanOrEqual($workers, $schedule->used()->most());
                    self::assertSame($work, $schedule->used()->area());
                    foreach ($edges as [$before, $after]) {
                        self::assertGreaterThanOrEqual($schedule->starts[$before] + $durations[$before], $schedule->starts[$after]);
                    }
                }
                self::assertSame($work, $scheduler->run(1)->makespanUs, 'one worker gives the sum');
                self::assertSame($span, $scheduler->run(max(1, $graph->tasks))->makespanUs, 'enough workers give the span');
            }
        }
    }

    public function test_it_does_second_by_second_what_the_order_says(): void
    {
        $random = new Randomizer(new Mt19937(8));
        for ($round = 0; $round < 200; $round++) {
            [$graph, $durations, $edges] = Jobs::randomGraph($random, $random->getInt(2, 9));
            $list = $random->shuffleArray(range(0, $graph->tasks - 1));
            $workers = $random->getInt(1, 4);
            self::assertSame(
                self::bruteForce($durations, $edges, array_flip($list), $workers),
                (new Scheduler(
                    $graph,
                    $durations,
                    TaskOrder::Recorded,
                    array_map(static fn (int $task): int => (int) array_search($task, $list, true), range(0, $graph->tasks - 1)),
                ))->run($workers)->makespanUs,
            );
        }
    }

    public function test_longest_path_first_is_never_beaten_by_more_than_the_bound_and_is_often_the_best_list(): void
    {
        $random = new Randomizer(new Mt19937(9));
        $best = 0;
        for ($round = 0; $round < 40; $round++) {
            [$graph, $durations, $edges] = Jobs::randomGraph($random, 6);
            $shortest = PHP_INT_MAX;
            foreach (self::permutations(range(0, 5)) as $list) {
                $shortest = min($shortest, self::bruteForce($durations, $edges, array_flip($list), 2));
            }
            $time = (new Scheduler($graph, $durations, TaskOrder::LongestPath))->run(2)->makespanUs;
            self::assertGreaterThanOrEqual($shortest, $time);
            self::assertLessThanOrEqual(1.5 * $shortest, $time, '2 - 1/N for two workers');
            $best += $time === $shortest ? 1 : 0;
        }
        self::assertGreaterThan(30, $best);
    }

    public function test_first_in_first_out_takes_what_was_ready_first(): void
    {
        // 0 and 1 run; 1 ends first and lets 3 go before 0 lets 2 go.
        $graph = TaskGraph::edges(4, 4, [0, 1], [2, 3]);
        $schedule = (new Scheduler($graph, [5, 3, 4, 4], TaskOrder::FirstReady))->run(1, true);
        self::assertSame([0, 5, 8, 12], $schedule->starts);
        $two = (new Scheduler($graph, [5, 3, 4, 4], TaskOrder::FirstReady))->run(2, true);
        self::assertSame([0, 0, 5, 3], $two->starts);
        self::assertSame(9, $two->makespanUs);
    }

    public function test_a_task_starts_when_its_own_dependencies_end_not_when_the_stage_does(): void
    {
        $run = Jobs::run(
            [new Stage('read', 'read'), new Stage('fold', 'fold', ['read'])],
            [['r0', 'read', 0, 2, 0], ['r1', 'read', 0, 9, 1], ['f0', 'fold', 2, 5, 0, 0, 1, [0]], ['f1', 'fold', 9, 10, 1]],
        );
        self::assertSame([0, 0, 2, 9], array_slice($run->graph->earliest([2, 9, 3, 1]), 0, 4));
        self::assertSame([1, 3], $run->graph->criticalPath([2, 9, 3, 1]));
        self::assertSame(10, $run->graph->spanUs([2, 9, 3, 1]));
    }

    public function test_a_stage_without_tasks_hands_on_what_it_waits_for(): void
    {
        $stages = [
            new Stage('read', 'read', []),
            new Stage('empty', 'empty', ['read']),
            new Stage('void', 'void', ['empty']),
            new Stage('write', 'write', ['void']),
        ];
        $run = Jobs::run($stages, [['a', 'read', 0, 5, 0], ['b', 'read', 0, 3, 1], ['c', 'write', 5, 7, 0]]);
        $seconds = [5, 3, 2];
        self::assertSame([0, 0, 5], array_slice($run->graph->earliest($seconds), 0, 3));
        self::assertSame(7, $run->graph->spanUs($seconds));
        self::assertSame([0, 2], $run->graph->criticalPath($seconds));
    }

    public function test_workers_take_their_time_to_start_and_may_come_and_go(): void
    {
        $graph = TaskGraph::edges(3, 3, [], []);
        self::assertSame(
            22,
            (new Scheduler($graph, [10, 10, 10], TaskOrder::FirstReady, [], [2, 4]))->run(2)->makespanUs,
            'the worker that came first takes the third',
        );
        // One worker, from 5 on three, from 6 on one again: what runs is not taken away.
        $elastic = (new Scheduler($graph, [10, 10, 10], TaskOrder::FirstReady))->elastic([[0, 1], [5, 3], [6, 1]], true);
        self::assertSame([0, 5, 5], $elastic->starts);
        self::assertSame(
            PHP_INT_MAX,
            (new Scheduler($graph, [10, 10, 10], TaskOrder::FirstReady))->elastic([[0, 1], [5, 0]])->makespanUs,
            'nobody is left',
        );
    }

    public function test_a_circle_is_told_with_its_path(): void
    {
        // 0 before 1 before 2 before 3 before 1; 4 hangs on the circle.
        $graph = TaskGraph::edges(5, 5, [0, 1, 2, 3, 3], [1, 2, 3, 1, 4]);
        $cycle = $graph->cycle();
        self::assertSame($cycle[0], $cycle[count($cycle) - 1]);
        self::assertEqualsCanonicalizing([1, 2, 3], array_slice($cycle, 1));
        self::assertContains([$cycle[0], $cycle[1]], [[1, 2], [2, 3], [3, 1]]);
        self::assertSame([], TaskGraph::edges(3, 3, [0, 1], [1, 2])->cycle());
    }

    /**
     * Goes on moment by moment: ends what is through, then gives each free worker the first ready task of the list.
     *
     * @param  list<int>  $durations
     * @param  list<array{int, int}>  $edges
     * @param  array<int, int>  $place
     */
    private static function bruteForce(array $durations, array $edges, array $place, int $workers): int
    {
        $done = $running = [];
        $end = 0;
        for ($now = 0; count($done) < count($durations); $now++) {
            do {
                $moved = false;
                foreach ($running as $task => $until) {
                    if ($until <= $now) {
                        $done[$task] = true;
                        unset($running[$task]);
                        $end = max($end, $until);
                        $moved = true;
                    }
                }
                $ready = array_filter(
                    array_keys($durations),
                    static fn (int $task): bool => ! isset($done[$task]) &&
                        ! isset($running[$task]) &&
                        array_filter($edges, static fn (array $edge): bool => $edge[1] === $task && ! isset($done[$edge[0]])) === [],
                );
                usort($ready, static fn (int $a, int $b): int => $place[$a] <=> $place[$b]);
                foreach (array_slice($ready, 0, $workers - count($running)) as $task) {
                    $running[$task] = $now + $durations[$task];
                    $moved = true;
                }
            } while ($moved && min([PHP_INT_MAX, ...$running]) <= $now);
        }

        return $end;
    }

    /**
     * @param  list<int>  $items
     * @return iterable<list<int>>
     */
    private static function permutations(array $items): iterable
    {
        if (count($items) < 2) {
            yield $items;

            return;
        }
        foreach ($items as $i => $item) {
            $rest = $items;
            unset($rest[$i]);
            foreach (self::permutations(array_values($rest)) as $others) {
                yield [$item, ...$others];
            }
        }
    }
}
