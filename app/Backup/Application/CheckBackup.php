<?php

declare(strict_types=1);

namespace App\Backup\Application;

use App\Backup\Models\BackupCheck;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Platform\Runs\Progress;
use App\Platform\Support\Clock;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

/**
 * Reads the files of a backup and keeps what they are worth.
 */
final class CheckBackup implements ShouldQueue
{
    use Queueable;

    /** Some terabytes of a fast disk. */
    public int $timeout = 6 * 3_600;

    public int $tries = 1;

    public function __construct(private readonly int $checkId)
    {
    }

    public function handle(BackupBook $book, BackupFindings $findings): void
    {
        $check = BackupCheck::query()->find($this->checkId);
        if ($check === null || $check->state !== 'waiting') {
            return;
        }
        $check->carryOut(static function (Progress $progress) use ($check, $book, $findings): array {
            [$clusterId, $backup] = $book->find($check->backup_id) ?? throw new SourceError('This backup is not known any more.');
            $began = hrtime(true);
            $found = FolderCheck::of($backup->place, $progress->often());
            $book->checked($check->backup_id, Clock::microseconds(), $found->damage);
            $findings->report(Cluster::query()->findOrFail($clusterId), Clock::microseconds());

            return ['result' => ['files' => $found->files, 'bytes' => $found->bytes, 'seconds' => (hrtime(true) - $began) / 1e9,
                'damaged' => count($found->damage), 'others' => $found->others]];
        });
    }
}
