<?php

declare(strict_types=1);

namespace App\Jobs\Application;

use App\Jobs\Models\JobRun;
use App\Jobs\Models\JobSeries;
use Fulcrion\Core\Scheduling\CurvePoint;
use Fulcrion\Core\Scheduling\Diagnoses;
use Fulcrion\Core\Scheduling\Diagnosis;
use Fulcrion\Core\Scheduling\Elastic;
use Fulcrion\Core\Scheduling\InputTrend;
use Fulcrion\Core\Scheduling\JobModel;
use Fulcrion\Core\Scheduling\RecordedRun;
use Fulcrion\Core\Scheduling\RunFacts;
use Fulcrion\Core\Scheduling\RuntimeDistribution;
use Fulcrion\Core\Scheduling\ScalingCurve;
use Fulcrion\Core\Scheduling\StageSensitivity;
use Fulcrion\Core\Scheduling\TaskOrder;
use Fulcrion\Core\Scheduling\WhatIf;
use Fulcrion\Core\Scheduling\WorkerRecommendations;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * What is to be said of a run: reckoned once, kept with it.
 */
final readonly class JobAnalysis
{
    /** Above so many tasks luck is drawn less often. */
    private const MANY = 30_000;

    public function __construct(private JobRunStore $store)
    {
    }

    /** Reckons what the pages open with, where that was not done yet. */
    public function analyse(JobRun $run, ?RecordedRun $recorded = null): void
    {
        if ($run->analysis !== null || ! $run->kept) {
            return;
        }
        $recorded ??= $this->store->load($run);
        $facts = RunFacts::of($recorded);
        $analysis = self::facts($facts, $recorded);
        // A run that is not over tells little of others.
        if ($run->state !== 'running' && $facts->counts->done > 0) {
            $model = new JobModel($recorded);
            $curve = self::curve($model);
            $choices = new WorkerRecommendations($curve);
            $budget = $run->series->budget ?? 0.0;
            $marks = array_filter([
                'cheapest' => $choices->cheapest(),
                'knee' => $choices->knee(),
                'ceiling' => $choices->ceiling(),
                'deadline' => $run->deadline_us < 0 ? null : $choices->deadline(max(0, $run->deadline_us - $recorded->startUs)),
                'budget' => $budget > 0 ? $choices->budget($budget / ($run->price ?? 1.0)) : null,
            ]);
            $push = StageSensitivity::of($model, $recorded->workers());
            $analysis += [
                'fit' => $model->fitError(),
                'miss' => $curve->worstMiss(),
                'ceiling' => $curve->ceiling,
                'points' => array_map(self::point(...), $curve->points()),
                'minutes' => self::minutes($choices, $curve),
                'marks' => array_map(self::point(...), $marks),
                'push' => array_map(
                    static fn (WhatIf $one): array => [$one->kind, $one->stage, $one->timeUs, $one->savedUs, $one->workSavedUs],
                    $push,
                ),
                'diagnoses' => array_map(static fn (Diagnosis $one): array => get_object_vars($one), Diagnoses::of($model, $facts, $push)),
            ];
            $run->fill(self::better($run, $run->series, $analysis['marks']));
        }
        $run->fill([
            'analysis' => $analysis,
            'work_us' => $facts->times->workUs,
            'input_bytes' => $recorded->inputBytes(),
            'idle_share' => $facts->workers->idleShare,
        ]);
        // What is said of a run that still grows is not kept: it would outlive the end that came meanwhile.
        if ($run->state !== 'running') {
            $run->save();
        }
    }

    /** What takes longer: luck, a changing number of workers, tonight. */
    public function forecast(JobRun $run, int $seed = 1): void
    {
        if (($run->forecast !== null && isset($run->forecast['distribution'])) || ! isset($run->analysis['points'])) {
            return;
        }
        $recorded = $this->store->load($run);
        $model = new JobModel($recorded);
        $curve = self::curve($model);
        $random = new Randomizer(new Mt19937($seed));
        $many = $recorded->table->count() > self::MANY;
        $distribution = RuntimeDistribution::of($model, $curve, $random, $many ? 8 : 24, $many ? 4 : 7);
        $run->update([
            'forecast' => [
                'distribution' => [
                    'workers' => $distribution->workers,
                    'factors' => $distribution->factors,
                    'draws' => count($distribution->factors[0] ?? []),
                ],
                'elastic' => $this->elastic($run, $model, $curve, []),
                'tonight' => $run->series === null ? null : $this->tonight($run, $run->series, $model, $curve, $random),
            ],
        ]);
    }

    /**
     * The cheapest number of workers over time, by what was asked or, where nothing was, as fast as the run was.
     *
     * @param  array<string, int|float>  $asked minutes, and seconds of hold and delay, and the step
     * @return array<string, mixed>
     */
    public function elastic(JobRun $run, JobModel $model, ScalingCurve $curve, array $asked): array
    {
        $elapsed = $model->run->elapsedUs();
        $within = isset($asked['within']) ? (int) round($asked['within'] * 6e7) : (int) round(1.05 * $elapsed);
        $step = (int) ($asked['step'] ?? max(1, intdiv($model->run->workers(), 20)));
        $hold = (int) round(($asked['hold'] ?? max(60, intdiv($elapsed, 16_000_000))) * 1e6);
        $startUp = $model->run->startUpUs;
        $delay = (int) round(($asked['delay'] ?? max(15, intdiv($startUp[intdiv(count($startUp), 2)] ?? 0, 1_000_000))) * 1e6);
        $plan = (new Elastic($model, $curve, $step, $delay, $hold, $model->run->graph->tasks > self::MANY ? 30 : 160))->plan($within);
        $fixed = (new WorkerRecommendations($curve))->deadline($within);
        $asked = ['withinUs' => $within, 'step' => $step, 'holdUs' => $hold, 'delayUs' => $delay];

        return $asked +
            ($plan === null || $fixed === null
                ? ['levels' => null]
                : [
                    'levels' => $plan->levels,
                    'timeUs' => $plan->timeUs,
                    'workerHours' => $plan->workerHours(),
                    'tried' => $plan->tried,
                    'fixed' => self::point($fixed),
                    'leastWorkerHours' => array_sum($model->loadedUs()) / 3.6e9,
                ]);
    }

    /**
     * The same for what somebody asked, kept nowhere.
     *
     * @param  array<string, int|float>  $asked
     * @return array<string, mixed>|null
     */
    public function elasticAsked(JobRun $run, array $asked): ?array
    {
        if (! isset($run->analysis['points'])) {
            return null;
        }
        $model = new JobModel($this->store->load($run));

        return $this->elastic($run, $model, self::curve($model), $asked);
    }

    /**
     * What the next run of a job should take with how many workers, and how likely it is late.
     *
     * @return array<string, mixed>|null
     */
    private function tonight(JobRun $run, JobSeries $series, JobModel $model, ScalingCurve $curve, Randomizer $random): ?array
    {
        $history = array_map(static fn (array $one): array => [$one[0], $one[2]], $series->history());
        $atUs = $run->started_us + 86_400_000_000;
        $trend = InputTrend::of($history, $atUs);
        if ($trend === null || $run->input_bytes <= 0) {
            return null;
        }
        $factor = max(0.05, $trend->nextBytes / $run->input_bytes);
        $deviation = $trend->deviation / $run->input_bytes;
        $distribution = RuntimeDistribution::of($model, $curve, $random, $model->run->table->count() > self::MANY ? 6 : 16, 5, [
            $factor,
            $deviation,
        ]);
        $within = $run->deadline_us > $model->run->startUs ? $run->deadline_us - $model->run->startUs : null;
        $choices = new WorkerRecommendations($curve);
        // With some room: nine runs of ten are to be in time, whatever tonight brings.
        $chosen =
            $series->aim === 'deadline' && $within !== null
                ? $this->inTime($curve, $distribution, $within)
                : self::fitting($series, $run, $choices, $within);
        $rows = [];
        foreach (array_unique([$chosen->workers ?? $run->workers, $run->workers]) as $workers) {
            $rows[] = [
                'workers' => $workers,
                'lowUs' => $distribution->timeUs($curve, $workers, 0.1),
                'middleUs' => $distribution->timeUs($curve, $workers, 0.5),
                'highUs' => $distribution->timeUs($curve, $workers, 0.9),
                'late' => $within === null ? null : 1 - $distribution->chance($curve, $workers, $within),
            ];
        }

        $growth = [];
        foreach (
            ['this run' => 1.0, 'the next run' => $factor, 'in four '
                .'weeks' => max(0.05, $factor * (1 + 4 * $trend->weekly))] as $when => $input
        ) {
            $then =
                $input === 1.0
                    ? $choices
                    : new WorkerRecommendations(ScalingCurve::of(new JobModel($model->run, $model->order, $input), 16));
            $point = self::fitting($series, $run, $then, $within);
            $growth[] = [
                'when' => $when,
                'input' => $run->input_bytes * $input,
                'sameUs' => $then->with($run->workers)->timeUs,
                'fits' => $point === null ? null : self::point($point),
            ];
        }

        return [
            'growth' => $growth,
            'atUs' => $atUs,
            'input' => $trend->nextBytes,
            'factor' => $factor,
            'deviation' => $deviation,
            'weekly' => $trend->weekly,
            'runs' => $trend->runs,
            'workers' => $chosen?->workers,
            'rows' => $rows,
        ];
    }

    private static function curve(JobModel $model): ScalingCurve
    {
        return ScalingCurve::of($model, $model->run->graph->tasks > self::MANY ? 20 : 36);
    }

    /** What fits what is wanted of a job; null where nothing does. */
    private static function fitting(JobSeries $series, JobRun $run, WorkerRecommendations $choices, ?int $withinUs): ?CurvePoint
    {
        return match ($series->aim) {
            'cheapest' => $choices->cheapest(),
            'ceiling' => $choices->ceiling(),
            'budget' => $choices->budget(($series->budget ?? 0.0) / ($run->price ?? 1.0)),
            'deadline' => $withinUs === null ? null : $choices->deadline($withinUs),
            default => $choices->knee(),
        };
    }

    /**
     * @return array<int, float|null> worker hours of the next saved minute, by number of workers on the front
     */
    private static function minutes(WorkerRecommendations $choices, ScalingCurve $curve): array
    {
        $minutes = [];
        foreach ($curve->front() as $point) {
            $minutes[$point->workers] = $choices->nextMinute($point->workers)['workerHours'] ?? null;
        }

        return $minutes;
    }

    private function inTime(ScalingCurve $curve, RuntimeDistribution $distribution, int $withinUs): ?CurvePoint
    {
        [$low, $high] = [0, $curve->ceiling];
        if ($distribution->timeUs($curve, $high, 0.9) > $withinUs) {
            return null;
        }
        while ($high - $low > 1) {
            $middle = intdiv($low + $high, 2);
            if ($distribution->timeUs($curve, $middle, 0.9) <= $withinUs) {
                $high = $middle;
            } else {
                $low = $middle;
            }
        }

        return $curve->exact($high);
    }

    /**
     * The number that fits what is wanted of the job, and what it would have saved.
     *
     * @param  array<string, array{workers: int, timeUs: int, idle: float}>  $marks
     * @return array{best_workers: int|null, best_saves: float|null}
     */
    public static function better(JobRun $run, ?JobSeries $series, array $marks): array
    {
        $aim = $series->aim ?? ($run->deadline_us >= 0 ? 'deadline' : 'knee');
        $best = $marks[$aim] ?? null;

        return $best === null
            ? ['best_workers' => null, 'best_saves' => null]
            : [
                'best_workers' => $best['workers'],
                'best_saves' => $run->cost() - $best['workers'] * ($best['timeUs'] / 3.6e9) * ($run->price ?? 1.0),
            ];
    }

    /**
     * @return array{workers: int, timeUs: int, idle: float}
     */
    public static function point(CurvePoint $point): array
    {
        return ['workers' => $point->workers, 'timeUs' => $point->timeUs, 'idle' => $point->idleShare];
    }

    /**
     * @return array<string, mixed>
     */
    private static function facts(RunFacts $facts, RecordedRun $recorded): array
    {
        $all = ['path' => array_slice($facts->path, 0, 2000)] + $facts->toArray();

        return [
            'facts' => $all,
            'order' => TaskOrder::Recorded->words(),
            'inferred' => $recorded->inferred,
            'guessed' => $recorded->guessed,
            'workers' => $recorded->workers(),
            'startUps' => count($recorded->startUpUs),
        ];
    }

    /** What the run before would have told of this one, kept with its error. */
    public function predict(JobRun $run, ?JobModel $before): void
    {
        if ($before === null || $run->state !== 'done' || $run->workers < 1 || $run->elapsedUs() <= 0) {
            return;
        }
        $input = $before->run->inputBytes();
        $factor = $input > 0 && $run->input_bytes > 0 ? $run->input_bytes / $input : 1.0;
        $predicted = $before->scheduler()->with($before->scaled($factor))->run($run->workers)->makespanUs;
        $run->update(['predicted_us' => $predicted, 'prediction_error' => $predicted / $run->elapsedUs() - 1]);
    }
}
