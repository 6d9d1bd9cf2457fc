<?php

declare(strict_types=1);

namespace App\Jobs\Models;

use App\Estate\Models\Cluster;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;
use Illuminate\Support\Facades\DB;
use stdClass;

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
    public const AIMS = [
        'cheapest' => 'as cheap as can be',
        'knee' => 'best value',
        'deadline' => 'in time',
        'budget' => 'within a sum',
        'ceiling' => 'as fast as can be',
    ];

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

    /** Its last run that is over. */
    public function last(): ?JobRun
    {
        /** @var JobRun|null $run */
        $run = $this->runs()
            ->whereIn('state', ['done', 'failed'])
            ->orderByDesc('started_us')
            ->first();

        return $run;
    }

    /** The last run before another one that was done and of which the tasks are kept. */
    public function before(JobRun $run): ?JobRun
    {
        /** @var JobRun|null $before */
        $before = $this->runs()
            ->where('id', '!=', $run->id)
            ->where('state', 'done')
            ->where('kept', true)
            ->where('started_us', '<=', $run->started_us)
            ->orderByDesc('started_us')
            ->first();

        return $before;
    }

    /**
     * @return list<array{int, int, int}> moment, worker time and input of runs that were done, oldest first
     */
    public function history(int $untilUs = PHP_INT_MAX): array
    {
        $rows = DB::table('job_runs')
            ->where('series_id', $this->id)
            ->where('state', 'done')
            ->where('input_bytes', '>', 0)
            ->where('started_us', '<=', $untilUs)
            ->orderBy('started_us')
            ->get(['started_us', 'work_us', 'input_bytes'])
            ->all();

        return array_map(
            static fn (stdClass $run): array => [(int) $run->started_us, (int) $run->work_us, (int) $run->input_bytes],
            array_values($rows),
        );
    }

    /**
     * @return HasMany<JobRun, $this>
     */
    public function runs(): HasMany
    {
        return $this->hasMany(JobRun::class, 'series_id');
    }
}
