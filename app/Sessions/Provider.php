<?php

declare(strict_types=1);

namespace App\Sessions;

use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Models\Finding;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use App\Sessions\Application\SessionWatch;
use Illuminate\Console\Scheduling\Schedule;

final class Provider extends Capability
{
    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        $this->callAfterResolving(FindingSources::class, static function (FindingSources $sources): void {
            $home = static fn (Finding $finding): array => [
                'Locks',
                address('locks.show').'?'.http_build_query(['cluster' => $finding->cluster->slug]),
            ];
            $sources->register(new FindingSource(SessionWatch::SOURCE, weighed: 'measured', home: $home));
            $connection = static fn (Finding $finding): array => [
                'Connection',
                address('cluster.edit', $finding->cluster->slug),
            ];
            $sources->register(new FindingSource(SessionWatch::REACH, weighed: 'measured', home: $connection));
            $sources->register(new FindingSource(SessionWatch::MISSING, weighed: 'measured', home: $connection));
        });
    }

    protected function pages(): array
    {
        return [new Page(Bench::Tune, 'locks', 'Locks', 'locks.show', 'Watch', rank: 35)];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('sessions:watch')->everyThirtySeconds()->withoutOverlapping(5);
    }
}
