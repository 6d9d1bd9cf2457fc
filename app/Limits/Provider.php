<?php

declare(strict_types=1);

namespace App\Limits;

use App\Estate\Limits\StatementGate;
use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Models\Finding;
use App\Limits\Application\LimitFindings;
use App\Limits\Application\LimitGate;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use App\Platform\Support\Role;
use Illuminate\Console\Scheduling\Schedule;

final class Provider extends Capability
{
    public function register(): void
    {
        $this->app->bind(StatementGate::class, LimitGate::class);
    }

    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        $this->callAfterResolving(FindingSources::class, static fn (FindingSources $sources) => $sources->register(new FindingSource(
            LimitFindings::SOURCE,
            weighed: 'measured',
            evidenceFirst: true,
            home: static fn (Finding $finding): array => ['Limits', address('limit.index')],
        )));
    }

    protected function pages(): array
    {
        return [new Page(Bench::Meter, 'limit', 'Limits', 'limit.index', rank: 49)];
    }

    protected function abilities(): array
    {
        return ['limit' => [Role::Engineer, Role::Owner], 'lift' => [Role::Owner]];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('limit:check')->everyFiveMinutes()->withoutOverlapping(10);
    }
}
