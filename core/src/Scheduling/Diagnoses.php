<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

use Fulcrion\Core\Text\Quantity;

/**
 * Judges how a job ran.
 *
 * @phpstan-import-type StageSum from RunFacts
 */
final readonly class Diagnoses
{
    /** A task of which so large a share is overhead is tiny. */
    private const TINY = 0.2;

    private const MATTERS = 0.03;

    private const IDLE = 0.5;

    /**
     * @param  list<WhatIf>  $push what would save how much
     * @return list<Diagnosis> those to act on first
     */
    public static function of(JobModel $model, RunFacts $facts, array $push): array
    {
        $byStage = $model->run->tasksByStage();
        $saved = [];
        foreach ($push as $whatIf) {
            $saved[$whatIf->kind][$whatIf->stage] = $whatIf->savedUs;
        }
        $found = [];
        foreach ($facts->stages as $sum) {
            $stage = $sum['stage'];
            $name = $model->run->stages[$stage]->name;
            array_push(
                $found,
                self::skew($facts, $sum, $name, $saved['even'][$stage] ?? 0.0),
                self::stragglers($model, $facts, $sum, $name, $byStage[$stage], $saved['stragglers'][$stage] ?? 0.0),
                self::tinyTasks($facts, $sum, $name),
                self::fewTasks($facts, $sum, $name),
                self::spill($sum, $name),
            );
        }
        $found = array_values(
            array_filter([
                ...$found,
                ...self::readAgain($model->run, $facts),
                self::aloneAtTheEnd($model->run, $facts),
                self::neverUsed($facts),
                self::idle($facts),
                self::longStart($model->run, $facts),
            ]),
        );
        usort($found, static fn (Diagnosis $a, Diagnosis $b): int => $b->act <=> $a->act);

        return $found;
    }

    /**
     * @param  StageSum  $sum
     */
    private static function skew(RunFacts $facts, array $sum, string $name, float $savedUs): ?Diagnosis
    {
        $elapsed = max(1, $facts->times->elapsedUs);
        $stage = $sum['stage'];
        if ($savedUs > self::MATTERS * $elapsed) {
            return new Diagnosis(
                'skew',
                $stage,
                $savedUs > 0.1 * $elapsed,
                "The largest task of {$name} reads ".
                    Quantity::digits($sum['mostBytes'] / max(1.0, $sum['medianBytes'])).
                    ' times what the middle one reads',
                [
                    ['largest task reads', Quantity::bytes($sum['mostBytes'])],
                    ['middle one', Quantity::bytes($sum['medianBytes'])],
                    ['slowest task', Quantity::duration($sum['slowestUs'])],
                    ['middle one takes', Quantity::duration($sum['medianUs'])],
                    ['split evenly the job would end sooner by', Quantity::duration($savedUs)],
                ],
                'Split the largest keys, or cut the input into parts of equal size.',
            );
        }

        return null;
    }

    /**
     * @param  StageSum  $sum
     * @param  list<int>  $tasks
     */
    private static function stragglers(JobModel $model, RunFacts $facts, array $sum, string $name, array $tasks, float $savedUs): ?Diagnosis
    {
        $elapsed = max(1, $facts->times->elapsedUs);
        $stage = $sum['stage'];
        $late = StageSensitivity::stragglers($model, $tasks);
        if ($late !== [] && $savedUs > self::MATTERS * $elapsed) {
            $where = self::where($model->run, $tasks, $late);

            return new Diagnosis(
                'stragglers',
                $stage,
                $where !== null || $savedUs > 0.1 * $elapsed,
                count($late).
                    " of {$sum['tasks']} tasks of {$name} took at least ".
                    StageSensitivity::STRAGGLES.
                    ' times what others with as much to read took'.
                    ($where === null ? '' : ", {$where[1]} of them on {$where[0]}"),
                [
                    ['slowest', Quantity::duration($sum['slowestUs'])],
                    ['middle one', Quantity::duration($sum['medianUs'])],
                    [
                        'where',
                        $where === null
                            ? 'none stands out'
                            : "{$where[0]} had {$where[1]} of ".
                                count($late).
                                " of them, and {$where[2]} of all {$sum['tasks']} tasks",
                    ],
                    ['without them the job would end sooner by', Quantity::duration($savedUs)],
                ],
                $where === null
                    ? 'Start a second copy of a task that takes too long, and take what ends first.'
                    : "Look at {$where[0]}; until it is fixed, keep tasks off it.",
            );
        }

        return null;
    }

    /**
     * @param  StageSum  $sum
     */
    private static function tinyTasks(RunFacts $facts, array $sum, string $name): ?Diagnosis
    {
        $stage = $sum['stage'];
        $overhead = $facts->times->overheadUs / max(1.0, $facts->times->overheadUs + $sum['medianUs']);
        if (
            $overhead >= self::TINY &&
            $sum['tasks'] > $facts->workers->reserved &&
            self::MATTERS * $facts->times->workUs < $sum['tasks'] * $facts->times->overheadUs
        ) {
            return new Diagnosis(
                'tiny-tasks',
                $stage,
                $overhead >= 0.4,
                Quantity::percent($overhead).
                    " of each task of {$name} is overhead: {$sum['tasks']} tasks of ".
                    Quantity::duration($sum['medianUs']),
                [
                    ['overhead of a task', Quantity::duration($facts->times->overheadUs).', estimated from gaps on workers'],
                    ['middle task', Quantity::duration($sum['medianUs'])],
                    ['overhead of the stage', Quantity::duration($sum['tasks'] * $facts->times->overheadUs).' of worker time'],
                ],
                'Make the tasks larger: a tenth as many would do.',
            );
        }

        return null;
    }

    /**
     * @param  StageSum  $sum
     */
    private static function fewTasks(RunFacts $facts, array $sum, string $name): ?Diagnosis
    {
        $elapsed = max(1, $facts->times->elapsedUs);
        $stage = $sum['stage'];
        $wall = $sum['lastUs'] - $sum['firstUs'];
        if (
            $sum['tasks'] < 0.5 * $facts->workers->reserved &&
            $sum['tasks'] > 1 &&
            $wall > 0.15 * $elapsed &&
            $sum['onPathUs'] > 0.1 * $elapsed
        ) {
            return new Diagnosis(
                'few-tasks',
                $stage,
                false,
                "{$name} has {$sum['tasks']} tasks for {$facts->workers->reserved} workers and lasts ".
                    Quantity::percent($wall / $elapsed).
                    ' of the run',
                [
                    ['tasks', Quantity::count($sum['tasks'])],
                    ['workers', Quantity::count($facts->workers->reserved)],
                    ['lasts', Quantity::duration($wall)],
                ],
                'Split its input into more parts, or reserve less.',
            );
        }

        return null;
    }

    /**
     * @param  StageSum  $sum
     */
    private static function spill(array $sum, string $name): ?Diagnosis
    {
        $stage = $sum['stage'];
        if ($sum['bytesSpilled'] > 0 && $sum['bytesSpilled'] > 0.1 * $sum['bytesRead']) {
            return new Diagnosis(
                'spill',
                $stage,
                $sum['bytesSpilled'] > $sum['bytesRead'],
                "{$name} wrote ".Quantity::bytes($sum['bytesSpilled']).' aside because its workers ran out of memory',
                [['spilled', Quantity::bytes($sum['bytesSpilled'])], ['read', Quantity::bytes($sum['bytesRead'])]],
                'Give tasks more memory, or less to do each.',
            );
        }

        return null;
    }

    /**
     * @return list<Diagnosis> an input each
     */
    private static function readAgain(RecordedRun $run, RunFacts $facts): array
    {
        $found = [];
        $inputs = [];
        foreach ($run->stages as $i => $stage) {
            if ($stage->input !== '') {
                $inputs[$stage->input][] = $i;
            }
        }
        foreach ($inputs as $input => $stages) {
            if (count($stages) > 1) {
                $again = array_sum(array_map(static fn (int $i): int => $facts->stages[$i]['workUs'], array_slice($stages, 1)));
                if ($again > self::MATTERS * $facts->times->workUs) {
                    $found[] = new Diagnosis(
                        'read-again',
                        $stages[1],
                        false,
                        "{$input} is read by ".count($stages).' stages',
                        [
                            ['stages', implode(', ', array_map(static fn (int $i): string => $run->stages[$i]->name, $stages))],
                            ['worker time of the later ones', Quantity::duration($again)],
                        ],
                        'Read it once and keep what both need.',
                    );
                }
            }
        }

        return $found;
    }

    private static function aloneAtTheEnd(RecordedRun $run, RunFacts $facts): ?Diagnosis
    {
        $elapsed = max(1, $facts->times->elapsedUs);
        $alone = self::alone($run->used(), $elapsed);
        if ($alone > 0.08 * $elapsed && $facts->counts->tasks > 10) {
            return new Diagnosis(
                'alone-at-the-end',
                -1,
                $alone > 0.2 * $elapsed,
                'For the last '.
                    Quantity::duration($alone).
                    ' a single task kept '.
                    Quantity::count($facts->workers->reserved).
                    ' workers waiting',
                [
                    ['share of the run', Quantity::percent($alone / $elapsed)],
                    ['paid meanwhile', Quantity::digits((($facts->workers->reserved - 1) * $alone) / 3.6e9).' worker hours'],
                ],
                'Split that task, or start it earlier.',
            );
        }

        return null;
    }

    private static function neverUsed(RunFacts $facts): ?Diagnosis
    {
        $elapsed = max(1, $facts->times->elapsedUs);
        if ($facts->workers->mostUsed < 0.9 * $facts->workers->reserved) {
            return new Diagnosis(
                'never-used',
                -1,
                $facts->workers->mostUsed < 0.5 * $facts->workers->reserved,
                Quantity::count($facts->workers->reserved - $facts->workers->mostUsed).
                    ' of '.
                    Quantity::count($facts->workers->reserved).
                    ' reserved workers were never used',
                [
                    ['most at work at once', Quantity::count($facts->workers->mostUsed)],
                    [
                        'paid for nothing',
                        Quantity::digits((($facts->workers->reserved - $facts->workers->mostUsed) * $elapsed) / 3.6e9).' worker hours',
                    ],
                ],
                'Reserve '.Quantity::count($facts->workers->mostUsed).' at most.',
            );
        }

        return null;
    }

    private static function idle(RunFacts $facts): ?Diagnosis
    {
        if ($facts->workers->idleShare > self::IDLE && $facts->workers->reserved > 1) {
            return new Diagnosis(
                'idle',
                -1,
                $facts->workers->idleShare > 0.65,
                Quantity::percent($facts->workers->idleShare).' of the paid worker time was idle',
                [
                    ['work', Quantity::digits($facts->times->workUs / 3.6e9).' worker hours'],
                    ['paid', Quantity::digits($facts->workerHours()).' worker hours'],
                    ['mean parallelism', Quantity::digits($facts->meanParallelism())],
                ],
                'Choose a smaller number of workers on the curve.',
            );
        }

        return null;
    }

    private static function longStart(RecordedRun $run, RunFacts $facts): ?Diagnosis
    {
        $elapsed = max(1, $facts->times->elapsedUs);
        if ($facts->times->startUpUs > 0.1 * $elapsed) {
            return new Diagnosis(
                'long-start',
                -1,
                false,
                'Workers took '.
                    Quantity::duration($facts->times->startUpUs).
                    ' to start, '.
                    Quantity::percent($facts->times->startUpUs / $elapsed).
                    ' of the run',
                [['start-up, middle of '.count($run->startUpUs).' workers', Quantity::duration($facts->times->startUpUs)]],
                'Keep workers from one job to the next.',
            );
        }

        return null;
    }

    /**
     * The host, or else the worker, that had far more of the slow tasks than of all tasks. What stands before the last
     * hyphen, slash or colon of a worker's name is its host.
     *
     * @param  list<int>  $tasks
     * @param  list<int>  $late
     * @return array{string, int, int}|null which, how many slow tasks on it, how many at all
     */
    private static function where(RecordedRun $run, array $tasks, array $late): ?array
    {
        foreach ([true, false] as $byHost) {
            $slow = self::places($run, $late, $byHost);
            $all = self::places($run, $tasks, $byHost);
            arsort($slow);
            $place = array_key_first($slow);
            // At least three times its part of all tasks.
            if (
                $place !== null &&
                count($all) > 1 &&
                $slow[$place] >= 4 &&
                $slow[$place] >= 0.25 * count($late) &&
                (3 * $all[$place]) / count($tasks) < $slow[$place] / count($late)
            ) {
                return [$byHost ? $place : "worker {$place}", $slow[$place], $all[$place]];
            }
        }

        return null;
    }

    /**
     * @param  list<int>  $tasks
     * @return array<string, int> how many by host or worker
     */
    private static function places(RecordedRun $run, array $tasks, bool $byHost): array
    {
        $counts = [];
        foreach ($tasks as $task) {
            $name = $run->workerNames[$run->table->worker[$task]] ?? '';
            $cut = $byHost ? max((int) strrpos($name, '-'), (int) strrpos($name, '/'), (int) strrpos($name, ':')) : strlen($name);
            if ($cut > 0) {
                $place = substr($name, 0, $cut);
                $counts[$place] = ($counts[$place] ?? 0) + 1;
            }
        }

        return $counts;
    }

    /** How long at the end only one worker was at work. */
    private static function alone(Profile $used, int $elapsedUs): int
    {
        for ($i = count($used->levels) - 1; $i >= 0; $i--) {
            if ($used->levels[$i] > 1) {
                return max(0, $elapsedUs - $used->timesUs[$i + 1]);
            }
        }

        return 0;
    }
}
