<?php

declare(strict_types=1);

namespace App\Ledger\Changes;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\FindingState;
use App\Ledger\Jobs\RunChange;
use App\Ledger\Ledger;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Ledger\Models\ProofRecord;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use Fulcrion\Core\Proofs\Proof;
use Illuminate\Database\UniqueConstraintViolationException;

/**
 * What people may do with a change, and when.
 */
final readonly class Changes
{
    public function __construct(private Ledger $ledger, private ChangeKinds $kinds)
    {
    }

    public function propose(Cluster $cluster, ?Finding $finding, Proposal $proposal, User $user): Change
    {
        $change = Change::query()->create([
            'finding_id' => $finding?->id,
            'cluster_id' => $cluster->id,
            'object' => $proposal->object,
            'title' => mb_strcut($proposal->title, 0, 300),
            'kind' => $proposal->kind,
            'sealed_steps' => $proposal->steps,
            'inverse' => $proposal->inverse->kind,
            'sealed_inverse' => $proposal->inverse->statements,
            'workload' => $proposal->workload,
            'state' => ChangeState::Proposed,
            'asked_us' => Clock::microseconds(),
            'asked_by' => $user->name,
            'asked_by_id' => $user->id,
            'expected' => [
                'savedUs' => $proposal->savedUs,
                'savedBytes' => $proposal->savedBytes,
                'costUs' => $proposal->costUs,
                'costBytes' => $proposal->costBytes,
                'worse' => $proposal->worse,
                'definition' => $proposal->rebuild?->definition->toArray(),
                'before' => $proposal->rebuild?->before->toArray(),
                'statement' => $proposal->statement,
            ],
        ]);
        $change->refresh();
        $this->kinds->executor($change->kind)->prepare($change, $proposal);
        if ($finding !== null && $finding->state === FindingState::Open) {
            $finding->update(['state' => FindingState::Accepted, 'decided_by' => $user->name, 'changed_us' => Clock::microseconds()]);
        }
        $this->ledger->record($user, 'proposed a change', self::label($change), ['cluster' => $cluster->slug, 'finding' => $finding?->id]);

        return $change;
    }

    /**
     * @param  list<array{id: string, executions: float}>  $workload
     */
    public function choose(Change $change, array $workload, float $copyShare, ?int $rehearseOn = null): void
    {
        if ($change->doing !== null || ! $change->state->isOpen()) {
            throw new Refused('The statements can be chosen only before a change is approved, and while nothing runs.');
        }
        $change->update([
            'workload' => $workload,
            'copy_share' => max(0.01, min(1.0, $copyShare)),
            'rehearse_on_id' => $rehearseOn === $change->cluster_id ? null : $rehearseOn,
        ]);
        $executor = $this->kinds->executor($change->kind);
        if ($executor instanceof EstimatesRehearsal) {
            $executor->estimate($change->refresh());
        }
    }

    /** @throws Refused */
    public function rehearse(Change $change, User $user): void
    {
        if (! ChangeAction::Rehearse->mayBeginIn($change->state)) {
            throw new Refused("This change is {$change->state->value}; only a proposed one is rehearsed.");
        }
        $this->start($change, ChangeAction::Rehearse, $user, null);
    }

    /** Takes what was measured elsewhere, on copies, for the rehearsal. */
    public function rehearsedElsewhere(Change $change, Proof $proof, string $by, string $where): void
    {
        ProofRecord::keep($change, 'rehearsal', $proof, $by, ['where' => $where]);
        $change->enter(ChangeState::Rehearsed, $by);
    }

    /** @throws Refused */
    public function approve(Change $change, User $user): void
    {
        if ($change->state === ChangeState::Approved && $change->doing === null) {
            // Sent twice: it is approved already.
            return;
        }
        if ($change->needsAnother($user)) {
            throw new Refused(
                'Here a change is approved by somebody else than who asked for it. Send a colleague the address of this page.',
            );
        }
        if ($change->state !== ChangeState::Rehearsed || $change->doing !== null) {
            throw new Refused('A change is approved after it was rehearsed.');
        }
        if ($change->latestProof('rehearsal')?->holds !== true) {
            throw new Refused(
                'The rehearsal failed for a statement or changed a result. Look at its proof, drop what cannot be run, and rehearse again.',
            );
        }
        // Only one of two that come at the same moment.
        $first =
            Change::query()
                ->whereKey($change->id)
                ->where('state', ChangeState::Rehearsed)
                ->update(['state' => ChangeState::Approved, 'approved_us' => Clock::microseconds(), 'approved_by' => $user->name]) > 0;
        $change->refresh();
        if ($first) {
            $this->ledger->record($user, 'approved a change', self::label($change));
        }
    }

    /** @throws Refused */
    public function apply(Change $change, User $user, bool $now = false): void
    {
        if ($change->state === ChangeState::Applied || $change->doing === ChangeAction::Apply) {
            // Sent twice: it is applied, or being applied, already.
            return;
        }
        if (! ChangeAction::Apply->mayBeginIn($change->state)) {
            throw new Refused('A change is applied after it was approved.');
        }
        $this->start($change, ChangeAction::Apply, $user, $change->object, $now);
    }

    /** @throws Refused */
    public function undo(Change $change, User $user): void
    {
        if (! $change->canBeUndone()) {
            throw new Refused(
                ChangeAction::Undo->mayBeginIn($change->state) && $change->doing === null
                    ? 'This change has no inverse.'
                    : 'Only an applied change can be undone.',
            );
        }
        $later = Change::query()
            ->where('cluster_id', $change->cluster_id)
            ->where('object', $change->object)
            ->where('state', ChangeState::Applied)
            ->where('inverse', InverseKind::Layout)
            ->where('applied_us', '>', $change->applied_us)
            ->first();
        if ($later !== null) {
            throw new Refused("Change {$later->id} changed the layout of the table after this one; undo that first.");
        }
        $this->start($change, ChangeAction::Undo, $user, $change->object);
    }

    public function stop(Change $change, User $user): void
    {
        $action = $change->doing;
        if ($action !== null) {
            $change->askToStop();
            $this->ledger->record($user, 'asked to stop '.$action->value, self::label($change));
        }
    }

    public static function label(Change $change): string
    {
        return "change {$change->id}: {$change->title}";
    }

    /** @param  bool  $now whether this process does it, as long work that is in the queue already */
    private function start(Change $change, ChangeAction $action, User $user, ?string $object, bool $now = false): void
    {
        if ($change->doing !== null) {
            throw new Refused("Somebody is {$change->doing->value} this change already.");
        }
        try {
            // The claim is a unique key: of two people one gets it, on whichever server.
            $claimed = Change::query()
                ->whereKey($change->id)
                ->where('doing', '')
                ->update([
                    'doing' => $action->value,
                    'claim' => $object === null ? null : mb_strcut("{$change->cluster_id}:{$object}", 0, 190),
                    'progress' => Change::QUEUED,
                    'done_share' => 0,
                    'step' => 0,
                    'acting_id' => $user->id,
                    'heartbeat_us' => Clock::microseconds(),
                    'stop_asked' => false,
                    'error' => null,
                ]);
        } catch (UniqueConstraintViolationException) {
            $other = Change::query()->where('cluster_id', $change->cluster_id)->where('object', $object)->where('claim', '!=', '')->first();
            throw new Refused('Change '.($other->id ?? '?').' is being worked on and has the same table. Wait until it is through.');
        }
        if ($claimed === 0) {
            throw new Refused('Somebody else was faster; look again.');
        }
        $this->ledger->record($user, $action->asked(), self::label($change));
        if ($now) {
            RunChange::dispatchSync($change->id, $action->value, $user->name);

            return;
        }
        // What closes a door must not wait until a table is rewritten.
        RunChange::dispatch($change->id, $action->value, $user->name)->onQueue(
            $this->kinds->of($change->kind)->urgent ? 'interactive' : 'default',
        );
    }
}
