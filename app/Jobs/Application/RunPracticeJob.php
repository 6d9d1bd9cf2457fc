<?php

declare(strict_types=1);

namespace App\Jobs\Application;

use App\Estate\Connectors\SourceError;
use App\Estate\Limits\Sending;
use App\Estate\Limits\StatementGate;
use App\Jobs\Models\JobRun;
use Fulcrion\Core\Limits\Sender;
use Fulcrion\Core\Limits\StatementEstimate;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/**
 * Runs a job where the limits of its owner leave room for it.
 */
final class RunPracticeJob implements ShouldQueue
{
    use Queueable;

    /** What its limits know it by. */
    private const APPLICATION = 'jobs';

    private const MOST_SECONDS = 86_400;

    public int $timeout = 0;

    public int $tries = 1;

    public function __construct(public readonly int $runId, public readonly float $watchSeconds)
    {
    }

    public function handle(PracticeJobs $jobs, Proving $proving, JobFindings $findings, StatementGate $gate): void
    {
        $run = JobRun::query()->find($this->runId);
        if ($run === null || $run->state !== 'running') {
            return;
        }
        try {
            $admission = $gate->admit($this->sending($run));
        } catch (SourceError $error) {
            $run->update(['state' => 'refused', 'progress' => '', 'problems' => [$error->getMessage()]]);

            return;
        }
        try {
            $jobs->run($run, $run->id * 7919, null, null, $this->watchSeconds);
        } finally {
            $run->refresh();
            $admission->settle($run->input_bytes, $run->work_us);
        }
        $proving->prove($run);
        $findings->report($run->cluster);
    }

    /** What is expected of it is what the run before had. */
    private function sending(JobRun $run): Sending
    {
        $before = $run->series?->before($run);

        return new Sending(
            (new Sender($run->owner, self::APPLICATION))->to($run->cluster->slug),
            $run->cluster,
            '',
            static fn (): ?StatementEstimate => $before === null ? null
                : new StatementEstimate($before->input_bytes, $before->work_us),
            // Jobs have records of their own and are no executions.
            isKept: false,
            mostSeconds: self::MOST_SECONDS,
        );
    }
}
