<?php

declare(strict_types=1);

namespace App\Ledger\Models;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\EvidenceCast;
use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Severity;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * @property int $id
 * @property int $cluster_id
 * @property string $source name of the FindingSource
 * @property string $rule
 * @property string $object key of its subject
 * @property string $digest
 * @property Severity $severity
 * @property string $problem
 * @property list<Evidence> $evidence
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
        return [
            'severity' => Severity::class,
            'evidence' => EvidenceCast::class,
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

    public function subject(): FindingSubject
    {
        return FindingSubject::read($this->object);
    }

    public function source(): FindingSource
    {
        return app(FindingSources::class)->of($this->source);
    }

    public function mark(): string
    {
        return match (true) {
            $this->state === 'solved' => 'calm',
            $this->state === 'waived' => 'none',
            default => $this->severity->value,
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
            ->orderBy('severity')
            ->orderByDesc('weight_us')
            ->orderByDesc('weight_bytes')
            ->orderBy('id');

        return $query;
    }
}
