<?php

declare(strict_types=1);

namespace Tests\Core\Scheduling;

use Fulcrion\Core\Scheduling\JobHead;
use Fulcrion\Core\Scheduling\JobState;
use Fulcrion\Core\Scheduling\RecordedRun;
use Fulcrion\Core\Scheduling\Stage;
use Fulcrion\Core\Scheduling\Task;
use Fulcrion\Core\Scheduling\TaskGraph;
use Fulcrion\Core\Scheduling\TaskState;
use Fulcrion\Core\Scheduling\TaskTable;
use Random\Randomizer;

/**
 * Small jobs for tests.
 */
final class Jobs
{
    public const START = 1_763_686_800_000_000;

    /**
     * @return array{TaskGraph, list<int>, list<array{int, int}>} graph, times, edges
     */
    public static function randomGraph(Randomizer $random, int $tasks): array
    {
        $edges = $durations = [];
        for ($task = 0; $task < $tasks; $task++) {
            $durations[] = $random->getInt(0, 4) === 0 ? 0 : $random->getInt(1, 9);
            for ($before = 0; $before < $task; $before++) {
                if ($random->getInt(0, 99) < 22) {
                    $edges[] = [$before, $task];
                }
            }
        }

        return [TaskGraph::edges($tasks, $tasks, array_column($edges, 0), array_column($edges, 1)), $durations, $edges];
    }

    /**
     * @param  list<array{0: string, 1: string, 2: int, 3: int, 4: int, 5?: int, 6?: int, 7?: list<int>|null, 8?: TaskState}>  $tasks id,
     *     stage, start and end in seconds, worker, bytes, attempts, after, state
     * @param  list<Stage>  $stages
     */
    public static function run(array $stages, array $tasks, int $workers = 0, ?float $price = null): RecordedRun
    {
        $number = array_flip(array_map(static fn (Stage $stage): string => $stage->id, $stages));
        $table = new TaskTable();
        $end = 0;
        foreach ($tasks as $task) {
            [$id, $stage, $from, $to, $worker] = $task;
            $table->add(
                new Task(
                    $id,
                    $stage,
                    null,
                    null,
                    -1,
                    self::START + $from * 1_000_000,
                    self::START + $to * 1_000_000,
                    "w{$worker}",
                    $task[6] ?? 1,
                    $task[8] ?? TaskState::Done,
                    isset($task[5]) ? ['bytes_read' => $task[5]] : [],
                ),
                $number[$stage],
                $worker,
                $task[7] ?? null,
                null,
            );
            $end = max($end, $to);
        }

        return RecordedRun::of(self::head($workers, $end, $price), $stages, $table);
    }

    public static function head(int $workers, int $endS, ?float $price = null): JobHead
    {
        return new JobHead(
            'run-1',
            'nightly',
            'loaders',
            'fernhill',
            self::START,
            self::START,
            self::START + $endS * 1_000_000,
            JobState::Done,
            '',
            $workers,
            $price,
            '',
            -1,
            true,
        );
    }
}
