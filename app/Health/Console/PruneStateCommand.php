<?php

declare(strict_types=1);

namespace App\Health\Console;

use App\Health\Application\MetricStore;
use App\Health\Application\RowLockTime;
use App\Health\Application\ServerEvents;
use App\Platform\Support\Clock;
use Illuminate\Console\Command;

final class PruneStateCommand extends Command
{
    protected $signature = 'health:prune';

    protected $description = 'Thin out how servers were before yesterday, and forget what was kept long enough';

    public function handle(MetricStore $store, RowLockTime $locks, ServerEvents $events): int
    {
        $store->prune(Clock::seconds());
        $locks->prune(Clock::seconds());
        $events->prune(Clock::microseconds());

        return self::SUCCESS;
    }
}
