<?php

declare(strict_types=1);

namespace App\Jobs\Application;

use App\Estate\Connectors\SourceError;
use App\Jobs\Models\JobRun;
use App\Jobs\Models\JobSeries;
use App\Ledger\Changes\ChangeAction;
use App\Ledger\Changes\ChangeExecutor;
use App\Ledger\Changes\Changes;
use App\Ledger\Changes\ChangeState;
use App\Ledger\Changes\Inverse;
use App\Ledger\Changes\Proposal;
use App\Ledger\Changes\Refused;
use App\Ledger\Findings\FindingState;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Platform\Models\User;
use App\Platform\Runs\Progress;

/**
 * A decision how many workers the next run of a job gets: rehearsed on the recorded run, proved by the next one.
 */
final readonly class WorkersExecutor implements ChangeExecutor
{
    public const KIND = 'workers';

    public function __construct(private Proving $proving, private Changes $changes)
    {
    }

    public function prepare(Change $change, Proposal $proposal): void
    {
        // Its steps and their inverse are known when it is proposed.
    }

    /**
     * Proposes, rehearses, approves and sets in one act: who decides for tonight has looked at all of it already.
     *
     * @throws Refused
     */
    public function pin(JobRun $run, int $workers, string $reason, User $user): Change
    {
        $series = $run->series ?? throw new Refused('This run belongs to no job that runs again.');
        if ($run->state !== 'done' || ! $run->kept) {
            throw new Refused('A decision is made from a run that is done and whose tasks are kept; take a newer one.');
        }
        $before = $series->next_workers ?? $run->workers;
        $expected = $this->proving->expected($run, $workers);
        /** @var Finding|null $finding */
        $finding = Finding::query()
            ->where('cluster_id', $run->cluster_id)
            ->where('source', JobFindings::SOURCE)
            ->where('object', FindingSubject::job($series->name)->key())
            ->whereIn('state', FindingState::waiting())
            ->first();
        $change = $this->changes->propose(
            $run->cluster,
            $finding,
            new Proposal(
                "job:{$series->name}",
                "Give {$series->name} {$workers} workers: {$reason}",
                self::KIND,
                [self::act($series, $workers)],
                Inverse::statements([self::act($series, $before)]),
                0.0,
                0.0,
                0.0,
                0.0,
                [],
                [],
            ),
            $user,
        );
        $change->update([
            'expected' => $change->expected + ['job' => $expected + ['series' => $series->id, 'before' => $before, 'reason' => $reason]],
        ]);
        $this->rehearse($change, $user->name, new Progress($change));
        $change->enter(ChangeState::Rehearsed, $user->name);
        $this->changes->approve($change, $user);
        $this->changes->apply($change, $user, true);

        return $change->refresh();
    }

    public function rehearse(Change $change, string $by, Progress $progress): void
    {
        $job = $this->job($change);
        $this->proving->rehearse($change, $job, $by);
    }

    public function apply(Change $change, string $by, Progress $progress): void
    {
        $job = $this->job($change);
        $this->series($job)->update(['next_workers' => (int) $job['workers'], 'pinned_change_id' => $change->id]);
    }

    public function undo(Change $change, string $by, Progress $progress): void
    {
        $job = $this->job($change);
        $this->series($job)->update(['next_workers' => (int) $job['before'], 'pinned_change_id' => null]);
    }

    public function withdraw(Change $change, ChangeAction $action): string
    {
        return '';
    }

    public function recover(Change $change, ChangeAction $action): string
    {
        return 'The worker was killed. The number is set wholly or not at all: look at the job, and set it again if need be.';
    }

    /**
     * @return array<string, mixed>
     */
    private function job(Change $change): array
    {
        return $change->expected['job'] ?? throw new SourceError('What was expected of this decision is not known any more.');
    }

    /**
     * @param  array<string, mixed>  $job
     */
    private function series(array $job): JobSeries
    {
        return JobSeries::query()->whereKey($job['series'])->first() ?? throw new SourceError('The job is not known any more.');
    }

    private static function act(JobSeries $series, int $workers): string
    {
        return "next run of {$series->name}: {$workers} workers";
    }
}
