<?php

declare(strict_types=1);

namespace App\Jobs\Models;

use App\Estate\Models\Cluster;
use App\Platform\Runs\BackgroundRun;
use App\Platform\Runs\RunsInBackground;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * One run of a parallel job, or a record of one that is being read.
 *
 * @property int $id
 * @property int $cluster_id
 * @property int|null $series_id
 * @property string $external_id
 * @property string $name
 * @property string $owner
 * @property string $state reading, refused, stopped, running, done or failed
 * @property int $submitted_us -1 where not known, as all times
 * @property int $started_us
 * @property int $ended_us
 * @property int $deadline_us
 * @property int $workers 0 where not known
 * @property float|null $price of one worker for an hour
 * @property string $currency
 * @property string|null $script
 * @property list<array{id: string, name: string, after: list<string>, input: string, lines: array{int, int}}>|null $stages
 * @property list<string>|null $worker_names
 * @property int $tasks
 * @property bool $kept
 * @property bool $modelled
 * @property list<string>|null $problems
 * @property int $work_us
 * @property int $input_bytes
 * @property float $idle_share
 * @property int|null $predicted_us from the run before
 * @property float|null $prediction_error
 * @property int|null $best_workers
 * @property float|null $best_saves money, or worker hours where no price is known
 * @property array<string, mixed>|null $analysis
 * @property array<string, mixed>|null $forecast
 * @property string $file_name
 * @property string|null $path
 * @property string $progress
 * @property float $done_share
 * @property bool $stop_asked
 * @property int $asked_us
 * @property string $asked_by
 * @property int $heartbeat_us
 * @property-read Cluster $cluster
 * @property-read JobSeries|null $series
 */
final class JobRun extends Model implements BackgroundRun
{
    use RunsInBackground;

    /** A run of more tasks is judged in the queue. */
    public const AT_ONCE = 20_000;

    /** Progress of a run that was read and is not judged yet. */
    public const JUDGED = 'being judged';

    /** Progress of a record nobody has begun to read. */
    public const QUEUED = 'waiting for a worker';

    public $timestamps = false;

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return [
            'stages' => 'array',
            'worker_names' => 'array',
            'problems' => 'array',
            'analysis' => 'array',
            'forecast' => 'array',
            'price' => 'float',
            'idle_share' => 'float',
            'done_share' => 'float',
            'prediction_error' => 'float',
            'best_saves' => 'float',
            'stop_asked' => 'bool',
            'kept' => 'bool',
            'modelled' => 'bool',
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
     * @return BelongsTo<JobSeries, $this>
     */
    public function series(): BelongsTo
    {
        return $this->belongsTo(JobSeries::class, 'series_id');
    }

    /** Being read or judged; what a job itself is at is its cluster's business. */
    public function isAtWork(): bool
    {
        return ($this->state === 'reading' && $this->progress !== self::QUEUED) ||
            ($this->analysis === null && $this->progress === self::JUDGED);
    }

    protected function patienceUs(): int
    {
        return 180_000_000;
    }

    public function isReading(): bool
    {
        return $this->state === 'reading' && ! $this->isSilent();
    }

    public function isBeingJudged(): bool
    {
        return $this->analysis === null && $this->progress === self::JUDGED && ! $this->isSilent();
    }

    public function isRun(): bool
    {
        return in_array($this->state, ['running', 'done', 'failed'], true);
    }

    public function elapsedUs(): int
    {
        return $this->started_us < 0 || $this->ended_us < 0 ? 0 : $this->ended_us - $this->started_us;
    }

    public function workerHours(): float
    {
        return $this->workers * ($this->elapsedUs() / 3.6e9);
    }

    /** What was paid; worker hours where no price is known. */
    public function cost(): float
    {
        return $this->workerHours() * ($this->price ?? 1.0);
    }

    /** Null where there is no deadline or no end yet. */
    public function isLate(): ?bool
    {
        return $this->deadline_us < 0 || $this->ended_us < 0 ? null : $this->ended_us > $this->deadline_us;
    }

    public function mark(): string
    {
        return match (true) {
            in_array($this->state, ['failed', 'refused'], true) => 'act',
            $this->state === 'stopped' => 'no data',
            $this->state === 'done' => $this->isLate() === true ? 'act' : 'calm',
            default => 'watch',
        };
    }
}
