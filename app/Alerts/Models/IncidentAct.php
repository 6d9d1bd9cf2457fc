<?php

declare(strict_types=1);

namespace App\Alerts\Models;

use Illuminate\Database\Eloquent\Model;

/**
 * What somebody did or wrote about an incident, and what was said of it.
 *
 * @property int $id
 * @property int $incident_id
 * @property int $at
 * @property string $who
 * @property string $kind message, taken, handed or note
 * @property string $said
 */
final class IncidentAct extends Model
{
    public $timestamps = false;

    protected $table = 'incident_acts';

    protected $guarded = ['id'];
}
