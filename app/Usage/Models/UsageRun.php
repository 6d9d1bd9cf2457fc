<?php

declare(strict_types=1);

namespace App\Usage\Models;

use App\Platform\Runs\BackgroundRun;
use App\Platform\Runs\RunsInBackground;
use Illuminate\Database\Eloquent\Model;

/**
 * Days that are rebuilt because somebody asked for it.
 *
 * @property int $id
 * @property int $from_at start of the first day, in Unix seconds
 * @property int $to_at start of the last one
 * @property string|null $zone the time zone whose days they are put into; null where they are made from their load
 * @property string $state waiting, running, done, stopped or failed
 * @property string $progress
 * @property float $done_share
 * @property bool $stop_asked
 * @property string|null $error
 * @property int $asked_us
 * @property string $asked_by
 * @property int $heartbeat_us
 * @property array<string, string>|null $result what became of the days, by cluster
 */
final class UsageRun extends Model implements BackgroundRun
{
    use RunsInBackground;

    public $timestamps = false;

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return ['result' => 'array', 'stop_asked' => 'bool', 'done_share' => 'float'];
    }
}
