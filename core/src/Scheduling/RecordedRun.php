<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

use Fulcrion\Core\Statistics\Spread;

/**
 * A run as it was recorded, ready to be reckoned with: from its graph, the time of each task, and what a worker took
 * beside its tasks.
 */
final readonly class RecordedRun
{
    /**
     * @param  list<Stage>  $stages
     * @param  list<int>  $durationsUs by task; the median of its stage where a task did not run through
     * @param  list<int>  $readyUs by task: when what it waits for had ended, since 1970
     * @param  list<int>  $startUpUs sorted sample of what workers took until their first task
     */
    private function __construct(
        public JobHead $head,
        public array $stages,
        public TaskTable $table,
        public TaskGraph $graph,
        public array $durationsUs,
        public array $readyUs,
        public array $startUpUs,
        /** What a worker took between two tasks of which the second was ready. */
        public int $overheadUs,
        /** First moment of the run and the last that is known. */
        public int $startUs,
        public int $endUs,
        /** Tasks whose time is not known. */
        public int $guessed,
        /** Whether what waits for what was told by when the stages ran. */
        public bool $inferred,
        /** @var list<string> */
        public array $workerNames,
    ) {
    }

    /**
     * @param  list<Stage>  $stages
     * @param  list<string>  $workerNames by number
     */
    public static function of(JobHead $head, array $stages, TaskTable $table, array $workerNames = []): self
    {
        $inferred =
            $table->after === [] &&
            $table->afterStages === [] &&
            array_filter($stages, static fn (Stage $stage): bool => $stage->after !== []) === [];
        if ($inferred) {
            $stages = self::infer($stages, $table);
        }
        $graph = TaskGraph::of($table, $stages);
        $known = $starts = [];
        $last = $head->startedUs;
        foreach ($table->ended as $task => $ended) {
            if ($ended >= 0) {
                $known[$table->stage[$task]][] = $ended - $table->started[$task];
            }
            $last = max($last, $ended, $table->started[$task]);
            if ($table->started[$task] >= 0) {
                $starts[] = $table->started[$task];
            }
        }
        $medians = array_map(Spread::median(...), $known);
        $durations = [];
        $guessed = 0;
        foreach ($table->ended as $task => $ended) {
            $durations[] = $ended >= 0 ? $ended - $table->started[$task] : (int) ($medians[$table->stage[$task]] ?? 0);
            $guessed += $ended >= 0 ? 0 : 1;
        }
        $start = $head->startedUs >= 0 ? $head->startedUs : ($starts === [] ? 0 : min($starts));
        // A job does not end before its last task.
        $end = max($last, $start, $head->endedUs);
        $ready = array_slice($graph->released($table->ended), 0, $graph->tasks);
        [$startUp, $overhead] = self::beside($table, $ready, $start);

        return new self(
            $head,
            $stages,
            $table,
            $graph,
            $durations,
            $ready,
            $startUp,
            $overhead,
            $start,
            $end,
            $guessed,
            $inferred && count($stages) > 1,
            $workerNames,
        );
    }

    public function elapsedUs(): int
    {
        return $this->endUs - $this->startUs;
    }

    /** Workers paid: those reserved, or as many as were seen where the record does not say. */
    public function workers(): int
    {
        return $this->head->workers > 0
            ? $this->head->workers
            : max(
                1,
                count(array_unique(array_filter($this->table->worker, static fn (int $worker): bool => $worker >= 0))),
                $this->used()->most(),
            );
    }

    /**
     * @return list<int> by task, with what a worker takes beside it
     */
    public function loadedUs(): array
    {
        return array_map(fn (int $duration): int => $duration + $this->overheadUs, $this->durationsUs);
    }

    /**
     * @return list<list<int>>
     */
    public function tasksByStage(): array
    {
        $byStage = array_fill(0, count($this->stages), []);
        foreach ($this->table->stage as $task => $stage) {
            $byStage[$stage][] = $task;
        }

        return $byStage;
    }

    /** Workers at work over time, from the start of the run. */
    public function used(): Profile
    {
        [$starts, $durations] = [[], []];
        foreach ($this->table->started as $task => $started) {
            if ($started >= 0) {
                $starts[] = $started - $this->startUs;
                $durations[] = ($this->table->ended[$task] >= 0 ? $this->table->ended[$task] : $this->endUs) - $started;
            }
        }

        return Profile::of($starts, $durations);
    }

    public function bytesRead(): int
    {
        return array_sum(array_filter($this->table->figures['bytes_read'], static fn (int $bytes): bool => $bytes > 0));
    }

    /** Bytes read by stages that wait for no other: what the job is given. */
    public function inputBytes(): int
    {
        $own = [];
        foreach ($this->stages as $i => $stage) {
            $own[$i] = $stage->after === [];
        }
        $bytes = 0;
        foreach ($this->table->figures['bytes_read'] as $task => $read) {
            $bytes +=
                $read > 0 &&
                $own[$this->table->stage[$task]] &&
                ! isset($this->table->after[$task]) &&
                ! isset($this->table->afterStages[$task])
                    ? $read
                    : 0;
        }

        return $bytes;
    }

    /**
     * A stage waits for those whose last task had ended when its first began.
     *
     * @param  list<Stage>  $stages
     * @return list<Stage>
     */
    private static function infer(array $stages, TaskTable $table): array
    {
        $first = $last = [];
        foreach ($table->stage as $task => $stage) {
            if ($table->started[$task] >= 0) {
                $first[$stage] = min($first[$stage] ?? PHP_INT_MAX, $table->started[$task]);
                $last[$stage] = max($last[$stage] ?? 0, $table->ended[$task] >= 0 ? $table->ended[$task] : PHP_INT_MAX);
            }
        }
        $inferred = [];
        foreach ($stages as $i => $stage) {
            $before = [];
            foreach (array_keys($last) as $j) {
                if (
                    isset($first[$i]) &&
                    $j !== $i &&
                    $last[$j] <= $first[$i] &&
                    [$first[$j], $last[$j], $j] < [$first[$i], $last[$i], $i]
                ) {
                    $before[] = $j;
                }
            }
            // Those which another one in between waits for are waited for anyway.
            $latest = max([0, ...array_map(static fn (int $j): int => $first[$j], $before)]);
            $after = array_map(
                static fn (int $j): string => $stages[$j]->id,
                array_values(array_filter($before, static fn (int $j): bool => $last[$j] > $latest || $first[$j] === $latest)),
            );
            $inferred[] = new Stage($stage->id, $stage->name, $after, $stage->input, $stage->lineFrom, $stage->lineTo);
        }

        return $inferred;
    }

    /**
     * What workers took until their first task, and between two tasks, where the task was there and waited for them.
     *
     * @param  list<int>  $readyUs
     * @return array{list<int>, int}
     */
    private static function beside(TaskTable $table, array $readyUs, int $startUs): array
    {
        $byWorker = [];
        foreach ($table->worker as $task => $worker) {
            if ($worker >= 0 && $table->started[$task] >= 0) {
                $byWorker[$worker][] = $task;
            }
        }
        $startUp = $gaps = [];
        foreach ($byWorker as $tasks) {
            usort(
                $tasks,
                static fn (int $a, int $b): int => [$table->started[$a], $table->ended[$a], $a] <=> [
                    $table->started[$b],
                    $table->ended[$b],
                    $b,
                ],
            );
            foreach ($tasks as $i => $task) {
                $started = $table->started[$task];
                $ready = max($readyUs[$task], $startUs);
                if ($i === 0) {
                    if ($ready <= $startUs && $started >= $startUs) {
                        $startUp[] = $started - $startUs;
                    }
                } else {
                    $before = $table->ended[$tasks[$i - 1]];
                    // Of a task that was not ready the worker may have waited for nothing but it.
                    if ($before >= 0 && $ready <= $before && $started >= $before) {
                        $gaps[] = $started - $before;
                    }
                }
            }
        }
        sort($startUp);
        // A gap much longer than the middle one is no overhead but a worker that was away.
        $most = 5 * Spread::median($gaps);
        $kept = array_filter($gaps, static fn (int $gap): bool => $gap <= $most);
        $overhead = $kept === [] ? 0 : (int) round(array_sum($kept) / count($kept));

        // The first task bears its own overhead.
        return [array_map(static fn (int $us): int => max(0, $us - $overhead), $startUp), $overhead];
    }
}
