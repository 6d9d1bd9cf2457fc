<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Jobs;

use Fulcrion\Core\Scheduling\Stage;
use Fulcrion\Core\Scheduling\Task;
use Fulcrion\Core\Scheduling\TaskState;
use Fulcrion\Core\Scheduling\TaskTable;
use Fulcrion\Core\Statistics\NormalDraw;
use Random\Engine\Mt19937;
use Random\Randomizer;
use SplMinHeap;
use SplQueue;

/**
 * Runs a job in modelled time on any number of workers: they start up, take what is ready first in, first out, have good
 * and bad luck, fail and try again. What a part has to read is the same every night; luck is not.
 */
final class JobRunner
{
    private const ATTEMPTS = 4;

    private Randomizer $luck;

    public function __construct(private readonly JobPlan $plan)
    {
    }

    /**
     * @param  int  $seed of this night's luck
     * @param  float  $growth of what is to be read against the plan
     * @return array{table: TaskTable, stages: list<Stage>, workers: list<string>, endedUs: int, failed: bool}
     */
    public function run(int $workers, int $seed, int $startUs, float $growth = 1.0): array
    {
        $this->luck = new Randomizer(new Mt19937($seed));
        $firsts = $stages = [];
        $count = 0;
        foreach ($this->plan->stages as $stage) {
            $firsts[$stage->id] = [$count, $stage->tasks];
            $count += $stage->tasks;
            $stages[] = new Stage(
                $stage->id,
                $stage->name,
                array_map(strval(...), array_keys($stage->after)),
                $stage->input,
                $stage->lines[0],
                $stage->lines[1],
            );
        }
        [$waits, $lets, $own, $stageOf, $bytes, $stageLets] = $this->graph($firsts, $count, $growth);
        $course = $this->course($workers, $firsts, $waits, $lets, $stageOf, $bytes, $stageLets);
        $table = new TaskTable();
        foreach ($stageOf as $task => $number) {
            $stage = $this->plan->stages[$number];
            $started = $course['started'][$task] ?? null;
            $ended = $course['ended'][$task] ?? 0;
            $table->add(
                new Task(
                    "{$stage->id}/".($task - $firsts[$stage->id][0]),
                    $stage->id,
                    null,
                    null,
                    isset($course['queued'][$task]) ? $startUs + $course['queued'][$task] : -1,
                    $started === null ? -1 : $startUs + $started,
                    $started === null ? -1 : $startUs + $ended,
                    '',
                    $course['attempts'][$task] ?? 1,
                    $course['states'][$task] ?? TaskState::Waiting,
                    $started === null ? [] : self::figures($stage, $bytes[$task], $ended - $started, $course['lost'][$task]),
                ),
                $number,
                $course['on'][$task] ?? -1,
                $own[$task] ?? null,
                null,
            );
        }
        $names = array_map(
            fn (int $worker): string => sprintf('host%02d-%d', ($worker % $this->plan->hosts) + 1, intdiv($worker, $this->plan->hosts) + 1),
            range(0, max(0, $workers - 1)),
        );

        return [
            'table' => $table,
            'stages' => $stages,
            'workers' => $names,
            'endedUs' => $startUs + max([0, ...$course['ended']]),
            'failed' => $course['failed'],
        ];
    }

