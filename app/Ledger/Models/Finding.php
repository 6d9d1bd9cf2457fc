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
 * @property string $object schema.table, schema.table#fingerprint, statement:fingerprint, job:name or user:name
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
    /** Evidence that quotes statements with their values. */
    public const LITERAL = ['filter', 'said as a span'];

    public const STATES = ['open', 'accepted', 'waived', 'solved'];

    public $timestamps = false;

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return [
            'act' => 'bool',
            'evidence' => 'encrypted:array',
            'sealed_statements' => 'encrypted:array',
            'weight_us' => 'float',
            'weight_bytes' => 'float',
        ];
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

    /** The table it is about; empty where it is about a statement or a person. */
    public function table(): string
    {
        return str_contains($this->object, ':') ? '' : explode('#', $this->object)[0];
    }

    /** The statement it is about. */
    public function statement(): ?string
    {
        return preg_match('~[#:]([0-9a-f]{32})$~', $this->object, $match) === 1 ? $match[1] : null;
    }

    /** Its object for people. */
    public function shown(): string
    {
        return match (true) {
            str_starts_with($this->object, 'statement:') => 'statement '.substr($this->object, 10, 8),
            str_starts_with($this->object, 'job:') => substr($this->object, 4),
            str_starts_with($this->object, 'user:') => substr($this->object, 5),
            default => preg_replace('~#([0-9a-f]{8})[0-9a-f]{24}$~', ', statement $1', $this->object) ?? $this->object,
        };
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
     * @return Builder<self>
     */
    public static function waiting(): Builder
    {
        $query = self::query();
        $query
            ->whereIn('state', ['open', 'accepted'])
            ->orderByDesc('act')
            ->orderByDesc('weight_us')
            ->orderByDesc('weight_bytes')
            ->orderBy('id');

        return $query;
    }
}
