<?php

declare(strict_types=1);

namespace App\Telemetry\Models;

use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Telemetry\Sources\Format;
use Illuminate\Database\Eloquent\Concerns\HasUlids;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Support\Carbon;

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
 * @property Carbon|null $heartbeat_at
 * @property Carbon|null $ended_at
 * @property Carbon $created_at
 * @property Cluster $cluster
 * @property User|null $user
 */
final class Import extends Model
{
    use HasUlids;

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
            'heartbeat_at' => 'datetime',
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

    public function isOver(): bool
    {
        return in_array($this->state, ['done', 'stopped', 'failed'], true);
    }

    /** Running by its own account, yet silent for two minutes: its process is gone. */
    public function isBrokenOff(): bool
    {
        return $this->state === 'running' && $this->heartbeat_at !== null && $this->heartbeat_at->diffInSeconds(Clock::now()) > 120;
    }

    public function recordsPerSecond(): ?float
    {
        $end = $this->ended_at ?? $this->heartbeat_at;
        $seconds = $this->started_at !== null && $end !== null ? $this->started_at->diffInMicroseconds($end) / 1e6 : 0.0;

        return $seconds > 0 ? ($this->accepted + $this->repeated + $this->rejected) / $seconds : null;
    }

    public function progress(): float
    {
        return $this->bytes_total > 0 ? min(1.0, $this->bytes_read / $this->bytes_total) : 0.0;
    }
}
