<?php

declare(strict_types=1);

namespace App\Alerts\Models;

use App\Alerts\Application\CalendarEvent;
use App\Estate\Models\Cluster;
use Illuminate\Database\Eloquent\Model;
use Illuminate\Database\Eloquent\Relations\BelongsTo;

/**
 * A time in which nobody is told of what rings: work on a cluster, once or again and again.
 *
 * @property int $id
 * @property string $uid of its event
 * @property int|null $cluster_id null for all
 * @property Cluster|null $cluster
 * @property int|null $alert_id null for all
 * @property Alert|null $alert
 * @property string|null $host null for all
 * @property int $from_at first second of the first time
 * @property int|null $to_at first second after the last time; null where it has no end
 * @property string $event as a calendar has it
 * @property string $reason
 * @property string $made_by
 */
final class Silence extends Model
{
    public $timestamps = false;

    private ?CalendarEvent $read = null;

    protected $table = 'alert_silences';

    protected $guarded = ['id'];

    /**
     * @return BelongsTo<Cluster, $this>
     */
    public function cluster(): BelongsTo
    {
        return $this->belongsTo(Cluster::class);
    }

    /**
     * @return BelongsTo<Alert, $this>
     */
    public function alert(): BelongsTo
    {
        return $this->belongsTo(Alert::class);
    }

    /** Read once, however many rings it is asked about. */
    public function calendarEvent(): CalendarEvent
    {
        return $this->read ??= CalendarEvent::read($this->event);
    }

    public function covers(int $clusterId, ?int $alertId, string $host, int $at): bool
    {
        return in_array($this->cluster_id, [null, $clusterId], true) && in_array($this->alert_id, [null, $alertId], true)
            && in_array($this->host, [null, $host], true) && $this->from_at <= $at && ($this->to_at === null || $at < $this->to_at)
            && $this->calendarEvent()->covers($at);
    }
}
