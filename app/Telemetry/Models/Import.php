<?php

declare(strict_types=1);

namespace App\Telemetry\Models;

use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Platform\Runs\BackgroundRun;
use App\Platform\Runs\Foreseen;
use App\Platform\Runs\Progress;
use App\Platform\Runs\RunsInBackground;
use App\Platform\Runs\RunStopped;
use App\Platform\Support\Clock;
use App\Telemetry\Sources\Format;
use Closure;
use Illuminate\Database\Eloquent\Concerns\HasUlids;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Support\Carbon;
use Throwable;

/**
 * @property string $id
 * @property int $cluster_id
 * @property int|null $user_id
 * @property string $file_name
 * @property string|null $path
 * @property Format $format
 * @property array<string, array{column: string, unit: string}>|null $columns
 * @property string $state mapping, waiting, running, done, stopped or failed
 * @property int $bytes_total
 * @property int $bytes_read
 * @property int $accepted
 * @property int $rejected
 * @property int $repeated
 * @property bool $stop_asked
 * @property string|null $error
 * @property int|null $first_us
 * @property int|null $last_us
 * @property Carbon|null $started_at
 * @property int $heartbeat_us 0 before it began
 * @property Carbon|null $ended_at
 * @property Carbon $created_at
 * @property Cluster $cluster
 * @property User|null $user
 */
final class Import extends Model implements BackgroundRun
{
    use HasUlids;
    use RunsInBackground;

    public const UPDATED_AT = null;

    protected $guarded = ['id'];

    protected $dateFormat = 'Y-m-d H:i:s.u';

    protected function casts(): array
    {
        return [
            'format' => Format::class,
            'columns' => 'array',
            'stop_asked' => 'bool',
            'started_at' => 'datetime',
            'ended_at' => 'datetime',
            'created_at' => 'datetime',
        ];
    }

    /** @return BelongsTo<Cluster, $this> */
    public function cluster(): BelongsTo
    {
        return $this->belongsTo(Cluster::class);
    }

    /** @return BelongsTo<User, $this> */
    public function user(): BelongsTo
    {
        return $this->belongsTo(User::class);
    }

    public function recordsPerSecond(): ?float
    {
        $endUs = $this->ended_at === null ? $this->heartbeat_us : (int) $this->ended_at->getPreciseTimestamp();
        $seconds = $this->started_at === null ? 0.0 : ($endUs - (int) $this->started_at->getPreciseTimestamp()) / 1e6;

        return $seconds > 0 ? ($this->accepted + $this->repeated + $this->rejected) / $seconds : null;
    }

    public function progress(): float
    {
        return $this->bytes_total > 0 ? min(1.0, $this->bytes_read / $this->bytes_total) : 0.0;
    }

    /** How far it has come stands with what was read. */
    public function tell(string $what, float $share, int $step = 0): void
    {
        $this->heartbeat();
    }

    public function carryOut(Closure $work): void
    {
        $begun = ['started_at' => Clock::now(), 'heartbeat_us' => Clock::microseconds()];
        $this->forceFill(['state' => 'running', 'error' => null] + $begun)->save();
        try {
            $this->forceFill($work(new Progress($this)) + ['state' => 'done', 'ended_at' => Clock::now()])->save();
        } catch (Throwable $error) {
            $this->forceFill([
                'state' => $error instanceof RunStopped ? 'stopped' : 'failed',
                'error' => $error instanceof RunStopped ? null : mb_strcut(mb_scrub($error->getMessage(), 'UTF-8'), 0, 2000),
                'ended_at' => Clock::now(),
            ])->save();
            if (! ($error instanceof Foreseen)) {
                throw $error;
            }
        }
    }
}
