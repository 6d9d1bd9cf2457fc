<?php

declare(strict_types=1);

namespace App\Ledger\Console;

use App\Ledger\Changes\ChangeRunner;
use App\Ledger\Models\Change;
use Illuminate\Console\Command;

final class RecoverCommand extends Command
{
    protected $signature = 'ledger:recover {--now : also what still shows signs of life; for use when no worker runs}';

    protected $description = 'Ends changes whose worker was killed: half-built tables go, tables stay as they were';

    public function handle(ChangeRunner $runner): int
    {
        foreach (Change::query()->where('doing', '!=', '')->get() as $change) {
            // What only waits for a worker is no wreck.
            $waits = $change->progress === 'waiting for a worker';
            if ((! $waits && $change->isDead()) || $this->option('now')) {
                $runner->recover($change);
                $this->line("change {$change->id}: {$change->error}");
            }
        }

        return self::SUCCESS;
    }
}
