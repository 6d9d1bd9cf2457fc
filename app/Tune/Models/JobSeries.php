<?php

declare(strict_types=1);

namespace App\Tune\Models;

use App\Estate\Models\Cluster;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * A job that runs again and again, and what is wanted of it.
 *
 * @property int $id
 * @property int $cluster_id
 * @property string $name
 * @property string $aim one of AIMS
 * @property string|null $deadline time of day in UTC
 * @property float|null $budget of one run
 * @property int|null $next_workers
 * @property int|null $pinned_change_id
 * @property array<string, mixed>|null $plan how a practice cluster runs it
 * @property string|null $runs_at time of day in UTC
 * @property float $growth of what is to be read, in a week
 * @property-read Cluster $cluster
 */
final class JobSeries extends Model
{
    public const AIMS = ['cheapest' => 'as cheap as can be', 'knee' => 'best value', 'deadline' => 'in time', 'budget' => 'within a sum', 'ceiling' => 'as fast as can be'];

    public $timestamps = false;

    protected $table = 'job_series';

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return ['plan' => 'array', 'budget' => 'float', 'growth' => 'float'];
    }

    /**
     * @return BelongsTo<Cluster, $this>
     */
    public function cluster(): BelongsTo
    {
        return $this->belongsTo(Cluster::class);
    }

    /**
     * @return HasMany<JobRun, $this>
     */
    public function runs(): HasMany
    {
        return $this->hasMany(JobRun::class, 'series_id');
    }
}
