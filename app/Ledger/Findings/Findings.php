<?php

declare(strict_types=1);

namespace App\Ledger\Findings;

use App\Estate\Models\Cluster;
use App\Ledger\Ledger;
use App\Ledger\Models\Finding;
use App\Ledger\Notifications\Notices;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use DateTimeImmutable;
use Illuminate\Support\Facades\DB;

/**
 * Keeps findings in step with what capabilities find, and with what people decide.
 */
final readonly class Findings
{
    public function __construct(private Ledger $ledger, private Notices $notices, private Causes $causes)
    {
    }

    /**
     * Takes what an audit found. What was not found any more is solved; what comes back is open again.
     *
     * @param  list<Reported>  $reported
     * @param  list<string>|null  $objects tables that were audited; null for all
     * @return array{new: int, solved: int, open: int}
     */
    public function reconcile(Cluster $cluster, string $source, array $reported, ?array $objects = null): array
    {
        $now = Clock::microseconds();
        [$new, $solved] = [[], []];
        DB::transaction(function () use ($cluster, $source, $reported, $objects, $now, &$new, &$solved): void {
            $seen = [];
            foreach ($reported as $one) {
                $digest = hash('xxh128', "{$cluster->id}|{$one->rule}|{$one->subject->key()}");
                $seen[$digest] = true;
                /** @var Finding $finding */
                $finding =
                    Finding::query()->where('digest', $digest)->lockForUpdate()->first() ??
                    new Finding([
                        'digest' => $digest,
                        'cluster_id' => $cluster->id,
                        'source' => $source,
                        'rule' => $one->rule,
                        'object' => $one->subject->key(),
                        'first_us' => $now,
                        'state' => FindingState::Open,
                        'changed_us' => $now,
                    ]);
                $until = $finding->state === FindingState::Dismissed ? $finding->dismissed_until_us : null;
                if ($until !== null && $until < $now) {
                    $finding->fill(['state' => FindingState::Open, 'reason' => null, 'dismissed_until_us' => null, 'changed_us' => $now]);
                    $this->ledger->record(null, 'dismissal ended', "finding {$finding->id}: {$finding->rule} of {$finding->object}", [
                        'cluster' => $cluster->slug,
                    ]);
                }
                $fresh = ! $finding->exists || $finding->state === FindingState::Solved;
                $finding->fill([
                    'severity' => $one->severity,
                    'urgent' => $one->urgent,
                    'problem' => $one->problem,
                    'evidence' => $one->evidence,
                    'weight' => $one->weight->value,
                    'weight_unit' => $one->weight->unit,
                    'spare_bytes' => $one->spareBytes,
                    'remedy' => $one->remedy,
                    'sealed_statements' => ['steps' => $one->statements, 'inverse' => $one->inverse],
                    'last_us' => $now,
                ]);
                if ($fresh) {
                    $finding->fill(['state' => FindingState::Open, 'solved_us' => null, 'changed_us' => $now, 'reason' => null]);
                }
                $finding->save();
                $this->causes->keep($finding, $one->byStatementUs);
                if ($fresh) {
                    $this->ledger->record(null, 'found', "finding {$finding->id}: {$finding->rule} of {$finding->object}", [
                        'cluster' => $cluster->slug,
                        'problem' => $one->problem,
                    ]);
                    $new[] = $finding;
                }
            }
            foreach (
                Finding::query()->where('cluster_id', $cluster->id)->where('source', $source)->where('state', '!=',
                    FindingState::Solved)->get() as $finding
            ) {
                if (! isset($seen[$finding->digest]) && ($objects === null || in_array($finding->subject()->table(), $objects, true))) {
                    $finding->update(['state' => FindingState::Solved, 'solved_us' => $now, 'changed_us' => $now]);
                    $this->ledger->record(null, 'solved', "finding {$finding->id}: {$finding->rule} of {$finding->object}", [
                        'cluster' => $cluster->slug,
                    ]);
                    $solved[] = $finding;
                }
            }
        });
        $this->notices->tell($cluster, $new, $solved);

        return ['new' => count($new), 'solved' => count($solved), 'open' => count($reported)];
    }

    public function accept(Finding $finding, User $user): void
    {
        $this->decide($finding, $user, FindingState::Accepted, null, null);
    }

    public function dismiss(Finding $finding, User $user, string $reason, DateTimeImmutable $until): void
    {
        $this->decide($finding, $user, FindingState::Dismissed, $reason, $until->getTimestamp() * 1_000_000);
    }

    public function reopen(Finding $finding, User $user): void
    {
        $this->decide($finding, $user, FindingState::Open, null, null);
    }

    private function decide(Finding $finding, User $user, FindingState $state, ?string $reason, ?int $untilUs): void
    {
        $finding->update([
            'state' => $state,
            'reason' => $reason,
            'dismissed_until_us' => $untilUs,
            'decided_by' => $user->name,
            'changed_us' => Clock::microseconds(),
        ]);
        $this->ledger->record(
            $user,
            match ($state) {
                FindingState::Accepted => 'accepted a finding',
                FindingState::Dismissed => 'dismissed a finding',
                default => 'opened a finding again',
            },
            "finding {$finding->id}: {$finding->rule} of {$finding->object}",
            ['reason' => $reason] + ($untilUs === null ? [] : ['until' => gmdate('Y-m-d', intdiv($untilUs, 1_000_000))]),
        );
    }
}
