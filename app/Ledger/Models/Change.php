<?php

declare(strict_types=1);

namespace App\Ledger\Models;

use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * @property int $id
 * @property int|null $finding_id
 * @property int $cluster_id
 * @property string $object schema.table
 * @property string $title
 * @property string $kind rebuild, maintain, statistics, rewrite, prepare, index, policy, access or workers
 * @property list<string> $sealed_steps
 * @property list<string> $sealed_inverse
 * @property array{savedUs: float, savedBytes: float, costUs: float, costBytes: float, worse: list<string>, definition: array<string, mixed>|null, before: array<string, mixed>|null, statement: string, job?: array<string, mixed>} $expected
 * @property list<array{id: string, executions: float}> $workload
 * @property float $copy_share
 * @property string $state proposed, rehearsed, approved, applied, undone or failed
 * @property string $doing rehearsing, applying, undoing or nothing
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
 * @property-read Finding|null $finding
 */
final class Change extends Model
{
    public const STATES = ['proposed', 'rehearsed', 'approved', 'applied', 'undone', 'failed'];

    public const REBUILD = 'rebuild';

    public const MAINTAIN = 'maintain';

    public const STATISTICS = 'statistics';

    public const REWRITE = 'rewrite';

    /** Rollups or lookups. */
    public const PREPARE = 'prepare';

    /** An index of a live server: tried on a copy, made on the table. */
    public const INDEX = 'index';

    /** A policy that was published: rehearsed, applied and proved by Guard in one act. */
    public const POLICY = 'policy';

    /** A policy written out to a server as its roles, grants and views. */
    public const ACCESS = 'access';

    /** How many workers the next run of a parallel job gets; proved by that run. */
    public const WORKERS = 'workers';

    /** Without a sign of life for so long its worker is taken for dead. */
    private const DEAD_US = 90_000_000;

    public $timestamps = false;

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return ['sealed_steps' => 'encrypted:array', 'sealed_inverse' => 'encrypted:array', 'expected' => 'array', 'workload' => 'array', 'stop_asked' => 'bool', 'copy_share' => 'float', 'done_share' => 'float'];
    }

    /**
     * @return BelongsTo<Cluster, $this>
     */
    public function cluster(): BelongsTo
    {
        return $this->belongsTo(Cluster::class);
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

    /** Whether somebody else has to approve it, where two pairs of eyes are wanted. What touches no table needs one. */
    public function needsAnother(User $user): bool
    {
        return config('fulcrion.second_pair') === true && $this->kind !== self::WORKERS && $this->asked_by_id === $user->id;
    }

    public function isDead(): bool
    {
        return $this->doing !== '' && ($this->heartbeat_us ?? 0) < Clock::microseconds() - self::DEAD_US;
    }

    public function canBeUndone(): bool
    {
        return $this->state === 'applied' && $this->doing === '' && ($this->kind === self::REBUILD || $this->sealed_inverse !== []);
    }

    public function mark(): string
    {
        return match ($this->state) {
            'applied' => $this->latestProof('applied')?->holds === false ? 'act' : 'calm',
            'failed' => 'act',
            'undone' => 'none',
            default => 'watch',
        };
    }

    /** Where the new table is built before it takes the name. */
    public function builtTable(): string
    {
        return "{$this->object}__new_{$this->id}";
    }
}
