<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Jobs\Application\BrokenJobRecord;
use App\Jobs\Application\JobFindings;
use App\Jobs\Application\WorkersExecutor;
use App\Jobs\Models\JobRun;
use App\Ledger\Changes\ChangeKind;
use App\Ledger\Changes\ChangeKinds;
use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Models\Change;
use App\Ledger\Models\ProofRecord;
use App\Ledger\Proofs\ProofBody;
use App\Platform\Runs\BrokenRuns;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use Illuminate\Console\Scheduling\Schedule;
use Illuminate\Database\Eloquent\Builder;

final class Provider extends Capability
{
    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        $this->callAfterResolving(BrokenRuns::class, fn (BrokenRuns $runs) => $runs->register(
            static fn (): Builder => JobRun::query()
                ->where(static fn (Builder $q) => $q->where('state', 'reading')->where('progress', '!=', JobRun::QUEUED))
                ->orWhere(static fn (Builder $q) => $q->whereNull('analysis')->where('progress', JobRun::JUDGED)),
            fn (JobRun $run): string => $this->app->make(BrokenJobRecord::class)->recover($run),
        ));
        $this->callAfterResolving(FindingSources::class, $this->findings(...));
        $this->callAfterResolving(ChangeKinds::class, $this->changes(...));
    }

    protected function pages(): array
    {
        return [new Page(Bench::Tune, 'jobs', 'Jobs', 'job.index', 'Watch', rank: 40)];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('jobs:nightly')->everyFiveMinutes()->withoutOverlapping(60);
        $schedule->command('jobs:judge')->everyFifteenMinutes()->withoutOverlapping(60);
    }

    private function findings(FindingSources $sources): void
    {
        $sources->register(new FindingSource(JobFindings::SOURCE, acts: 'jobs.finding-acts', weighed: 'measured in one run, times seven'));
    }

    private function changes(ChangeKinds $kinds): void
    {
        $kinds->register(
            new ChangeKind(
                WorkersExecutor::KIND,
                WorkersExecutor::class,
                measured: false,
                secondPerson: false,
                stepsTitle: 'What is set',
                proofTitle: 'Proof, from the run after it',
                address: static fn (Change $change): string => address('job.show', $change->expected['job']['run'] ?? 0),
            ),
        );
        $kinds->registerBody(
            new ProofBody(
                'job',
                'jobs.proof',
                static fn (ProofRecord $proof): string => match (true) {
                    $proof->kind === 'rehearsal' => 'predicted; the next run will show',
                    $proof->holds => 'the prediction held: within its range, or no more than 10% off',
                    default => 'the prediction did not hold',
                },
            ),
        );
    }
}
