<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

use Fulcrion\Core\Statistics\Spread;

/**
 * What a recorded run was, in figures.
 *
 * @phpstan-type StageSum array{stage: int, tasks: int, done: int, failed: int, workUs: int, medianUs: float, slowestUs: int, firstUs: int,
 *     lastUs: int, queueUs: int, lostUs: int, bytesRead: int, bytesWritten: int, bytesSpilled: int, rowsRead: int, medianBytes: float,
 *     mostBytes: int, onPathUs: int}
 */
final readonly class RunFacts
{
    /**
     * @param  list<int>  $path the critical path
     * @param  list<StageSum>  $stages
     */
    private function __construct(
        public RunCounts $counts,
        public RunTimes $times,
        public RunWorkers $workers,
        public ClockFaults $clocks,
        public array $path,
        public int $bytesRead,
        public array $stages,
    ) {
    }

    public static function of(RecordedRun $run): self
    {
        $table = $run->table;
        $path = $run->graph->criticalPath($run->durationsUs);
        $onPath = array_fill_keys($path, true);
        $byStage = array_fill(0, count($run->stages), [
            'tasks' => 0,
            'done' => 0,
            'failed' => 0,
            'workUs' => 0,
            'slowestUs' => 0,
            'firstUs' => PHP_INT_MAX,
            'lastUs' => 0,
            'queueUs' => 0,
            'lostUs' => 0,
            'bytesRead' => 0,
            'bytesWritten' => 0,
            'bytesSpilled' => 0,
            'rowsRead' => 0,
            'mostBytes' => 0,
            'onPathUs' => 0,
        ]);
        $times = $bytes = $byWorker = [];
        [$work, $queue, $retries, $lost, $early, $earliestUs, $earliestTask, $done, $failed] = [0, 0, 0, 0, 0, 0, '', 0, 0];
        foreach ($table->stage as $task => $stage) {
            $sum = &$byStage[$stage];
            $sum['tasks']++;
            $state = $table->stateOf($task);
            $done += $state === TaskState::Done ? 1 : 0;
            $failed += $state === TaskState::Failed ? 1 : 0;
            $sum['done'] += $state === TaskState::Done ? 1 : 0;
            $sum['failed'] += $state === TaskState::Failed ? 1 : 0;
            $started = $table->started[$task];
            if ($started >= 0) {
                $took = ($table->ended[$task] >= 0 ? $table->ended[$task] : $run->endUs) - $started;
                $work += $took;
                $sum['workUs'] += $took;
                $sum['slowestUs'] = max($sum['slowestUs'], $took);
                $sum['firstUs'] = min($sum['firstUs'], $started - $run->startUs);
                $sum['lastUs'] = max($sum['lastUs'], $started + $took - $run->startUs);
                $waited = max(0, $started - max($run->readyUs[$task], $table->queued[$task], $run->startUs));
                $queue += $waited;
                $sum['queueUs'] += $waited;
                $times[$stage][] = $took;
                if ($started < $run->readyUs[$task]) {
                    $early++;
                    if ($earliestUs < $run->readyUs[$task] - $started) {
                        [$earliestUs, $earliestTask] = [$run->readyUs[$task] - $started, $table->ids[$task]];
                    }
                }
                if ($table->worker[$task] >= 0) {
                    $byWorker[$table->worker[$task]][] = $task;
                }
            }
            $retries += $table->attempts[$task] - 1;
            $lost += $table->lostUs($task);
            $sum['lostUs'] += $table->lostUs($task);
            foreach (
                [
                    'bytesRead' => 'bytes_read',
                    'bytesWritten' => 'bytes_written',
                    'bytesSpilled' => 'bytes_spilled',
                    'rowsRead' => 'rows_read',
                ] as $name => $figure
            ) {
                $sum[$name] += max(0, $table->figures[$figure][$task]);
            }
            if ($table->figures['bytes_read'][$task] >= 0) {
                $bytes[$stage][] = $table->figures['bytes_read'][$task];
                $sum['mostBytes'] = max($sum['mostBytes'], $table->figures['bytes_read'][$task]);
            }
            $sum['onPathUs'] += isset($onPath[$task]) ? $run->durationsUs[$task] : 0;
            unset($sum);
        }
        [$overlapping, $overlapTask] = [0, ''];
        foreach ($byWorker as $tasks) {
            usort(
                $tasks,
                static fn (int $a, int $b): int => [$table->started[$a], $table->ended[$a]] <=> [$table->started[$b], $table->ended[$b]],
            );
            $until = 0;
            foreach ($tasks as $task) {
                if ($table->started[$task] < $until) {
                    $overlapping++;
                    $overlapTask = $overlapTask === '' ? $table->ids[$task] : $overlapTask;
                }
                $until = max($until, $table->ended[$task]);
            }
        }
        $stages = [];
        foreach ($byStage as $stage => $sum) {
            $stages[] =
                [
                    'stage' => $stage,
                    'firstUs' => $sum['firstUs'] === PHP_INT_MAX ? 0 : $sum['firstUs'],
                    'medianUs' => Spread::median($times[$stage] ?? []),
                    'medianBytes' => Spread::median($bytes[$stage] ?? []),
                ] + $sum;
        }
        $reserved = $run->workers();
        $elapsed = $run->elapsedUs();

        return new self(
            new RunCounts($table->count(), $done, $failed, $retries),
            new RunTimes(
                $work,
                array_sum(array_map(static fn (int $task): int => $run->durationsUs[$task], $path)),
                $elapsed,
                $queue,
                $lost,
                (int) Spread::median($run->startUpUs),
                $run->overheadUs,
            ),
            new RunWorkers(
                $run->graph->width($run->durationsUs)->most(),
                $reserved,
                $run->used()->most(),
                $elapsed > 0 ? max(0.0, 1 - $work / ($reserved * $elapsed)) : 0.0,
            ),
            new ClockFaults($early, $earliestUs, $earliestTask, $overlapping, $overlapTask),
            $path,
            $run->bytesRead(),
            $stages,
        );
    }

    /**
     * @return array<string, mixed> every figure by its name
     */
    public function toArray(): array
    {
        return (array) $this->counts + (array) $this->times + (array) $this->workers + (array) $this->clocks + [
            'path' => $this->path,
            'bytesRead' => $this->bytesRead,
            'stages' => $this->stages,
        ];
    }

    public function workerHours(): float
    {
        return $this->workers->reserved * ($this->times->elapsedUs / 3.6e9);
    }

    public function meanParallelism(): float
    {
        return $this->times->spanUs > 0 ? $this->times->workUs / $this->times->spanUs : 0.0;
    }
}
