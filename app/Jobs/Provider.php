<?php

declare(strict_types=1);

namespace App\Jobs;

use App\Jobs\Application\WorkersExecutor;
use App\Ledger\Changes\ChangeExecutors;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use Illuminate\Console\Scheduling\Schedule;

final class Provider extends Capability
{
    public function register(): void
    {
        $this->app->tag([WorkersExecutor::class], ChangeExecutors::TAG);
    }

    protected function pages(): array
    {
        return [
            new Page(Bench::Tune, 'jobs', 'Jobs', '/tune/jobs', 'Watch', rank: 40),
        ];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('jobs:nightly')->everyFiveMinutes()->withoutOverlapping(60);
        $schedule->command('jobs:judge')->everyFifteenMinutes()->withoutOverlapping(60);
    }
}