    /**
     * What happens when: workers come, tasks are taken in the order they become ready, and let others begin. A task that fails ends it.
     *
     * @param  array<string, array{int, int}>  $firsts stage => number of its first task, how many it has
     * @param  array<int, int>  $waits of each task, how much it waits for
     * @param  array<int, list<int>>  $lets of each task, which it lets begin
     * @param  array<int, int>  $stageOf
     * @param  array<int, float>  $bytes
     * @param  array<string, list<string>>  $stageLets
     * @return array{queued: array<int, int>, started: array<int, int>, ended: array<int, int>, on: array<int, int>, attempts: array<int,
     *     int>, lost: array<int, int>, states: array<int, TaskState>, failed: bool} by task, times from the start in microseconds
     */
    private function course(int $workers, array $firsts, array $waits, array $lets, array $stageOf, array $bytes, array $stageLets): array
    {
        $left = array_map(static fn (array $first): int => $first[1], $firsts);
        /** @var SplMinHeap<array{int, int, int}> $events time, 0 for a worker that comes or 1 for a task that ends, number */
        $events = new SplMinHeap();
        for ($worker = 0; $worker < $workers; $worker++) {
            $events->insert([(int) ($this->plan->startUpMs * 1000 * $this->scatter(0.25)), 0, $worker]);
        }
        /** @var SplQueue<int> $free */
        $free = new SplQueue();
        /** @var SplQueue<int> $ready */
        $ready = new SplQueue();
        $queued = $started = $ended = $on = $attempts = $lost = $states = [];
        foreach (array_keys($stageOf) as $task) {
            if ($waits[$task] === 0) {
                $ready->enqueue($task);
                $queued[$task] = 0;
            }
        }
        $now = 0;
        $failed = false;
        while (! $events->isEmpty()) {
            [$now, $kind, $number] = $events->extract();
            if ($kind === 0) {
                $free->enqueue($number);
            } else {
                $free->enqueue($on[$number]);
                $gone = $lets[$number] ?? [];
                $stage = $this->plan->stages[$stageOf[$number]]->id;
                if (--$left[$stage] === 0) {
                    foreach ($stageLets[$stage] ?? [] as $follower) {
                        [$first, $tasks] = $firsts[$follower];
                        array_push($gone, ...range($first, $first + $tasks - 1));
                    }
                }
                foreach ($states[$number] === TaskState::Done ? $gone : [] as $task) {
                    if (--$waits[$task] === 0) {
                        $ready->enqueue($task);
                        $queued[$task] = $now;
                    }
                }
            }
            while (! $free->isEmpty() && ! $ready->isEmpty() && ! $failed) {
                $task = $ready->dequeue();
                $worker = $free->dequeue();
                $started[$task] = $now + (int) ($this->plan->overheadMs * 1000 * $this->scatter(0.2));
                [$took, $lost[$task], $attempts[$task], $done] = $this->take($this->plan->stages[$stageOf[$task]], $bytes[$task], $worker);
                $ended[$task] = $started[$task] + $took;
                $on[$task] = $worker;
                $states[$task] = $done ? TaskState::Done : TaskState::Failed;
                $failed = ! $done;
                $events->insert([$ended[$task], 1, $task]);
            }
        }

        return [
            'queued' => $queued,
            'started' => $started,
            'ended' => $ended,
            'on' => $on,
            'attempts' => $attempts,
            'lost' => $lost,
            'states' => $states,
            'failed' => $failed,
        ];
    }

    /**
     * What each task waits for: tasks by themselves, or all of a stage.
     *
     * @param  array<string, array{int, int}>  $firsts stage => number of its first task, how many it has
     * @return array{array<int, int>, array<int, list<int>>, array<int, list<int>>, array<int, int>, array<int, float>,
     *     array<string, list<string>>} of each task how much it waits for, which it lets begin, which it waits for, its stage and
     *     its input in MiB; of each stage those it lets begin
     */
    private function graph(array $firsts, int $count, float $growth): array
    {
        $waits = array_fill(0, $count, 0);
        $lets = $own = $stageOf = $bytes = [];
        $stageLets = [];
        foreach ($this->plan->stages as $number => $stage) {
            [$first] = $firsts[$stage->id];
            $parts = $this->parts($stage, $growth);
            $apart = array_diff($stage->after, ['all']) !== [];
            for ($i = 0; $i < $stage->tasks; $i++) {
                $task = $first + $i;
                $stageOf[$task] = $number;
                $bytes[$task] = $parts[$i];
                foreach ($stage->after as $before => $how) {
                    [$beforeFirst, $beforeTasks] = $firsts[$before];
                    if (! $apart) {
                        $waits[$task]++;

                        continue;
                    }
                    $from = $how === 'all' ? 0 : intdiv($i * $beforeTasks, $stage->tasks);
                    $to = $how === 'all' ? $beforeTasks : max($from + 1, intdiv(($i + 1) * $beforeTasks, $stage->tasks));
                    for ($j = $from; $j < $to; $j++) {
                        $lets[$beforeFirst + $j][] = $task;
                        $own[$task][] = $beforeFirst + $j;
                        $waits[$task]++;
                    }
                }
            }
            foreach ($apart ? [] : $stage->after as $before => $how) {
                $stageLets[$before][] = $stage->id;
            }
        }

        return [$waits, $lets, $own, $stageOf, $bytes, $stageLets];
    }

