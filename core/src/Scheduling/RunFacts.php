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
        public int $tasks,
        public int $done,
        public int $failed,
        public int $workUs,
        public int $spanUs,
        public array $path,
        /** Most tasks that could have run at once. */
        public int $width,
        public int $reserved,
        public int $mostUsed,
        public int $elapsedUs,
        /** Worker time paid and not used, as a share. */
        public float $idleShare,
        /** Time ready tasks waited for a worker, summed. */
        public int $queueUs,
        public int $retries,
        public int $lostUs,
        public int $startUpUs,
        public int $overheadUs,
        public int $bytesRead,
        /** Tasks that began before what they wait for had ended: clocks of workers differ. */
        public int $early,
        public int $earliestUs,
        public string $earliestTask,
        /** Tasks that ran beside another of the same worker. */
        public int $overlapping,
        public string $overlapTask,
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
            $table->count(),
            $done,
            $failed,
            $work,
            array_sum(array_map(static fn (int $task): int => $run->durationsUs[$task], $path)),
            $path,
            $run->graph->width($run->durationsUs)->most(),
            $reserved,
            $run->used()->most(),
            $elapsed,
            $elapsed > 0 ? max(0.0, 1 - $work / ($reserved * $elapsed)) : 0.0,
            $queue,
            $retries,
            $lost,
            (int) Spread::median($run->startUpUs),
            $run->overheadUs,
            $run->bytesRead(),
            $early,
            $earliestUs,
            $earliestTask,
            $overlapping,
            $overlapTask,
            $stages,
        );
    }

    public function workerHours(): float
    {
        return $this->reserved * ($this->elapsedUs / 3.6e9);
    }

    public function meanParallelism(): float
    {
        return $this->spanUs > 0 ? $this->workUs / $this->spanUs : 0.0;
    }
}
