<?php

declare(strict_types=1);

namespace App\Baseline\Models;

use App\Estate\Models\Cluster;
use App\Platform\Runs\BackgroundRun;
use App\Platform\Runs\RunsInBackground;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * What the hardware of one host was measured to do, or is being measured.
 *
 * @property int $id
 * @property int $cluster_id
 * @property string $host
 * @property array{kind: string, seconds: int, spaceBytes: int, load: float, partner: string} $plan kind is own, agent, serve or practice
 * @property string $state asked (its agent has to come by), sent (its agent knows), waiting, running, done, stopped or failed
 * @property string|null $outcome complete, broken off or refused
 * @property int|null $at Unix second it was measured
 * @property array<string, float>|null $values by resource
 * @property list<string>|null $notes
 * @property string $progress
 * @property float $done_share
 * @property bool $stop_asked
 * @property string|null $error
 * @property int $asked_us
 * @property string $asked_by
 * @property int $heartbeat_us
 * @property-read Cluster $cluster
 */
final class BaselineRun extends Model implements BackgroundRun
{
    use RunsInBackground;

    public $timestamps = false;

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return ['plan' => 'array', 'values' => 'array', 'notes' => 'array', 'stop_asked' => 'bool', 'done_share' => 'float'];
    }

    /**
     * @return BelongsTo<Cluster, $this>
     */
    public function cluster(): BelongsTo
    {
        return $this->belongsTo(Cluster::class);
    }
}
