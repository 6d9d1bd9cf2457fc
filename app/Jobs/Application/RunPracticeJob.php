<?php

declare(strict_types=1);

namespace App\Jobs\Application;

use App\Jobs\Models\JobRun;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

final class RunPracticeJob implements ShouldQueue
{
    use Queueable;

    public int $timeout = 0;

    public int $tries = 1;

    public function __construct(public readonly int $runId, public readonly float $watchSeconds)
    {
    }

    public function handle(PracticeJobs $jobs, Proving $proving, JobFindings $findings): void
    {
        $run = JobRun::query()->find($this->runId);
        if ($run !== null && $run->state === 'running') {
            $jobs->run($run, $run->id * 7919, null, null, $this->watchSeconds);
            $proving->prove($run);
            $findings->report($run->cluster);
        }
    }
}
