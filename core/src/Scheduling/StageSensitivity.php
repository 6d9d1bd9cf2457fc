<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

use Fulcrion\Core\Statistics\Spread;

/**
 * Where to push: each stage made better in turn and the whole job scheduled again, for a stage can be hot and not matter.
 */
final readonly class StageSensitivity
{
    /** A task this much slower than others with as much to read is a straggler. */
    public const STRAGGLES = 1.8;

    private const MANY = 50_000;

    /** A stage is skewed where its largest task has this much more to read than the middle one. */
    public const SKEWED = 4.0;

    /**
     * @return list<WhatIf> what saves most time first
     */
    public static function of(JobModel $model, int $workers, float $less = 0.2): array
    {
        $run = $model->run;
        $base = $model->timeUs($workers);
        $loaded = $model->loadedUs();
        $byStage = $run->tasksByStage();
        $found = [];
        $try = static function (string $kind, int $stage, array $durations) use ($model, $workers, $base, $loaded, &$found): void {
            /** @var list<int> $durations */
            if ($durations !== $loaded) {
                $time = $model->scheduler()->with($durations)->run($workers)->makespanUs;
                $found[] = new WhatIf($kind, $stage, $time, $base - $time, array_sum($loaded) - array_sum($durations));
            }
        };
        $total = array_sum($run->durationsUs);
        $onPath = [];
        foreach ($run->graph->criticalPath($run->durationsUs) as $task) {
            $onPath[$run->table->stage[$task]] = true;
        }
        foreach ($byStage as $stage => $tasks) {
            // Of a very large job only stages that could matter are tried.
            if (
                $run->graph->tasks > self::MANY &&
                ! isset($onPath[$stage]) &&
                array_sum(array_map(static fn (int $task): int => $run->durationsUs[$task], $tasks)) < 0.02 * $total
            ) {
                continue;
            }
            $shorter = $ordinary = $even = $loaded;
            foreach ($tasks as $task) {
                $shorter[$task] = (int) ($loaded[$task] - $less * $run->durationsUs[$task]);
            }
            $try('less', $stage, $shorter);
            foreach (self::stragglers($model, $tasks) as $task) {
                $ordinary[$task] = (int) $model->times->expectedUs[$task] + $run->overheadUs;
            }
            $try('stragglers', $stage, $ordinary);
            if (self::isSkewed($run, $tasks)) {
                $mean =
                    intdiv(array_sum(array_map(static fn (int $task): int => $run->durationsUs[$task], $tasks)), count($tasks)) +
                    $run->overheadUs;
                foreach ($tasks as $task) {
                    $even[$task] = $mean;
                }
                $try('even', $stage, $even);
            }
        }
        $once = $loaded;
        foreach ($run->table->attempts as $task => $attempts) {
            $once[$task] -= $attempts > 1 ? $run->table->lostUs($task) : 0;
        }
        $try('retries', -1, $once);
        usort(
            $found,
            static fn (WhatIf $a, WhatIf $b): int =>
                [$b->savedUs, $b->workSavedUs, $a->stage] <=> [$a->savedUs, $a->workSavedUs, $b->stage],
        );

        return $found;
    }

    /**
     * Tasks that took far longer than others of their stage with as much to read, retries aside.
     *
     * @param  list<int>  $tasks of one stage
     * @return list<int>
     */
    public static function stragglers(JobModel $model, array $tasks): array
    {
        $table = $model->run->table;

        return array_values(
            array_filter(
                $tasks,
                static fn (int $task): bool => $table->ended[$task] >= 0 &&
                    self::STRAGGLES * $model->times->expectedUs[$task] < $model->run->durationsUs[$task] - $table->lostUs($task),
            ),
        );
    }

    /**
     * @param  list<int>  $tasks of one stage
     */
    public static function isSkewed(RecordedRun $run, array $tasks): bool
    {
        $bytes = array_filter(
            array_map(static fn (int $task): int => $run->table->figures['bytes_read'][$task], $tasks),
            static fn (int $read): bool => $read >= 0,
        );

        return count($bytes) > 1 && max($bytes) >= self::SKEWED * max(1.0, Spread::median($bytes));
    }
}
