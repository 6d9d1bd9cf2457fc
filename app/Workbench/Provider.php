<?php

declare(strict_types=1);

namespace App\Workbench;

use App\Platform\Runs\BrokenRuns;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use App\Workbench\Models\WorkbenchRun;
use Illuminate\Console\Scheduling\Schedule;

final class Provider extends Capability
{
    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        $this->callAfterResolving(BrokenRuns::class, static fn (BrokenRuns $runs) => $runs->ends(WorkbenchRun::class));
    }

    protected function pages(): array
    {
        return [
            new Page(Bench::Tune, 'workbench', 'Workbench', 'workbench.show', 'Understand', 'run'),
            new Page(Bench::Tune, 'catalog', 'Catalog', 'catalog.index', 'Understand'),
        ];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('workbench:prune')->hourly()->withoutOverlapping(30);
    }
}
