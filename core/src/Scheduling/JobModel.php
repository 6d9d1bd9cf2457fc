<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

use Random\Randomizer;

/**
 * What a recorded run tells of runs with other numbers of workers.
 */
final class JobModel
{
    public readonly StageTimes $times;

    /** So many stragglers of a stage are no chance. */
    private const TELLING = 8;

    private readonly Scheduler $scheduler;

    /** @var array<int, int> time by workers */
    private array $known = [];

    /** @var list<int> */
    private readonly array $loadedUs;

    /** @var list<array{body: list<float>, tail: list<float>, share: float}> by stage: ordinary luck, bad luck, and how often that is */
    private readonly array $distribution;

    /**
     * @param  float  $inputFactor what there is to read against what the run had
     */
    public function __construct(
        public readonly RecordedRun $run,
        public readonly TaskOrder $order = TaskOrder::Recorded,
        float $inputFactor = 1.0,
    ) {
        $this->times = StageTimes::of($run);
        $this->loadedUs = $inputFactor === 1.0 ? $run->loadedUs() : $this->scaled($inputFactor);
        $this->distribution = self::distribution($this->times->ratios);
        $this->scheduler = new Scheduler($run->graph, $this->loadedUs, $order, $run->table->started, $run->startUpUs);
    }

    /**
     * Bad luck is rare: a stage that met little of it may just have been lucky, so it is given that of the whole job.
     *
     * @param  list<list<float>>  $ratios by stage: actual to expected
     * @return list<array{body: list<float>, tail: list<float>, share: float}>
     */
    private static function distribution(array $ratios): array
    {
        $tails = array_map(
            static fn (array $own): array => array_values(
                array_filter($own, static fn (float $ratio): bool => $ratio > StageSensitivity::STRAGGLES),
            ),
            $ratios,
        );
        $all = array_merge(...$tails);
        $share = count($all) / max(1, array_sum(array_map(count(...), $ratios)));

        return array_map(
            static function (array $own, array $tail) use ($all, $share): array {
                $body = array_values(array_filter($own, static fn (float $ratio): bool => $ratio <= StageSensitivity::STRAGGLES));
                $known = count($tail) >= self::TELLING;

                return [
                    'body' => $body,
                    'tail' => $known ? $tail : $all,
                    'share' => $body === [] ? 1.0 : ($known ? count($tail) / count($own) : $share),
                ];
            },
            $ratios,
            $tails,
        );
    }

    /**
     * What was recorded is a draw itself, so the middle of another run is off by the luck of both: tasks are drawn from a
     * pool that is drawn.
     *
     * @param  list<float>  $body
     * @param  list<float>  $tail
     * @return list<float>
     */
    private function pool(array $body, array $tail, float $share, Randomizer $random): array
    {
        $pool = [];
        $of = count($body) + ($body === [] ? count($tail) : 0);
        for ($i = 0; $i < $of; $i++) {
            $bad = $tail !== [] && ($body === [] || $random->getInt(0, 1 << 30) < $share * (1 << 30));
            $pool[] = $bad ? $tail[$random->getInt(0, count($tail) - 1)] : $body[$random->getInt(0, count($body) - 1)];
        }

        return $pool;
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
        return max(1, $this->run->graph->width($this->loadedUs)->most());
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
        $pools = array_map(
            fn (array $distribution): array => $this->pool($distribution['body'], $distribution['tail'], $distribution['share'], $random),
            $this->distribution,
        );
        $counts = array_map(static fn (array $ratios): int => count($ratios) - 1, $pools);
        foreach ($this->run->table->stage as $task => $stage) {
            $last = $counts[$stage];
            $ratio = $last < 0 ? 1.0 : $pools[$stage][$last === 0 ? 0 : $random->getInt(0, $last)];
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
            $scaled[] =
                (int) round(
                    ($duration * $this->expectedUs($task, $this->run->table->stage[$task], $inputFactor)) / $this->times->expectedUs[$task],
                ) + $this->run->overheadUs;
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
        return max(
            1.0,
            $this->times->expectedUs[$task] +
                $line['usPerByte'] * ($inputFactor - 1) * max(0, $this->run->table->figures['bytes_read'][$task]),
        );
    }
}
