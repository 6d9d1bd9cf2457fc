<?php

declare(strict_types=1);

namespace App\Sessions\Models;

use App\Estate\Models\Cluster;
use Fulcrion\Core\Text\Parts;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A deadlock of a live server; statements are kept without their values.
 *
 * @property int $id
 * @property int $cluster_id
 * @property string $digest
 * @property int $seen_us when it was first read
 * @property string $server_time as the server wrote it
 * @property list<array{session: int, user: string, statement: string, text: string, table: string, index: string, mode: string,
 *     rowLocks: int, victim: bool}> $sides
 * @property Cluster $cluster
 */
final class DeadlockRecord extends Model
{
    public $timestamps = false;

    protected $table = 'deadlocks';

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return ['sides' => 'array', 'seen_us' => 'int', 'cluster_id' => 'int'];
    }

    /**
     * @return BelongsTo<Cluster, $this>
     */
    public function cluster(): BelongsTo
    {
        return $this->belongsTo(Cluster::class);
    }

    /**
     * @return list<string> schema.table, each once
     */
    public function tables(): array
    {
        return array_values(array_unique(Parts::said(array_column($this->sides, 'table'))));
    }
}
