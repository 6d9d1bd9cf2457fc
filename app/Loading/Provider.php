<?php

declare(strict_types=1);

namespace App\Loading;

use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Models\Finding;
use App\Loading\Application\LoadingFindings;
use App\Loading\Models\LoadTrial;
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
        $this->callAfterResolving(BrokenRuns::class, static fn (BrokenRuns $runs) => $runs->ends(LoadTrial::class));
        $this->callAfterResolving(FindingSources::class, static fn (FindingSources $sources) => $sources->register(new FindingSource(
            LoadingFindings::SOURCE,
            weighed: 'measured',
            home: static fn (Finding $finding): array => ['Loading in', address('loading.show').'?'.http_build_query([
                'cluster' => $finding->cluster->slug, 'name' => substr($finding->object, strlen('delivery ')),
            ])],
        )));
    }

    protected function pages(): array
    {
        return [new Page(Bench::Tend, 'loading', 'Loading in', 'loading.show', group: 'Machines', rank: 55)];
    }

    protected function abilities(): array
    {
        return ['load' => [Role::Engineer, Role::Owner]];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('loading:judge')->dailyAt('07:15')->withoutOverlapping(30);
    }
}
