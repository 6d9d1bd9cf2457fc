<?php

declare(strict_types=1);

namespace App\Jobs\Application;

use App\Jobs\Models\JobRun;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

final class JudgeJobRun implements ShouldQueue
{
    use Queueable;

    public int $timeout = 0;

    public int $tries = 1;

    public function __construct(public readonly int $runId, public readonly bool $forecast = false)
    {
    }

    public function handle(RecordedJobs $recorded, JobAnalysis $analyses, JobFindings $findings): void
    {
        $run = JobRun::query()->find($this->runId);
        if ($run !== null && $run->isRun()) {
            if ($this->forecast) {
                $analyses->forecast($run);
            } else {
                $recorded->judge($run);
                $findings->report($run->cluster);
            }
        }
    }
}
