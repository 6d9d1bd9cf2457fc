<?php

declare(strict_types=1);

namespace App\Statements;

use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use App\Platform\Support\Role;
use App\Statements\Application\Regressions;
use Illuminate\Console\Scheduling\Schedule;

final class Provider extends Capability
{
    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        $this->callAfterResolving(
            FindingSources::class,
            static fn (FindingSources $sources) => $sources->register(new FindingSource(Regressions::SOURCE, weighed: 'measured')),
        );
    }

    protected function pages(): array
    {
        return [
            new Page(Bench::Tune, 'statements', 'Statements', 'statements.index', 'Watch', rank: 10),
            new Page(Bench::Tune, 'compare', 'Compare', 'compare.show', 'Watch', rank: 20),
            new Page(Bench::Tune, 'running', 'Running now', 'running.show', 'Watch', rank: 30),
            new Page(Bench::Tune, 'plans', 'Plans', 'plan.index', 'Understand'),
        ];
    }

    protected function abilities(): array
    {
        return ['reveal' => [Role::Engineer, Role::Steward, Role::Owner]];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('statements:audit')->hourlyAt(5)->withoutOverlapping(50);
    }
}
