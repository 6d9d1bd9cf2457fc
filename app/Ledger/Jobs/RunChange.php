<?php

declare(strict_types=1);

namespace App\Ledger\Jobs;

use App\Ledger\Changes\Runner;
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

    public function handle(Runner $runner): void
    {
        $change = Change::query()->find($this->changeId);
        if ($change === null || $change->doing !== $this->doing) {
            return;
        }
        $runner->run($change, $this->by);
    }
}
