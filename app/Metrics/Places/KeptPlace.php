<?php

declare(strict_types=1);

namespace App\Metrics\Places;

use Illuminate\Database\Eloquent\Model;

/**
 * A database of another server that keeps the readings of a cluster.
 *
 * @property int $id
 * @property int $cluster_id
 * @property string $host
 * @property int $port
 * @property string $name of the database
 * @property string $username
 * @property string $secret
 * @property bool $tls
 * @property PlaceState $state
 * @property int $rows_moved
 * @property int $rows_all
 * @property string|null $error what stopped the move
 */
final class KeptPlace extends Model
{
    public $timestamps = false;

    protected $table = 'metric_places';

    protected $guarded = ['id'];

    protected $hidden = ['username', 'secret'];

    protected function casts(): array
    {
        return ['username' => 'encrypted', 'secret' => 'encrypted', 'tls' => 'bool', 'state' => PlaceState::class, 'port' => 'int'];
    }

    /** Where the readings of a cluster are, or are on their way to; null where they stay here. */
    public static function of(int $clusterId): ?self
    {
        return self::query()->where('cluster_id', $clusterId)->first();
    }

    public function said(): string
    {
        return "{$this->name} on {$this->host}:{$this->port}";
    }
}
