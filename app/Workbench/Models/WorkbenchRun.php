<?php

declare(strict_types=1);

namespace App\Workbench\Models;

use App\Platform\Runs\BackgroundRun;
use App\Platform\Runs\RunsInBackground;
use App\Platform\Support\Clock;
use Illuminate\Database\Eloquent\Model;

/**
 * A statement somebody ran in the workbench.
 *
 * @property int $id
 * @property string $key
 * @property int $user_id
 * @property int $cluster_id
 * @property string $schema
 * @property string $mode run, actual or explain
 * @property string $state waiting, running, done, stopped, failed or lost
 * @property string $statement fingerprint
 * @property string $sealed_sql
 * @property int $started_us
 * @property int|null $elapsed_us
 * @property int|null $modelled_us
 * @property int|null $row_count
 * @property bool $cut
 * @property bool $stop_asked
 * @property string|null $message
 * @property int|null $error_offset
 * @property int|null $plan_id
 * @property int $heartbeat_us
 * @property-read string $cluster name of it, where it was asked for
 * @property-read string $slug
 */
final class WorkbenchRun extends Model implements BackgroundRun
{
    use RunsInBackground;

    public $timestamps = false;

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return ['cut' => 'bool', 'stop_asked' => 'bool'];
    }

    /** Nobody sees how far it has come, only that it goes on. */
    public function tell(string $what, float $share, int $step = 0): void
    {
        $this->heartbeat();
    }

    public function broke(): string
    {
        $this->update(['state' => 'lost', 'elapsed_us' => max(0, Clock::microseconds() - $this->started_us)]);

        return "run {$this->key} of the workbench was lost: its process was killed.";
    }
}
