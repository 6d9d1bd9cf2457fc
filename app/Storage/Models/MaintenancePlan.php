<?php

declare(strict_types=1);

namespace App\Storage\Models;

use App\Estate\Models\Cluster;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * What is done for a table without being asked, and when.
 *
 * @property int $id
 * @property int $cluster_id
 * @property string $object schema.table
 * @property list<string> $acts compact, sort, statistics, expire, sweep
 * @property string|null $cron null: when needed
 * @property array{small?: float, depth?: float, changed?: float} $thresholds
 * @property int $expire_days
 * @property int $keep
 * @property int $hours_from UTC
 * @property int $hours_to
 * @property bool $paused
 * @property int|null $checked_us
 * @property string $made_by
 * @property-read Cluster $cluster
 */
final class MaintenancePlan extends Model
{
    public const ACTS = [
        'compact' => 'compact small chunks',
        'sort' => 'sort what is out of order',
        'statistics' => 'collect statistics',
        'expire' => 'expire old versions',
        'sweep' => 'sweep files of no version',
    ];

    public const THRESHOLDS = ['small' => 0.5, 'depth' => 4.0, 'changed' => 0.2];

    public $timestamps = false;

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return ['acts' => 'array', 'thresholds' => 'array', 'paused' => 'bool'];
    }

    /**
     * @return BelongsTo<Cluster, $this>
     */
    public function cluster(): BelongsTo
    {
        return $this->belongsTo(Cluster::class);
    }
}
