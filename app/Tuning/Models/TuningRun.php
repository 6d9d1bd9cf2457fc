<?php

declare(strict_types=1);

namespace App\Tuning\Models;

use App\Estate\Models\Cluster;
use App\Platform\Runs\BackgroundRun;
use App\Platform\Runs\RunsInBackground;
use App\Platform\Support\Clock;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * Statements that are tuned one remedy after the other, on copies.
 *
 * @property int $id
 * @property int $cluster_id
 * @property string $title
 * @property list<string> $statements fingerprints
 * @property array{minutes: int, gib: float, apply: bool, atUs: int|null} $limits
 * @property string $state planned, waiting, running, done, stopped or failed
 * @property string $progress
 * @property float $done_share
 * @property bool $stop_asked
 * @property string|null $error
 * @property int $asked_us
 * @property string $asked_by
 * @property int|null $asked_by_id
 * @property int $heartbeat_us
 * @property int|null $ended_us
 * @property array{steps: list<array{act: string, title: string, state: string, weekUs: float, sumUs: float, bytes: float, note: string,
 *     rewritten: float, change: int|null}>, lines: list<array{id: string, text: string, executions: float, beforeUs: int, afterUs: int,
 * beforeBytes: int, afterBytes: int, equal: bool|null, error: string}>}|null $steps
 * @property-read Cluster $cluster
 */
final class TuningRun extends Model implements BackgroundRun
{
    use RunsInBackground;

    public $timestamps = false;

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return ['statements' => 'array', 'limits' => 'array', 'steps' => 'array', 'stop_asked' => 'bool', 'done_share' => 'float'];
    }

    /**
     * @return BelongsTo<Cluster, $this>
     */
    public function cluster(): BelongsTo
    {
        return $this->belongsTo(Cluster::class);
    }

    protected function patienceUs(): int
    {
        return 180_000_000;
    }

    /**
     * @return array<string, mixed>
     */
    protected function atEnd(): array
    {
        return ['ended_us' => Clock::microseconds()];
    }
}
