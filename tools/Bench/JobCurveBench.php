<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Bench;

use Closure;
use Fulcrion\Core\Scheduling\JobModel;
use Fulcrion\Core\Scheduling\RuntimeDistribution;
use Fulcrion\Core\Scheduling\ScalingCurve;
use Fulcrion\Core\Scheduling\WorkerRecommendations;
use Fulcrion\Tools\Demo\NightlyJobs;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * From the record of 12,000 tasks to the curve, and to the chances on it.
 */
final class JobCurveBench implements Measurement
{
    private const ROUNDS = 3;

    public function name(): string
    {
        return 'job-curve';
    }

    public function run(Closure $say): iterable
    {
        $say('running the job');
        $run = JobPredictBench::record(NightlyJobs::plan('climate-fold', 1), 960, 7);
        $first = $whole = [];
        $worst = 0.0;
        for ($round = 0; $round < self::ROUNDS; $round++) {
            $say("round {$round}");
            $began = hrtime(true);
            $model = new JobModel($run);
            $curve = ScalingCurve::of($model);
            (new WorkerRecommendations($curve))->knee();
            $first[] = (hrtime(true) - $began) / 1e9;
            RuntimeDistribution::of($model, $curve, new Randomizer(new Mt19937(1)));
            $whole[] = (hrtime(true) - $began) / 1e9;
        }
        sort($first);
        sort($whole);
        $model = new JobModel($run);
        $curve = ScalingCurve::of($model);
        // Every number of workers that was only read off, against what comes out: some of them, evenly spread.
        for ($i = 1; $i <= 60; $i++) {
            $workers = (int) ceil(($curve->ceiling * $i) / 61);
            $worst = max($worst, abs($curve->timeUs($workers) / $model->timeUs($workers) - 1));
        }
        yield BenchFigure::of('tasks', $run->graph->tasks, 'tasks');
        yield BenchFigure::of('numbers of workers reckoned through of '.$curve->ceiling, count($curve->points()), 'numbers');
        yield BenchFigure::atMost('curve and best value, without chances', $first[intdiv(self::ROUNDS, 2)], 1, 's');
        yield BenchFigure::atMost('curve with chances', $whole[intdiv(self::ROUNDS, 2)], 5, 's');
        yield BenchFigure::of('read off against reckoned, worst of 60', 100 * $worst, '%');
    }
}
