<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

use Closure;
use Fulcrion\Core\Limits\LimitMeasure;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\WarehouseError;

/**
 * One execution: what its steps share.
 */
final class Run
{
    private const MEMORY_MOST = 20_000;

    private int $deadlineNs;

    private int $ticks = 0;

    /** @var (Closure(): int)|null time it has taken so far on the modelled cluster, in microseconds */
    public ?Closure $modelledUs = null;

    /** @var array<int, mixed> values of outer columns, by id */
    public array $outer = [];

    /** @var array<int, array<string, list<mixed>>> number of the subquery => outer values => rows of its first column */
    private array $answers = [];

    /** @var array<int, int> number of the subquery => times it was run */
    public array $subqueryRuns = [];

    /**
     * @param  list<Step>  $subqueries
     * @param  array<string, array<int|string, int|float|string|bool|null>>  $maps lookups, by the names steps use
     */
    public function __construct(
        public readonly int $nodes,
        public readonly HardwareProfile $profile,
        public readonly ChunkCache $cache,
        public readonly Limits $limits,
        public array $subqueries,
        public readonly array $maps = [],
    ) {
        $this->deadlineNs = ($limits->clockNs)() + $limits->seconds * 1_000_000_000;
    }

    public function now(): int
    {
        return ($this->limits->clockNs)();
    }

    /** Called once a batch. */
    public function tick(): void
    {
        if (++$this->ticks % 8 !== 0) {
            return;
        }
        $this->meter();
        if ($this->now() > $this->deadlineNs) {
            throw new StoppedRun(
                "Stopped after {$this->limits->seconds} s, the limit of one statement here. Filter earlier, or look at its plan without "
                    .'running it.',
                false,
            );
        }
        $this->reserve(0);
        if ($this->limits->cancelled !== null && ($this->limits->cancelled)()) {
            throw new StoppedRun('Stopped by hand.', true);
        }
    }

    /** Bytes of stored rows, which stand for more on the modelled cluster. */
    public function read(int $bytes): void
    {
        $this->limits->meter?->read($bytes * $this->profile->rowFactor);
    }

    /** Tells what was taken so far; what passes what a single statement may ends here. */
    public function meter(): void
    {
        $meter = $this->limits->meter;
        if ($meter === null) {
            return;
        }
        if ($meter->mostUs !== null && $this->modelledUs !== null) {
            $meter->took(($this->modelledUs)());
        }
        if ($meter->passed() !== null) {
            throw new StoppedRun(
                $meter->passed() === LimitMeasure::Bytes ? 'Stopped: it has read more than a single statement may.'
                    : 'Stopped: it takes longer on the modelled cluster than a single statement may.',
                false,
            );
        }
    }

    /**
     * Stops the run rather than letting the process die of what comes next.
     *
     * @param  int  $values that will be held at once beside what is held now
     */
    public function reserve(int $values): void
    {
        // A value in an array takes 16 bytes; texts come on top, for which the limit leaves room.
        if (memory_get_usage() + 16 * $values > $this->limits->memoryBytes) {
            throw new StoppedRun(
                'Stopped: the rows held at once need more memory than a run may use here. Filter earlier, take fewer columns, or '
                    .'aggregate.',
                false,
            );
        }
    }

    public function hold(Step $step, int $node, int $bytes): void
    {
        $counters = $step->counters($node);
        $counters->memoryPeak = max($counters->memoryPeak, $bytes);
        $most = intdiv($this->profile->memoryBytes, $this->profile->rowFactor);
        $counters->bytesSpilled = max($counters->bytesSpilled, $bytes - $most);
    }

    /**
     * @param  array<int, mixed>  $outer
     */
    public function scalar(int $number, array $outer): mixed
    {
        $rows = $this->answer($number, $outer);
        if (count($rows) > 1) {
            throw new WarehouseError('A subquery in place of one value gave '.count($rows).' rows.');
        }

        return $rows[0] ?? null;
    }

    /**
     * @param  array<int, mixed>  $outer
     */
    public function exists(int $number, array $outer): bool
    {
        return $this->answer($number, $outer) !== [];
    }

    /**
     * x op ANY (rows), x op ALL (rows), with SQL's NULLs.
     *
     * @param  array<int, mixed>  $outer
     */
    public function compare(int $number, array $outer, int|float|string|bool|null $value, string $operator, bool $all): ?bool
    {
        $rows = $this->answer($number, $outer);
        if ($rows === []) {
            return $all;
        }
        if ($value === null) {
            return null;
        }
        $unknown = false;
        foreach ($rows as $row) {
            if ($row === null) {
                $unknown = true;

                continue;
            }
            $order = is_string($value) && is_string($row) ? strcmp($value, $row) : $value <=> $row;
            $holds = match ($operator) {
                'eq' => $order === 0,
                'ne' => $order !== 0,
                'lt' => $order < 0,
                'le' => $order <= 0,
                'gt' => $order > 0,
                default => $order >= 0,
            };
            if ($holds !== $all) {
                return ! $all;
            }
        }

        return $unknown ? null : $all;
    }

    /**
     * @param  array<int, mixed>  $outer
     * @return list<mixed>
     */
    private function answer(int $number, array $outer): array
    {
        $key = $outer === [] ? '' : serialize($outer);
        if (isset($this->answers[$number][$key])) {
            return $this->answers[$number][$key];
        }
        $this->subqueryRuns[$number] = ($this->subqueryRuns[$number] ?? 0) + 1;
        $before = $this->outer;
        $this->outer = $outer + $before;
        $step = $this->subqueries[$number];
        $step->reset();
        $id = $step->fields[0]->id;
        $rows = [];
        foreach ($step->batches($this, 0) as $batch) {
            $this->tick();
            foreach ($batch->columns[$id] as $value) {
                $rows[] = $value;
            }
        }
        $this->outer = $before;
        if (count($this->answers[$number] ?? []) > self::MEMORY_MOST) {
            $this->answers[$number] = [];
        }

        return $this->answers[$number][$key] = $rows;
    }
}
