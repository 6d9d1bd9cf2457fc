<?php

declare(strict_types=1);

namespace App\Platform\Console;

use App\Platform\Runs\BrokenRuns;
use Illuminate\Console\Command;

final class RecoverCommand extends Command
{
    protected $signature = 'platform:recover {--now : also what still shows signs of life; for use when no worker runs}';

    protected $description = 'Takes up again, or ends, what killed processes were at: half-built tables go, tables stay as they were';

    public function handle(BrokenRuns $runs): int
    {
        foreach ($runs->recover((bool) $this->option('now')) as $done) {
            $this->line($done);
        }

        return self::SUCCESS;
    }
}
