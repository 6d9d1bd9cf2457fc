<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use Fulcrion\Core\Scheduling\Stage;
use Fulcrion\Core\Scheduling\TaskTable;
use Fulcrion\Practice\Jobs\JobPlan;
use Fulcrion\Practice\Jobs\JobRunner;

/**
 * Runs parallel jobs on a practice cluster, in modelled time.
 */
final readonly class JobRuns
{
    /**
     * @param  array<string, mixed>  $plan
     * @return array{table: TaskTable, stages: list<Stage>, workers: list<string>, endedUs: int, failed: bool, script: string}
     */
    public function run(array $plan, int $workers, int $seed, int $startUs, float $growth): array
    {
        $job = JobPlan::fromArray($plan);

        return (new JobRunner($job))->run($workers, $seed, $startUs, $growth) + ['script' => $job->script];
    }
}
