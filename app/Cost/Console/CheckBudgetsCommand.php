<?php

declare(strict_types=1);

namespace App\Cost\Console;

use App\Cost\Application\BudgetFindings;
use App\Platform\Support\Clock;
use Illuminate\Console\Command;

final class CheckBudgetsCommand extends Command
{
    protected $signature = 'budget:check';

    protected $description = 'Finds budgets that are passed or will be, and writes to those who want to be told';

    public function handle(BudgetFindings $budgets): int
    {
        $letters = $budgets->report(Clock::seconds());
        $this->line($letters === 1 ? '1 letter went into the outbox.' : "{$letters} letters went into the outbox.");

        return self::SUCCESS;
    }
}
