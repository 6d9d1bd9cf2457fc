<?php

declare(strict_types=1);

namespace App\Ledger\Jobs;

use App\Ledger\Changes\ChangeAction;
use App\Ledger\Changes\ChangeRunner;
use App\Ledger\Models\Change;
use Illuminate\Contracts\Queue\ShouldQueue;
use Illuminate\Foundation\Queue\Queueable;

final class RunChange implements ShouldQueue
{
    use Queueable;

    public int $timeout = 0;

    public int $tries = 1;

    public function __construct(public readonly int $changeId, public readonly string $doing, public readonly string $by)
    {
    }

    public function handle(ChangeRunner $runner): void
    {
        $change = Change::query()->find($this->changeId);
        $action = ChangeAction::from($this->doing);
        if ($change === null || $change->doing !== $action) {
            return;
        }
        $runner->run($change, $action, $this->by);
    }
}
