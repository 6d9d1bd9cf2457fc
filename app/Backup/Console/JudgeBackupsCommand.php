<?php

declare(strict_types=1);

namespace App\Backup\Console;

use App\Backup\Application\BackupBook;
use App\Backup\Application\BackupFindings;
use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use Illuminate\Console\Command;

final class JudgeBackupsCommand extends Command
{
    protected $signature = 'backups:judge';

    protected $description = 'Says which schemas have had no good backup for too long';

    public function handle(BackupFindings $findings, BackupBook $book): int
    {
        foreach (Cluster::query()->orderBy('id')->get() as $cluster) {
            $findings->report($cluster, Clock::microseconds());
        }
        $book->prune(Clock::microseconds());

        return self::SUCCESS;
    }
}
