<?php

declare(strict_types=1);

namespace App\Workbench\Console;

use App\Workbench\Application\WorkbenchRuns;
use Illuminate\Console\Command;

final class PruneResultsCommand extends Command
{
    protected $signature = 'workbench:prune';

    protected $description = 'Forgets results of the workbench after a day and its history after ninety, and closes runs whose process '
        .'is gone';

    public function handle(WorkbenchRuns $runs): int
    {
        $this->line("{$runs->prune()} results and runs forgotten");

        return self::SUCCESS;
    }
}
