<?php

declare(strict_types=1);

namespace App\Access\Models;

use App\Estate\Models\Cluster;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * @property int $id
 * @property int $at_us
 * @property int $cluster_id
 * @property string $subject
 * @property string $asked_by
 * @property string $source
 * @property int $version
 * @property bool $draft
 * @property string $outcome
 * @property string $fingerprint
 * @property string $statement without literals
 * @property string|null $sealed_rewritten
 * @property string|null $sealed_error what the cluster said, with the values it speaks of
 * @property list<string> $tables
 * @property list<array{text: string, weight: string, inner: list<mixed>}> $sealed_reasons
 * @property-read Cluster $cluster
 */
final class DecisionRecord extends Model
{
    public $timestamps = false;

    protected $table = 'access_decisions';

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return [
            'draft' => 'bool',
            'tables' => 'array',
            'sealed_rewritten' => 'encrypted',
            'sealed_error' => 'encrypted',
            'sealed_reasons' => 'encrypted:array',
        ];
    }

    /**
     * @return BelongsTo<Cluster, $this>
     */
    public function cluster(): BelongsTo
    {
        return $this->belongsTo(Cluster::class);
    }
}
