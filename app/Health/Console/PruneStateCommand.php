<?php

declare(strict_types=1);

namespace App\Health\Console;

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

    protected $description = 'Forget who waited for rows, what servers were set to and what probes took, where it was kept long enough';

    public function handle(RowLockTime $locks, ServerEvents $events, ProbeBook $probes): int
    {
        $locks->prune(Clock::seconds());
        $events->prune(Clock::microseconds());
        $probes->prune(Clock::seconds() - self::PROBES_SECONDS);

        return self::SUCCESS;
    }
}
