<?php

declare(strict_types=1);

namespace App\Ledger\Models;

use App\Estate\Models\Cluster;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * @property int $id
 * @property int $cluster_id
 * @property string $bench
 * @property string $rule
 * @property string $object schema.table, or schema.table#fingerprint
 * @property string $digest
 * @property bool $act
 * @property string $problem
 * @property list<array{string, string}> $evidence
 * @property float $weight_us modelled, a week
 * @property float $weight_bytes
 * @property string $remedy
 * @property array{steps?: list<string>, inverse?: list<string>}|null $sealed_statements
 * @property string $state open, accepted, waived or solved
 * @property string|null $reason
 * @property string|null $decided_by
 * @property int|null $waived_until_us
 * @property int $first_us
 * @property int $last_us
 * @property int $changed_us
 * @property int|null $solved_us
 * @property-read Cluster $cluster
 */
final class Finding extends Model
{
    public const STATES = ['open', 'accepted', 'waived', 'solved'];

    public $timestamps = false;

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return ['act' => 'bool', 'evidence' => 'array', 'sealed_statements' => 'encrypted:array', 'weight_us' => 'float', 'weight_bytes' => 'float'];
    }

    /**
     * @return BelongsTo<Cluster, $this>
     */
    public function cluster(): BelongsTo
    {
        return $this->belongsTo(Cluster::class);
    }

    /**
     * @return HasMany<Change, $this>
     */
    public function changes(): HasMany
    {
        return $this->hasMany(Change::class);
    }

    /** The table it is about. */
    public function table(): string
    {
        return explode('#', $this->object)[0];
    }

    public function mark(): string
    {
        return match (true) {
            $this->state === 'solved' => 'calm',
            $this->state === 'waived' => 'none',
            default => $this->act ? 'act' : 'watch',
        };
    }

    /**
     * Those that need somebody, most weight first.
     *
     * @param  Builder<self>  $query
     */
    public function scopeWaiting(Builder $query): void
    {
        $query->whereIn('state', ['open', 'accepted'])->orderByDesc('act')->orderByDesc('weight_us')->orderByDesc('weight_bytes')->orderBy('id');
    }
}
