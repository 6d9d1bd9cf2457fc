<?php

declare(strict_types=1);

namespace App\Ledger\Models;

use App\Estate\Models\Cluster;
use App\Ledger\Changes\ChangeAction;
use App\Ledger\Changes\ChangeKind;
use App\Ledger\Changes\ChangeKinds;
use App\Ledger\Changes\ChangeState;
use App\Ledger\Changes\InverseKind;
use App\Ledger\Findings\Worth;
use App\Platform\Models\User;
use App\Platform\Runs\BackgroundRun;
use App\Platform\Runs\RunsInBackground;
use App\Platform\Support\Clock;
use Fulcrion\Core\Storage\TableDefinition;
use Illuminate\Database\Eloquent\Casts\Attribute;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Illuminate\Database\Eloquent\SoftDeletingScope;

/**
 * @phpstan-import-type DefinitionArray from TableDefinition
 *
 * @property int $id
 * @property int|null $finding_id
 * @property int $cluster_id
 * @property string $object schema.table
 * @property string $title
 * @property string $kind name of a registered ChangeKind
 * @property list<string> $sealed_steps
 * @property InverseKind $inverse
 * @property list<string> $sealed_inverse
 * @property array{savedUs: float, savedBytes: float, costUs: float, costBytes: float, worse: list<string>,
 *     definition: DefinitionArray|null, before: DefinitionArray|null, statement: string, job?: array<string, mixed>,
 *     rehearsal?: array{tableRows: int, rowBytes: float, copyUsPerByte: float, buildUsPerRow: float, rehearsals: int}} $expected
 * @property list<array{id: string, executions: float}> $workload
 * @property float $copy_share
 * @property int|null $rehearse_on_id the cluster it is rehearsed on, where that is another one
 * @property ChangeState $state
 * @property ChangeAction|null $doing what a worker is at
 * @property string|null $claim
 * @property string $progress
 * @property float $done_share
 * @property int $step
 * @property int|null $heartbeat_us
 * @property bool $stop_asked
 * @property string|null $error
 * @property string|null $kept_table
 * @property int|null $grace_until_us
 * @property int|null $version_before
 * @property int|null $version_after
 * @property string|null $checksum_before
 * @property string|null $checksum_after
 * @property int $asked_us
 * @property string $asked_by
 * @property int|null $asked_by_id
 * @property int|null $acting_id the person what is being done, or was done last, was asked by
 * @property int|null $rehearsed_us
 * @property string|null $rehearsed_by
 * @property int|null $approved_us
 * @property string|null $approved_by
 * @property int|null $applied_us
 * @property string|null $applied_by
 * @property int|null $undone_us
 * @property string|null $undone_by
 * @property int|null $failed_us
 * @property string|null $failed_by
 * @property-read Cluster $cluster
 * @property-read Cluster|null $rehearseOn
 * @property-read Finding|null $finding
 */
final class Change extends Model implements BackgroundRun
{
    use RunsInBackground;

    public const QUEUED = 'waiting for a worker';

    public $timestamps = false;

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return [
            'sealed_steps' => 'encrypted:array',
            'sealed_inverse' => 'encrypted:array',
            'state' => ChangeState::class,
            'inverse' => InverseKind::class,
            'expected' => 'array',
            'workload' => 'array',
            'stop_asked' => 'bool',
            'copy_share' => 'float',
            'done_share' => 'float',
        ];
    }

    /**
     * @return BelongsTo<Cluster, $this>
     */
    public function cluster(): BelongsTo
    {
        $relation = $this->belongsTo(Cluster::class);
        // Also of one that was removed since.
        $relation->withoutGlobalScope(SoftDeletingScope::class);

        return $relation;
    }

    /**
     * @return BelongsTo<Cluster, $this>
     */
    public function rehearseOn(): BelongsTo
    {
        return $this->belongsTo(Cluster::class, 'rehearse_on_id');
    }

    /**
     * @return BelongsTo<Finding, $this>
     */
    public function finding(): BelongsTo
    {
        return $this->belongsTo(Finding::class);
    }

    /**
     * @return HasMany<ProofRecord, $this>
     */
    public function proofs(): HasMany
    {
        return $this->hasMany(ProofRecord::class);
    }

    public function latestProof(string $kind): ?ProofRecord
    {
        /** @var ProofRecord|null $proof */
        $proof = ProofRecord::query()->where('change_id', $this->id)->where('kind', $kind)->orderByDesc('id')->first();

        return $proof;
    }

    public function kind(): ChangeKind
    {
        return app(ChangeKinds::class)->of($this->kind);
    }

    /** Whether somebody else has to approve it, where two pairs of eyes are wanted and its kind is one for them. */
    public function needsAnother(User $user): bool
    {
        return config('fulcrion.second_pair') === true && $this->asked_by_id === $user->id && $this->kind()->secondPerson;
    }

    /** Says that it has come to a state, when and by whom. */
    public function enter(ChangeState $state, string $by): void
    {
        $this->update(['state' => $state, "{$state->value}_us" => Clock::microseconds(), "{$state->value}_by" => $by]);
    }

    /**
     * @return Attribute<?ChangeAction, ?ChangeAction>
     */
    protected function doing(): Attribute
    {
        return Attribute::make(
            get: static fn (?string $value): ?ChangeAction => ChangeAction::tryFrom((string) $value),
            set: static fn (?ChangeAction $value): string => $value->value ?? '',
        );
    }

    public function isAtWork(): bool
    {
        return $this->doing !== null && $this->progress !== self::QUEUED;
    }

    public function tell(string $what, float $share, int $step = 0): void
    {
        $this->update([
            'progress' => mb_strcut($what, 0, 300),
            'done_share' => $share,
            'step' => $step,
            'heartbeat_us' => Clock::microseconds(),
        ]);
    }

    protected function patienceUs(): int
    {
        return 90_000_000;
    }

    public function canBeUndone(): bool
    {
        return $this->state === ChangeState::Applied && $this->doing === null && $this->inverse !== InverseKind::None;
    }

    /** What it is expected to save, in money a month; empty where that cannot be told. */
    public function worth(): string
    {
        $us = (float) $this->expected['savedUs'];

        return $us <= 0 || ! $this->kind()->measured ? '' : app(Worth::class)->saved($this->cluster, $us);
    }

    public function mark(): string
    {
        return match ($this->state) {
            ChangeState::Applied => $this->latestProof('applied')?->holds === false ? 'act' : 'calm',
            ChangeState::Failed => 'act',
            ChangeState::Undone => 'none',
            default => 'watch',
        };
    }
}
