<?php

declare(strict_types=1);

namespace App\Health\Console;

use App\Health\Application\MetricStore;
use App\Health\Application\RowLockTime;
use App\Health\Application\ServerEvents;
use App\Health\Probes\ProbeBook;
use App\Platform\Support\Clock;
use Illuminate\Console\Command;

final class PruneStateCommand extends Command
{
    /** Runs of probes, so that the same weeks of the year before can be looked at. */
    private const PROBES_SECONDS = 400 * 86_400;

    protected $signature = 'health:prune';

    protected $description = 'Thin out how servers were before yesterday, and forget what was kept long enough';

    public function handle(MetricStore $store, RowLockTime $locks, ServerEvents $events, ProbeBook $probes): int
    {
        $store->prune(Clock::seconds());
        $locks->prune(Clock::seconds());
        $events->prune(Clock::microseconds());
        $probes->prune(Clock::seconds() - self::PROBES_SECONDS);

        return self::SUCCESS;
    }
}
