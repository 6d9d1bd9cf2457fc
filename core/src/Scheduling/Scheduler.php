<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

use SplMinHeap;

/**
 * Event-driven list scheduling (Graham 1966) of a task graph on some number of workers: whenever a worker is free and a
 * task is ready, it takes the first by the order. Nothing is taken away from a worker before it has ended.
 */
final readonly class Scheduler
{
    /** Bits a time may have beside the number of a task in one integer. */
    private const BITS = 62;

    /** @var list<int> place of each task in the order; empty where the first that is ready comes first */
    private array $rank;

    /** @var list<int> the task at each place */
    private array $ranked;

    private int $shift;

    /**
     * @param  list<int>  $durationsUs by task, overhead in them
     * @param  list<int>  $recordedStarts by task, for the recorded order
     * @param  list<int>  $startUpUs how long workers took until they could begin, as a sample; empty for at once
     */
    public function __construct(
        private TaskGraph $graph,
        private array $durationsUs,
        private TaskOrder $order,
        array $recordedStarts = [],
        private array $startUpUs = [],
    ) {
        $keys = match ($order) {
            TaskOrder::Recorded => array_slice($recordedStarts, 0, $graph->tasks),
            TaskOrder::LongestPath => array_map(
                static fn (int $tail): int => -$tail,
                array_slice($graph->tails($durationsUs), 0, $graph->tasks),
            ),
            TaskOrder::FirstReady => [],
        };
        if (count($keys) < $graph->tasks && $order !== TaskOrder::FirstReady) {
            $keys = range(0, max(0, $graph->tasks - 1));
        }
        // Stable: of equals the first of the record.
        asort($keys);
        $this->ranked = array_keys($keys);
        $rank = $keys === [] ? [] : array_fill(0, count($keys), 0);
        foreach ($this->ranked as $place => $task) {
            $rank[$task] = $place;
        }
        $this->rank = array_values($rank);
        $this->shift = max(1, (int) ceil(log(max(2, $graph->tasks), 2)));
        if (array_sum($durationsUs) + max([0, ...$startUpUs]) >= 2 ** (self::BITS - $this->shift)) {
            throw new \OverflowException('The tasks take longer together than can be reckoned with.');
        }
    }

    /**
     * The same tasks with other times.
     *
     * @param  list<int>  $durationsUs
     */
    public function with(array $durationsUs): self
    {
        return new self($this->graph, $durationsUs, $this->order, $this->rank, $this->startUpUs);
    }

    /**
     * @param  bool  $keep whether when each task starts is wanted too
     */
    public function run(int $workers, bool $keep = false): Schedule
    {
        return $this->go([[0, $workers]], $keep);
    }

    /**
     * On a number of workers that changes while the job runs. A worker that is to go ends its task first.
     *
     * @param  non-empty-list<array{int, int}>  $capacity times from the start and how many workers from then on
     */
    public function elastic(array $capacity, bool $keep = false): Schedule
    {
        return $this->go($capacity, $keep);
    }

    /**
     * @param  non-empty-list<array{int, int}>  $capacity
     */
    private function go(array $capacity, bool $keep): Schedule
    {
        [$first, $next, $left, $tasks, $durations, $rank, $ranked, $shift] = [
            $this->graph->first,
            $this->graph->next,
            $this->graph->waits,
            $this->graph->tasks,
            $this->durationsUs,
            $this->rank,
            $this->ranked,
            $this->shift,
        ];
        $mask = (1 << $shift) - 1;
        $fifo = $this->order === TaskOrder::FirstReady;
        /** @var SplMinHeap<int> $ends */
        $ends = new SplMinHeap();
        /** @var SplMinHeap<int> $ready */
        $ready = new SplMinHeap();
        [$queue, $head, $waiting] = [[], 0, 0];
        $starts = $keep && $tasks > 0 ? array_fill(0, $tasks, 0) : [];
        [$now, $makespan, $busy, $most] = [0, 0, 0, 0];
        $arrivals = $this->arrivals($capacity);
        [$arrived, $of, $level] = [0, count($arrivals), 0];
        $released = [];
        foreach ($left as $node => $count) {
            if ($count === 0) {
                $released[] = $node;
            }
        }
        while (true) {
            // Tasks whose time has come; gates let through what waits behind them at once.
            $queued = count($queue);
            while ($released !== []) {
                $node = array_pop($released);
                if ($node < $tasks) {
                    if ($fifo) {
                        $queue[] = $node;
                    } else {
                        $ready->insert($rank[$node]);
                    }
                    $waiting++;
                } else {
                    for ($i = $first[$node], $end = $first[$node + 1]; $i < $end; $i++) {
                        if (--$left[$next[$i]] === 0) {
                            $released[] = $next[$i];
                        }
                    }
                }
            }
            if (count($queue) > $queued + 1) {
                // Ready at the same moment: in the order of the record.
                $together = array_splice($queue, $queued);
                sort($together);
                array_push($queue, ...$together);
            }
            while ($arrived < $of && $arrivals[$arrived][0] <= $now) {
                $level += $arrivals[$arrived++][1];
            }
            while ($waiting > 0 && $busy < $level) {
                $task = $fifo ? $queue[$head++] : $ranked[$ready->extract()];
                $waiting--;
                $busy++;
                if ($keep) {
                    $starts[$task] = $now;
                }
                $ends->insert((($now + $durations[$task]) << $shift) | $task);
            }
            if ($busy > $most) {
                $most = $busy;
            }
            if ($busy === 0) {
                if ($waiting === 0 || $arrived >= $of) {
                    break;
                }
                $now = $arrivals[$arrived][0];

                continue;
            }
            $soonest = $ends->top() >> $shift;
            if ($waiting > 0 && $arrived < $of && $arrivals[$arrived][0] < $soonest) {
                $now = $arrivals[$arrived][0];

                continue;
            }
            $now = $soonest;
            $makespan = $now;
            do {
                $task = $ends->extract() & $mask;
                $busy--;
                for ($i = $first[$task], $end = $first[$task + 1]; $i < $end; $i++) {
                    if (--$left[$next[$i]] === 0) {
                        $released[] = $next[$i];
                    }
                }
            } while ($busy > 0 && $ends->top() >> $shift === $now);
        }

        return new Schedule($waiting > 0 ? PHP_INT_MAX : $makespan, $most, array_values($starts), $durations);
    }

    /**
     * When how many workers come (or, below zero, are to go).
     *
     * @param  non-empty-list<array{int, int}>  $capacity
     * @return list<array{int, int}>
     */
    private function arrivals(array $capacity): array
    {
        $arrivals = [];
        $before = 0;
        foreach ($capacity as [$at, $workers]) {
            $step = $workers - $before;
            $before = $workers;
            // Those that come later were asked for in time: they are there when they are to be.
            if ($step > 0 && $at === 0 && $this->startUpUs !== []) {
                // Of N workers the i-th is ready after the time a sample of workers took, read off at (i + 1/2) / N.
                $count = count($this->startUpUs);
                for ($i = 0; $i < $step; $i++) {
                    $arrivals[] = [$at + $this->startUpUs[(int) ((($i + 0.5) / $step) * $count)], 1];
                }
            } else {
                $arrivals[] = [$at, $step];
            }
        }
        usort($arrivals, static fn (array $a, array $b): int => $a <=> $b);

        return $arrivals;
    }
}
