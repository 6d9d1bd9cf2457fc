<?php

declare(strict_types=1);

namespace App\Alerts\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * A time in which an alert rang.
 *
 * @property int $id
 * @property int|null $alert_id null where the alert was removed since
 * @property int $cluster_id
 * @property int|null $incident_id null where it was silenced
 * @property string $alert_name
 * @property string $host empty where it is of the cluster
 * @property int $from_at
 * @property int $rang_at
 * @property int|null $to_at
 * @property float $worst
 * @property string $said
 * @property bool $is_silenced
 */
final class Ring extends Model
{
    public $timestamps = false;

    protected $table = 'alert_rings';

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return ['worst' => 'float', 'is_silenced' => 'bool', 'from_at' => 'int', 'rang_at' => 'int', 'to_at' => 'int'];
    }
}
