<?php

declare(strict_types=1);

namespace App\Capacity;

use App\Capacity\Application\CapacityFindings;
use App\Capacity\Application\CapacitySignals;
use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Models\Finding;
use App\Metrics\Signals\SignalSources;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use Illuminate\Console\Scheduling\Schedule;

final class Provider extends Capability
{
    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        $this->callAfterResolving(SignalSources::class,
            fn (SignalSources $sources) => $sources->register($this->app->make(CapacitySignals::class)));
        $this->callAfterResolving(FindingSources::class, static fn (FindingSources $sources) => $sources->register(new FindingSource(
            CapacityFindings::SOURCE,
            weighed: 'measured',
            home: static fn (Finding $finding): array => ['Storage', address('capacity.show').'?'.http_build_query(['cluster' =>
                $finding->cluster->slug])],
        )));
    }

    protected function pages(): array
    {
        return [new Page(Bench::Tend, 'storage', 'Storage', 'capacity.show', group: 'Machines', rank: 55)];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('capacity:measure')->hourlyAt(35)->withoutOverlapping(30);
    }
}
