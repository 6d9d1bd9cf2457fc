<?php

declare(strict_types=1);

namespace App\Backup\Models;

use App\Platform\Runs\BackgroundRun;
use App\Platform\Runs\RunsInBackground;
use Illuminate\Database\Eloquent\Model;

/**
 * Files of a backup that are held against their checksums.
 *
 * @property int $id
 * @property int $backup_id
 * @property string $state waiting, running, done, stopped or failed
 * @property string $progress
 * @property float $done_share
 * @property bool $stop_asked
 * @property string|null $error
 * @property int $asked_us
 * @property string $asked_by
 * @property int $heartbeat_us
 * @property array{files: int, bytes: int, seconds: float, damaged: int, others: int}|null $result
 */
final class BackupCheck extends Model implements BackgroundRun
{
    use RunsInBackground;

    public $timestamps = false;

    protected $guarded = ['id'];

    protected function casts(): array
    {
        return ['result' => 'array', 'stop_asked' => 'bool', 'done_share' => 'float'];
    }
}
