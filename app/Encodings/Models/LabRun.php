<?php

declare(strict_types=1);

namespace App\Encodings\Models;

use App\Estate\Models\Cluster;
use App\Platform\Runs\BackgroundRun;
use App\Platform\Runs\RunsInBackground;
use Fulcrion\Core\Storage\Encodings\LabResult;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A sample stored every way worth trying.
 *
 * @property int $id
 * @property int|null $cluster_id
 * @property string $object schema.table, or the name of a file
 * @property string $state waiting, running, done, stopped or failed
 * @property string $progress
 * @property float $done_share
 * @property bool $stop_asked
 * @property string|null $error
 * @property int $asked_us
 * @property string $asked_by
 * @property int $heartbeat_us
 * @property array<string, mixed>|null $result
 * @property-read Cluster|null $cluster
 */
final class LabRun extends Model implements BackgroundRun
{
    use RunsInBackground;

    public $timestamps = false;

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return ['result' => 'array', 'stop_asked' => 'bool', 'done_share' => 'float'];
    }

    /**
     * @return BelongsTo<Cluster, $this>
     */
    public function cluster(): BelongsTo
    {
        return $this->belongsTo(Cluster::class);
    }

    public function lab(): ?LabResult
    {
        /**
         * @var array{rows: list<int>, orders: array<string, list<string>>, facts: array<string, array{distinct: int, run: float|int}>,
         *     trials: list<array{column: string, encoding: string, compression: string, order: string, bytes: list<int>, writeNs: int,
         * readNs: int}>}|null $lab
         */
        $lab = $this->result['lab'] ?? null;

        return $lab === null ? null : LabResult::fromArray($lab);
    }

    /** A figure kept beside the trials. */
    public function fact(string $name): float
    {
        $value = $this->result[$name] ?? 0;

        return is_int($value) || is_float($value) ? (float) $value : 0.0;
    }
}
