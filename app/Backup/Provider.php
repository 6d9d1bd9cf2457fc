<?php

declare(strict_types=1);

namespace App\Backup;

use App\Backup\Application\BackupFindings;
use App\Backup\Application\BackupSignals;
use App\Backup\Models\BackupCheck;
use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Models\Finding;
use App\Metrics\Signals\SignalSources;
use App\Platform\Runs\BrokenRuns;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use App\Platform\Support\Role;
use Illuminate\Console\Scheduling\Schedule;

final class Provider extends Capability
{
    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        $this->callAfterResolving(BrokenRuns::class, static fn (BrokenRuns $runs) => $runs->ends(BackupCheck::class));
        $this->callAfterResolving(SignalSources::class,
            fn (SignalSources $sources) => $sources->register($this->app->make(BackupSignals::class)));
        $this->callAfterResolving(FindingSources::class, static fn (FindingSources $sources) => $sources->register(new FindingSource(
            BackupFindings::SOURCE,
            weighed: 'measured',
            home: static fn (Finding $finding): array => ['Backups', address('backup.show').'?'.http_build_query(['cluster' =>
                $finding->cluster->slug])],
        )));
    }

    protected function pages(): array
    {
        return [new Page(Bench::Tend, 'backups', 'Backups', 'backup.show', group: 'Machines', rank: 56)];
    }

    protected function abilities(): array
    {
        return ['back-up' => [Role::Engineer, Role::Owner]];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('backups:judge')->hourlyAt(40)->withoutOverlapping(30);
    }
}
