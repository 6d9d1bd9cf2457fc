<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Core\Scheduling\JobHead;
use Fulcrion\Core\Scheduling\JobModel;
use Fulcrion\Core\Scheduling\JobState;
use Fulcrion\Core\Scheduling\RecordedRun;
use Fulcrion\Core\Scheduling\RuntimeDistribution;
use Fulcrion\Core\Scheduling\ScalingCurve;
use Fulcrion\Core\Statistics\Spread;
use Fulcrion\Practice\Jobs\JobPlan;
use Fulcrion\Practice\Jobs\JobRunner;
use Fulcrion\Practice\Jobs\StagePlan;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Predictions from one run of a job, held against new runs with a quarter, half, twice and four times the workers. Jobs
 * are made up as large as those of the nights: three to nine stages, 800 to 12,000 tasks, even and uneven, barriers and
 * pipelines, luck, stragglers, retries, start-up.
 */
final class JobPredictBench implements Measurement
{
    private const JOBS = 20;

    private const START = 1_763_686_800_000_000;

    public function name(): string
    {
        return 'job-predict';
    }

    public function run(Closure $say): iterable
    {
        $random = new Randomizer(new Mt19937(20));
        $curveErrors = $errors = $luckOnly = [];
        $within = 0;
        for ($job = 0; $job < self::JOBS; $job++) {
            $say("job {$job} of ".self::JOBS);
            do {
                $plan = self::plan($random, $job);
            } while ($plan->tasks() < 800 || $plan->tasks() > 12_000);
            $workers = (int) round(2 ** ($random->getInt(40, 75) / 10));
            $model = new JobModel(self::record($plan, $workers, 1000 + $job));
            $curve = ScalingCurve::of($model, 20);
            $distribution = RuntimeDistribution::of($model, $curve, new Randomizer(new Mt19937($job)), 24);
            foreach ([0.25, 0.5, 2, 4] as $times) {
                $other = max(1, (int) round($workers * $times));
                $actual = self::record($plan, $other, 5000 + 10 * $job + (int) (4 * $times))->elapsedUs();
                // Luck alone: the same job with the same number of workers once more.
                $luckOnly[] = abs(self::record($plan, $other, 9000 + 10 * $job + (int) (4 * $times))->elapsedUs() / $actual - 1);
                $curveErrors[] = abs($model->timeUs($other) / $actual - 1);
                $within +=
                    $actual >= $model->timeUs($other) * $distribution->factor($other, 0.05) &&
                    $actual <= $model->timeUs($other) * $distribution->factor($other, 0.95)
                        ? 1
                        : 0;
                $errors[] = abs(($model->timeUs($other) * $distribution->factor($other, 0.5)) / $actual - 1);
            }
        }
        sort($errors);
        sort($curveErrors);
        sort($luckOnly);
        yield BenchFigure::of('predictions held against new runs', count($errors), 'runs');
        yield BenchFigure::atMost(
            'error of the middle of what the distribution gives, median',
            100 * Spread::median($errors),
            5,
            '%',
        );
        yield BenchFigure::atMost('error of the middle of what the distribution gives, worst', 100 * max([0.0, ...$errors]), 15, '%');
        yield BenchFigure::of('new runs within the range that should hold 90%', (100 * $within) / count($errors), '%');
        yield BenchFigure::of('two runs with the same number of workers differ, median', 100 * Spread::median($luckOnly), '%');
        yield BenchFigure::of('two runs with the same number of workers differ, worst', 100 * max([0.0, ...$luckOnly]), '%');
        yield BenchFigure::of(
            'error of the recorded times scheduled again, median',
            100 * Spread::median($curveErrors),
            '%',
        );
        yield BenchFigure::of('error of the recorded times scheduled again, worst', 100 * max([0.0, ...$curveErrors]), '%');
    }

    public static function record(JobPlan $plan, int $workers, int $seed): RecordedRun
    {
        $done = (new JobRunner($plan))->run($workers, $seed, self::START);
        $head = new JobHead(
            'bench',
            $plan->name,
            '',
            '',
            self::START,
            self::START,
            $done['endedUs'],
            $done['failed'] ? JobState::Failed : JobState::Done,
            '',
            $workers,
            null,
            '',
            -1,
            true,
        );

        return RecordedRun::of($head, $done['stages'], $done['table'], $done['workers']);
    }

    private static function plan(Randomizer $random, int $job): JobPlan
    {
        $stages = [];
        $count = $random->getInt(3, 9);
        for ($s = 0; $s < $count; $s++) {
            $after = [];
            if ($s > 0) {
                $after['s'.$random->getInt(max(0, $s - 2), $s - 1)] = ['all', 'all', 'same', 'fold'][$random->getInt(0, 3)];
            }
            $stages[] = new StagePlan(
                "s{$s}",
                "stage {$s}",
                (int) round(2 ** ($random->getInt(55, 112) / 10)),
                $after,
                $random->getInt(20, 400),
                $random->getInt(40, 180),
                $random->getInt(100, 900),
                $random->getInt(10, 60) / 100,
            );
        }

        return new JobPlan(
            "bench {$job}",
            '',
            $stages,
            $random->getInt(5, 40) * 1000.0,
            $random->getInt(20, 300),
            $random->getInt(5, 15) / 100,
            $random->getInt(0, 30) / 10_000,
            $random->getInt(0, 60) / 10_000,
        );
    }
}
