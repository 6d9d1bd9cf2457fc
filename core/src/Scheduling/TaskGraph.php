<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * What waits for what. Nodes are the tasks and, behind them, gates that take no time: one at the end of each stage that
 * others wait for and one before each stage that waits, so that 3,000 tasks waiting for 3,000 others are 6,000 edges.
 */
final readonly class TaskGraph
{
    /**
     * @param  list<int>  $first place in $next of the first node that waits for a node; one more entry than nodes
     * @param  list<int>  $next
     * @param  list<int>  $waits how many edges lead to a node
     * @param  list<int>  $order nodes, none before one it waits for; shorter than the nodes where they wait in a circle
     */
    private function __construct(
        public int $tasks,
        public int $nodes,
        public array $first,
        public array $next,
        public array $waits,
        private array $order,
    ) {
    }

    /**
     * @param  list<Stage>  $stages
     */
    public static function of(TaskTable $table, array $stages): self
    {
        $tasks = $table->count();
        $number = [];
        foreach ($stages as $i => $stage) {
            $number[$stage->id] = $i;
        }
        $before = $needed = [];
        foreach ($stages as $i => $stage) {
            foreach ($stage->after as $id) {
                if (isset($number[$id])) {
                    $before[$i][] = $number[$id];
                    $needed[$number[$id]] = true;
                }
            }
        }
        foreach ($table->afterStages as $list) {
            foreach ($list as $stage) {
                $needed[$stage] = true;
            }
        }
        $nodes = $tasks;
        $gateAfter = $gateBefore = [];
        foreach (array_keys($needed) as $stage) {
            $gateAfter[$stage] = $nodes++;
        }
        foreach (array_keys($before) as $stage) {
            $gateBefore[$stage] = $nodes++;
        }
        [$from, $to] = [[], []];
        foreach ($before as $stage => $list) {
            foreach ($list as $one) {
                $from[] = $gateAfter[$one];
                $to[] = $gateBefore[$stage];
            }
        }
        // A stage without tasks hands on what it waits for.
        foreach (array_diff_key(array_intersect_key($gateBefore, $gateAfter), array_flip($table->stage)) as $stage => $gate) {
            $from[] = $gate;
            $to[] = $gateAfter[$stage];
        }
        foreach ($table->stage as $task => $stage) {
            if (isset($gateAfter[$stage])) {
                $from[] = $task;
                $to[] = $gateAfter[$stage];
            }
            $own = $table->after[$task] ?? null;
            $ownStages = $table->afterStages[$task] ?? null;
            if ($own === null && $ownStages === null) {
                if (isset($gateBefore[$stage])) {
                    $from[] = $gateBefore[$stage];
                    $to[] = $task;
                }

                continue;
            }
            foreach ($own ?? [] as $one) {
                $from[] = $one;
                $to[] = $task;
            }
            foreach ($ownStages ?? [] as $one) {
                $from[] = $gateAfter[$one];
                $to[] = $task;
            }
        }

        return self::edges($tasks, $nodes, $from, $to);
    }

    /**
     * @param  list<int>  $from
     * @param  list<int>  $to
     */
    public static function edges(int $tasks, int $nodes, array $from, array $to): self
    {
        $first = array_fill(0, $nodes + 1, 0);
        $waits = $nodes === 0 ? [] : array_fill(0, $nodes, 0);
        foreach ($from as $i => $node) {
            $first[$node + 1]++;
            $waits[$to[$i]]++;
        }
        for ($i = 1; $i <= $nodes; $i++) {
            $first[$i] += $first[$i - 1];
        }
        $place = $first;
        $next = $from === [] ? [] : array_fill(0, count($from), 0);
        foreach ($from as $i => $node) {
            $next[$place[$node]++] = $to[$i];
        }
        $left = $waits;
        $order = [];
        foreach ($left as $node => $count) {
            if ($count === 0) {
                $order[] = $node;
            }
        }
        for ($at = 0; $at < count($order); $at++) {
            $node = $order[$at];
            for ($i = $first[$node], $end = $first[$node + 1]; $i < $end; $i++) {
                if (--$left[$next[$i]] === 0) {
                    $order[] = $next[$i];
                }
            }
        }

        return new self($tasks, $nodes, array_values($first), array_values($next), array_values($waits), $order);
    }

    /**
     * Tasks that wait for each other in a circle, the first one again at the end; empty where there is none.
     *
     * @return list<int>
     */
    public function cycle(): array
    {
        if (count($this->order) === $this->nodes) {
            return [];
        }
        // What is not in the order is in a circle or behind one; going against the edges always ends in one.
        $left = array_fill(0, $this->nodes, true);
        foreach ($this->order as $node) {
            $left[$node] = false;
        }
        $before = [];
        for ($node = 0; $node < $this->nodes; $node++) {
            if ($left[$node]) {
                for ($i = $this->first[$node]; $i < $this->first[$node + 1]; $i++) {
                    $before[$this->next[$i]] = $node;
                }
            }
        }
        $at = (int) array_search(true, $left, true);
        $seen = [];
        while (! isset($seen[$at])) {
            $seen[$at] = count($seen);
            $at = $before[$at] ?? $at;
        }
        $circle = array_slice(array_keys($seen), $seen[$at]);
        $tasks = array_values(array_filter(array_reverse([...$circle, $at]), fn (int $node): bool => $node < $this->tasks));
        if ($tasks !== [] && $tasks[0] !== $tasks[count($tasks) - 1]) {
            $tasks[] = $tasks[0];
        }

        return $tasks;
    }

    /**
     * When each node could start at the earliest, with as many workers as anybody wants.
     *
     * @param  list<int>  $durationsUs by task
     * @return list<int>
     */
    public function earliest(array $durationsUs): array
    {
        $start = $this->nodes === 0 ? [] : array_fill(0, $this->nodes, 0);
        foreach ($this->order as $node) {
            $end = $start[$node] + ($durationsUs[$node] ?? 0);
            for ($i = $this->first[$node], $last = $this->first[$node + 1]; $i < $last; $i++) {
                if ($start[$this->next[$i]] < $end) {
                    $start[$this->next[$i]] = $end;
                }
            }
        }

        return $start;
    }

    /**
     * How many tasks could run at once over time, with as many workers as anybody wants.
     *
     * @param  list<int>  $durationsUs by task
     */
    public function width(array $durationsUs): Profile
    {
        return Profile::of(array_slice($this->earliest($durationsUs), 0, $this->tasks), $durationsUs);
    }

    /**
     * The longest way from the start of each node to the end of the job.
     *
     * @param  list<int>  $durationsUs by task
     * @return list<int>
     */
    public function tails(array $durationsUs): array
    {
        $tail = $this->nodes === 0 ? [] : array_fill(0, $this->nodes, 0);
        for ($at = count($this->order) - 1; $at >= 0; $at--) {
            $node = $this->order[$at];
            $longest = 0;
            for ($i = $this->first[$node], $last = $this->first[$node + 1]; $i < $last; $i++) {
                if ($tail[$this->next[$i]] > $longest) {
                    $longest = $tail[$this->next[$i]];
                }
            }
            $tail[$node] = $longest + ($durationsUs[$node] ?? 0);
        }

        return array_values($tail);
    }

    /**
     * The critical path: tasks on the longest way through the job, in order. Its length is the span.
     *
     * @param  list<int>  $durationsUs by task
     * @return list<int>
     */
    public function criticalPath(array $durationsUs): array
    {
        $tail = $this->tails($durationsUs);
        $path = [];
        $at = null;
        foreach ($this->waits as $node => $count) {
            if ($count === 0 && ($at === null || $tail[$node] > $tail[$at])) {
                $at = $node;
            }
        }
        while ($at !== null) {
            if ($at < $this->tasks) {
                $path[] = $at;
            }
            $follower = null;
            for ($i = $this->first[$at]; $i < $this->first[$at + 1]; $i++) {
                if ($follower === null || $tail[$this->next[$i]] > $tail[$follower]) {
                    $follower = $this->next[$i];
                }
            }
            $at = $follower;
        }

        return $path;
    }

    /**
     * @param  list<int>  $durationsUs by task
     */
    public function spanUs(array $durationsUs): int
    {
        return max([0, ...$this->tails($durationsUs)]);
    }

    /**
     * When the last of what each node waits for has ended by the record; 0 where it waits for nothing.
     *
     * @param  list<int>  $endedUs by task
     * @return list<int>
     */
    public function released(array $endedUs): array
    {
        $ready = $this->nodes === 0 ? [] : array_fill(0, $this->nodes, 0);
        foreach ($this->order as $node) {
            $end = $node < $this->tasks ? $endedUs[$node] : $ready[$node];
            for ($i = $this->first[$node], $last = $this->first[$node + 1]; $i < $last; $i++) {
                if ($ready[$this->next[$i]] < $end) {
                    $ready[$this->next[$i]] = $end;
                }
            }
        }

        return $ready;
    }
}
