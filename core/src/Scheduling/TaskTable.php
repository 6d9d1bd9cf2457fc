<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * The tasks of a job, column by column, so that 200,000 of them stay small. Tasks and stages go by their number; times
 * are microseconds since 1970 UTC; -1 where something is not known.
 *
 * @phpstan-type Columns array{ids: list<string>, stage: list<int>, queued: list<int>, started: list<int>, ended: list<int>,
 *     worker: list<int>, attempts: list<int>, state: list<int>, figures: array<string, list<int>>, after: array<int, list<int>>,
 * afterStages: array<int, list<int>>}
 */
final class TaskTable
{
    public const UNKNOWN = -1;

    /** @var list<string> */
    public array $ids = [];

    /** @var list<int> */
    public array $stage = [];

    /** @var list<int> */
    public array $queued = [];

    /** @var list<int> */
    public array $started = [];

    /** @var list<int> */
    public array $ended = [];

    /** @var list<int> number of the worker */
    public array $worker = [];

    /** @var list<int> */
    public array $attempts = [];

    /** @var list<int> number of the state among TaskState::cases() */
    public array $state = [];

    /** @var array<string, list<int>> by name of the figure; all columns are as long as the table */
    public array $figures = [];

    /** @var array<int, list<int>> tasks a task waits for; nothing where those of its stage hold */
    public array $after = [];

    /** @var array<int, list<int>> stages a task waits for by itself */
    public array $afterStages = [];

    public function __construct()
    {
        foreach (Task::FIGURES as $figure) {
            $this->figures[$figure] = [];
        }
    }

    public function count(): int
    {
        return count($this->ids);
    }

    /**
     * @param  list<int>|null  $after numbers of tasks
     * @param  list<int>|null  $afterStages numbers of stages
     */
    public function add(Task $task, int $stage, int $worker, ?array $after, ?array $afterStages): void
    {
        $number = count($this->ids);
        $this->ids[] = $task->id;
        $this->stage[] = $stage;
        $this->queued[] = $task->queuedUs;
        $this->started[] = $task->startedUs;
        $this->ended[] = $task->endedUs;
        $this->worker[] = $worker;
        $this->attempts[] = $task->attempts;
        $this->state[] = (int) array_search($task->state, TaskState::cases(), true);
        foreach (Task::FIGURES as $figure) {
            $this->figures[$figure][] = $task->figures[$figure] ?? self::UNKNOWN;
        }
        if ($after !== null) {
            $this->after[$number] = $after;
        }
        if ($afterStages !== null) {
            $this->afterStages[$number] = $afterStages;
        }
    }

    public function stateOf(int $task): TaskState
    {
        return TaskState::cases()[$this->state[$task]];
    }

    /** Time from start to end, all attempts of it; null where it did not run through. */
    public function durationUs(int $task): ?int
    {
        return $this->ended[$task] < 0 ? null : $this->ended[$task] - $this->started[$task];
    }

    /** Time that failed attempts took: as recorded, or that share of the attempts. */
    public function lostUs(int $task): int
    {
        $lost = $this->figures['lost_us'][$task];
        if ($lost >= 0 || $this->attempts[$task] < 2) {
            return max(0, min($lost, $this->durationUs($task) ?? 0));
        }

        return intdiv(($this->durationUs($task) ?? 0) * ($this->attempts[$task] - 1), $this->attempts[$task]);
    }

    /**
     * @return Columns
     */
    public function columns(): array
    {
        return [
            'ids' => $this->ids,
            'stage' => $this->stage,
            'queued' => $this->queued,
            'started' => $this->started,
            'ended' => $this->ended,
            'worker' => $this->worker,
            'attempts' => $this->attempts,
            'state' => $this->state,
            'figures' => $this->figures,
            'after' => $this->after,
            'afterStages' => $this->afterStages,
        ];
    }

    /**
     * Adds tasks of columns that were taken from another table.
     *
     * @param  Columns  $columns
     */
    public function append(array $columns): void
    {
        $from = count($this->ids);
        array_push($this->ids, ...$columns['ids']);
        array_push($this->stage, ...$columns['stage']);
        array_push($this->queued, ...$columns['queued']);
        array_push($this->started, ...$columns['started']);
        array_push($this->ended, ...$columns['ended']);
        array_push($this->worker, ...$columns['worker']);
        array_push($this->attempts, ...$columns['attempts']);
        array_push($this->state, ...$columns['state']);
        foreach (Task::FIGURES as $figure) {
            array_push($this->figures[$figure], ...$columns['figures'][$figure] ?? array_fill(0, count($columns['ids']), self::UNKNOWN));
        }
        foreach ($columns['after'] as $task => $after) {
            $this->after[$from + $task] = $after;
        }
        foreach ($columns['afterStages'] as $task => $stages) {
            $this->afterStages[$from + $task] = $stages;
        }
    }
}
