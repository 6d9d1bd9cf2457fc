<?php

declare(strict_types=1);

namespace App\Loading\Models;

use App\Estate\Models\Cluster;
use App\Platform\Runs\BackgroundRun;
use App\Platform\Runs\RunsInBackground;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * Files that are brought for real, with several numbers of streams.
 *
 * @property int $id
 * @property int $cluster_id
 * @property array{files: int, least: int, most: int, from: string, to: string} $plan folders are empty where files are made up, and where
 *     they go to the inbox of the cluster
 * @property string $state waiting, running, done, stopped or failed
 * @property string $progress
 * @property float $done_share
 * @property bool $stop_asked
 * @property string|null $error
 * @property int $asked_us
 * @property string $asked_by
 * @property int $heartbeat_us
 * @property list<array{streams: int, files: int, bytes: int, seconds: float, fileSeconds: float, streamRate: float|null}>|null $result
 * @property-read Cluster $cluster
 */
final class LoadTrial extends Model implements BackgroundRun
{
    use RunsInBackground;

    public $timestamps = false;

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return ['plan' => 'array', 'result' => 'array', 'stop_asked' => 'bool', 'done_share' => 'float'];
    }

    /**
     * @return BelongsTo<Cluster, $this>
     */
    public function cluster(): BelongsTo
    {
        return $this->belongsTo(Cluster::class);
    }
}
