<?php

declare(strict_types=1);

namespace Fulcrion\Core\Jobs;

use Random\Randomizer;

/**
 * What a recorded run tells of runs with other numbers of workers.
 */
final class JobModel
{
    public readonly StageTimes $times;

    private readonly Scheduler $scheduler;

    /** @var array<int, int> time by workers */
    private array $known = [];

    /** @var list<int> */
    private readonly array $loadedUs;

    /**
     * @param  float  $inputFactor what there is to read against what the run had
     */
    public function __construct(public readonly RecordedRun $run, public readonly Order $order = Order::Recorded, float $inputFactor = 1.0)
    {
        $this->times = StageTimes::of($run);
        $this->loadedUs = $inputFactor === 1.0 ? $run->loadedUs() : $this->scaled($inputFactor);
        $this->scheduler = new Scheduler($run->graph, $this->loadedUs, $order, $run->table->started, $run->startUpUs);
    }

    public function timeUs(int $workers): int
    {
        return $this->known[$workers] ??= $this->scheduler->run($workers)->makespanUs;
    }

    public function schedule(int $workers): Schedule
    {
        return $this->scheduler->run($workers, true);
    }

    /** Modelled time at the recorded number of workers against the recorded one, as a share of it. */
    public function fitError(): float
    {
        $recorded = $this->run->elapsedUs();

        return $recorded <= 0 ? 0.0 : $this->timeUs($this->run->workers()) / $recorded - 1;
    }

    public function scheduler(): Scheduler
    {
        return $this->scheduler;
    }

    /**
     * @return list<int> by task, with what a worker takes beside it
     */
    public function loadedUs(): array
    {
        return $this->loadedUs;
    }

    /** Least number of workers with which none of the tasks would ever wait for one. */
    public function widest(): int
    {
        return max(1, Profile::of(array_slice($this->run->graph->earliest($this->loadedUs), 0, $this->run->graph->tasks), $this->loadedUs)->most());
    }

    /**
     * The same job with other luck: each task takes what is expected for its bytes, times what a task of its stage, drawn
     * with replacement, took of what was expected of it (a bootstrap of residuals; Efron 1979).
     *
     * @return list<int> by task, with what a worker takes beside it
     */
    public function drawn(Randomizer $random, float $inputFactor = 1.0): array
    {
        $drawn = [];
        $overhead = $this->run->overheadUs;
        $counts = array_map(static fn (array $ratios): int => count($ratios) - 1, $this->times->ratios);
        foreach ($this->run->table->stage as $task => $stage) {
            $last = $counts[$stage];
            $ratio = $last < 0 ? 1.0 : $this->times->ratios[$stage][$last === 0 ? 0 : $random->getInt(0, $last)];
            $drawn[] = (int) ($this->expectedUs($task, $stage, $inputFactor) * $ratio) + $overhead;
        }

        return $drawn;
    }

    /**
     * The same job with more or less to read.
     *
     * @return list<int> by task, with what a worker takes beside it
     */
    public function scaled(float $inputFactor): array
    {
        $scaled = [];
        foreach ($this->run->durationsUs as $task => $duration) {
            $scaled[] = (int) round($duration * $this->expectedUs($task, $this->run->table->stage[$task], $inputFactor) / $this->times->expectedUs[$task]) + $this->run->overheadUs;
        }

        return $scaled;
    }

    private function expectedUs(int $task, int $stage, float $inputFactor): float
    {
        if ($inputFactor === 1.0) {
            return $this->times->expectedUs[$task];
        }
        $line = $this->times->lines[$stage];

        // Only what grows with the bytes grows; a giant keeps what it takes beyond the line.
        return max(1.0, $this->times->expectedUs[$task] + $line['usPerByte'] * ($inputFactor - 1) * max(0, $this->run->table->figures['bytes_read'][$task]));
    }
}
