<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Core\Scheduling\Scheduler;
use Fulcrion\Core\Scheduling\Stage;
use Fulcrion\Core\Scheduling\Task;
use Fulcrion\Core\Scheduling\TaskGraph;
use Fulcrion\Core\Scheduling\TaskOrder;
use Fulcrion\Core\Scheduling\TaskState;
use Fulcrion\Core\Scheduling\TaskTable;
use SplMinHeap;

/**
 * One schedule of a large job, beside the pushes and pops of the heaps it cannot do without.
 */
final class JobScheduleBench implements Measurement
{
    private const STAGES = 30;

    private const WORKERS = 300;

    private const ROUNDS = 7;

    public function name(): string
    {
        return 'job-schedule';
    }

    public function run(Closure $say): iterable
    {
        ini_set('memory_limit', '1G');
        $perTask = [];
        foreach ([12_000, 200_000] as $count) {
            [$graph, $durations] = self::job($count);
            $scheduler = new Scheduler($graph, $durations, TaskOrder::Recorded, range(0, $count - 1));
            $times = $bare = [];
            for ($round = 0; $round < self::ROUNDS; $round++) {
                $say("{$count} tasks, round {$round}");
                $began = hrtime(true);
                $scheduler->run(self::WORKERS);
                $times[] = (hrtime(true) - $began) / 1e6;
                $began = hrtime(true);
                self::heaps($durations);
                $bare[] = (hrtime(true) - $began) / 1e6;
            }
            sort($times);
            sort($bare);
            [$time, $heap] = [$times[intdiv(self::ROUNDS, 2)], $bare[intdiv(self::ROUNDS, 2)]];
            $perTask[$count] = $time / ($count * log($count, 2));
            yield BenchFigure::of("one schedule of {$count} tasks in ".self::STAGES.' stages', $time, 'ms');
            yield BenchFigure::of("as many pushes and pops, {$count} tasks", $heap, 'ms');
            if ($count === 12_000) {
                yield BenchFigure::atMost('schedule / bare heaps', $time / $heap, 4, 'times');
            } else {
                yield BenchFigure::of("schedule / bare heaps, {$count} tasks", $time / $heap, 'times');
            }
        }
        yield BenchFigure::of('time / (n log n), 200,000 tasks against 12,000', $perTask[200_000] / $perTask[12_000], 'times');
    }

    /**
     * Each task goes through the heap of those that are ready and the heap of those that run.
     *
     * @param  list<int>  $durations
     */
    private static function heaps(array $durations): void
    {
        $ready = new SplMinHeap();
        $ends = new SplMinHeap();
        $count = count($durations);
        for ($i = 0; $i < $count; $i++) {
            $ready->insert($i);
        }
        for ($i = 0; $i < $count; $i++) {
            $task = $ready->extract();
            $ends->insert(
                $i < self::WORKERS ? ($durations[$task] << 18) | $task : ((($ends->extract() >> 18) + $durations[$task]) << 18) | $task,
            );
        }
        while (! $ends->isEmpty()) {
            $ends->extract();
        }
    }

    /**
     * @return array{TaskGraph, list<int>}
     */
    private static function job(int $count): array
    {
        $random = new \Random\Randomizer(new \Random\Engine\Mt19937(5));
        $table = new TaskTable();
        $stages = $durations = [];
        for ($s = 0; $s < self::STAGES; $s++) {
            $stages[] = new Stage("s{$s}", "s{$s}", $s > 0 ? ['s'.$random->getInt(max(0, $s - 3), $s - 1)] : []);
        }
        for ($i = 0; $i < $count; $i++) {
            $stage = intdiv($i * self::STAGES, $count);
            $durations[] = $random->getInt(1_000_000, 9_000_000);
            $table->add(new Task("t{$i}", "s{$stage}", null, null, 0, 1, 2, '', 1, TaskState::Done, []), $stage, 0, null, null);
        }

        return [TaskGraph::of($table, $stages), $durations];
    }
}
