<?php

declare(strict_types=1);

namespace App\Alerts\Models;

use App\Estate\Models\Cluster;
use App\Platform\Models\User;
use Fulcrion\Core\Alerts\IncidentCourse;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;
use Illuminate\Database\Eloquent\Relations\HasMany;

/**
 * What rang together, until it is over.
 *
 * @property int $id
 * @property int $cluster_id
 * @property Cluster $cluster
 * @property string $title
 * @property int $opened_at
 * @property int $last_at when the last ring that was new had begun
 * @property int|null $quiet_since
 * @property int|null $ended_at
 * @property int $told how many rings the last message told of
 * @property int $told_at
 * @property bool $is_urgent
 * @property string|null $taken_by who takes care of it
 * @property int|null $taken_at
 * @property int|null $holder_id
 * @property User|null $holder
 * @property int|null $second_at when somebody else is told, where nobody took it
 * @property int|null $second_told_at
 * @property int|null $second_user_id
 * @property bool|null $was_real what people say of it afterwards
 */
final class Incident extends Model
{
    public $timestamps = false;

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return ['is_urgent' => 'bool', 'was_real' => 'bool', 'opened_at' => 'int', 'last_at' => 'int', 'quiet_since' => 'int',
            'ended_at' => 'int', 'told' => 'int', 'told_at' => 'int'];
    }

    /**
     * @return BelongsTo<Cluster, $this>
     */
    public function cluster(): BelongsTo
    {
        return $this->belongsTo(Cluster::class);
    }

    /**
     * @return BelongsTo<User, $this>
     */
    public function holder(): BelongsTo
    {
        return $this->belongsTo(User::class, 'holder_id');
    }

    /**
     * @return HasMany<Ring, $this>
     */
    public function rings(): HasMany
    {
        return $this->hasMany(Ring::class);
    }

    /**
     * @return Builder<Incident>
     */
    public static function open(): Builder
    {
        return self::query()->whereNull('ended_at');
    }

    public function isOpen(): bool
    {
        return $this->ended_at === null;
    }

    public function course(): IncidentCourse
    {
        $all = $ringing = [];
        // Of a storm there are thousands: no more of each than it takes.
        foreach ($this->rings()->toBase()->get(['alert_id', 'host', 'to_at']) as $ring) {
            $key = "{$ring->alert_id}\0{$ring->host}";
            $all[$key] = true;
            if ($ring->to_at === null) {
                $ringing[$key] = true;
            }
        }

        return new IncidentCourse($this->opened_at, $this->last_at, $all, $ringing, $this->quiet_since, $this->told, $this->told_at);
    }
}
