<?php

declare(strict_types=1);

namespace App\Ledger\Models;

use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\EvidenceCast;
use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Findings\FindingState;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use App\Ledger\Findings\WeightUnit;
use App\Ledger\Findings\Worth;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Illuminate\Database\Eloquent\SoftDeletingScope;

/**
 * @property int $id
 * @property int $cluster_id
 * @property string $source name of the FindingSource
 * @property string $rule
 * @property string $object key of its subject
 * @property string $digest
 * @property Severity $severity
 * @property bool $urgent whether somebody suffers from it at this moment
 * @property string $problem
 * @property list<Evidence> $evidence
 * @property float $weight in its unit
 * @property WeightUnit $weight_unit
 * @property float $spare_bytes read or stored for nothing
 * @property string $remedy
 * @property array{steps?: list<string>, inverse?: list<string>}|null $sealed_statements
 * @property FindingState $state
 * @property string|null $reason
 * @property string|null $decided_by
 * @property int|null $dismissed_until_us
 * @property int $first_us
 * @property int $last_us
 * @property int $changed_us
 * @property int|null $solved_us
 * @property-read Cluster $cluster
 */
final class Finding extends Model
{
    public $timestamps = false;

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return [
            'severity' => Severity::class,
            'urgent' => 'bool',
            'state' => FindingState::class,
            'evidence' => EvidenceCast::class,
            'sealed_statements' => 'encrypted:array',
            'weight' => 'float',
            'weight_unit' => WeightUnit::class,
            'spare_bytes' => 'float',
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

    public function weight(): Weight
    {
        return Weight::of($this->weight, $this->weight_unit);
    }

    /** In money a month; empty where no price tells it. */
    public function worth(): string
    {
        return app(Worth::class)->shown($this);
    }

    /** Zero where it weighs in another unit. */
    public function queryUs(): float
    {
        return $this->weight_unit === WeightUnit::QueryTime ? $this->weight : 0.0;
    }

    public function source(): FindingSource
    {
        return app(FindingSources::class)->of($this->source);
    }

    public function mark(): string
    {
        return match (true) {
            $this->state === FindingState::Solved => 'calm',
            $this->state === FindingState::Dismissed => 'none',
            default => $this->severity->value,
        };
    }

    /**
     * Those that need somebody: what is urgent, then by their weight.
     *
     * @return Builder<self>
     */
    public static function waiting(): Builder
    {
        $query = self::query();
        $query->whereIn('state', FindingState::waiting());

        return self::heaviestFirst($query);
    }

    /**
     * What is to be acted on, what is urgent of it, then by weight.
     *
     * @param  Builder<self>  $query
     * @return Builder<self>
     */
    public static function heaviestFirst(Builder $query): Builder
    {
        $query->orderBy('severity')->orderByDesc('urgent')->orderByRaw(WeightUnit::order())->orderByDesc('weight')->orderBy('id');

        return $query;
    }

    /**
     * @return array<int, array<string, int>> cluster => severity => how many wait
     */
    public static function waitingByCluster(): array
    {
        $counts = [];
        foreach (
            self::query()
                ->toBase()
                ->whereIn('state', FindingState::waiting())
                ->groupBy('cluster_id', 'severity')
                ->selectRaw('cluster_id, severity, COUNT(*) AS n')
                ->get() as $row
        ) {
            $counts[(int) $row->cluster_id][(string) $row->severity] = (int) $row->n;
        }

        return $counts;
    }

    /** Time a week of statements in flight that all waiting findings cost. */
    public static function waitingQueryUs(): float
    {
        return (float) array_sum(self::waitingQueryUsByCluster());
    }

    /**
     * @return array<int, float> by cluster
     */
    public static function waitingQueryUsByCluster(): array
    {
        return self::query()
            ->toBase()
            ->whereIn('state', FindingState::waiting())
            ->where('weight_unit', WeightUnit::QueryTime)
            ->groupBy('cluster_id')
            ->selectRaw('cluster_id, SUM(weight) AS us')
            ->pluck('us', 'cluster_id')
            ->map(static fn (mixed $us): float => (float) $us)
            ->all();
    }
}