    /**
     * @return array<string, int>
     */
    private static function figures(StagePlan $stage, float $mib, int $tookUs, int $lostUs): array
    {
        $read = (int) ($mib * 1_048_576);

        return [
            'rows_read' => (int) ($mib * $stage->rowsPerMib),
            'rows_written' => (int) ($mib * $stage->rowsPerMib * $stage->written),
            'bytes_read' => $read,
            'bytes_written' => (int) ($read * $stage->written),
            'bytes_spilled' => max(0, (int) (($mib - $stage->memoryMib) * 1_048_576)),
            'cpu_us' => (int) (0.8 * ($tookUs - $lostUs)),
            'peak_bytes' => (int) min($mib, $stage->memoryMib) * 1_048_576,
            'lost_us' => $lostUs,
        ];
    }

    /**
     * MiB each part has to read.
     *
     * @return list<float>
     */
    private function parts(StagePlan $stage, float $growth): array
    {
        $fixed = new Randomizer(new Mt19937(crc32("{$this->plan->name}/{$stage->id}")));
        $parts = [];
        for ($i = 0; $i < $stage->tasks; $i++) {
            $parts[] = $stage->mibPerTask * exp($stage->uneven * self::normal($fixed) - $stage->uneven ** 2 / 2);
        }
        if ($stage->giant > 0) {
            $rest = array_sum(array_slice($parts, 1));
            $parts[0] = ($rest * $stage->giant) / (1 - $stage->giant);
        }

        return array_map(static fn (float $mib): float => $mib * $growth, $parts);
    }

    /**
     * @return array{int, int, int, bool} time, of it lost in attempts that failed, attempts, whether it was done
     */
    private function take(StagePlan $stage, float $mib, int $worker): array
    {
        $us =
            1000 *
            ($stage->fixedMs + $stage->msPerMib * ($mib + 2 * max(0.0, $mib - $stage->memoryMib))) *
            ($this->plan->slower[$stage->id] ?? 1.0) *
            ($this->plan->slowHosts[($worker % $this->plan->hosts) + 1] ?? 1.0);
        $took = $lost = 0;
        for ($attempt = 1; ; $attempt++) {
            $one =
                (int) ($us *
                    $this->scatter($this->plan->noise) *
                    ($this->part() < $this->plan->stragglers ? 2.2 + 1.6 * $this->part() : 1.0));
            if ($this->part() >= $this->plan->failures) {
                return [$took + max(1, $one), $lost, $attempt, true];
            }
            $lost = $took += (int) ($one * $this->part());
            if ($attempt === self::ATTEMPTS) {
                return [max(1, $took), $lost, $attempt, false];
            }
        }
    }

    private function scatter(float $deviation): float
    {
        return exp($deviation * self::normal($this->luck) - $deviation ** 2 / 2);
    }

    private function part(): float
    {
        return $this->luck->getInt(1, 1 << 40) / (1 << 40);
    }

    private static function normal(Randomizer $random): float
    {
        return NormalDraw::of($random->getInt(1, 1 << 40) / (1 << 40), $random->getInt(1, 1 << 40) / (1 << 40));
    }
}
