<?php

declare(strict_types=1);

namespace App\Alerts;

use App\Alerts\Application\AlertsPart;
use App\Alerts\Application\Deploys;
use App\Alerts\Application\FindingSignals;
use App\Alerts\Application\IncidentFindings;
use App\Alerts\Application\IncidentMarks;
use App\Alerts\Application\LoadSignals;
use App\Alerts\Application\RingSignals;
use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Models\Finding;
use App\Metrics\Signals\SignalSources;
use App\Platform\Figures\TimeMarks;
use App\Platform\Parts\PartBook;
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
        $this->callAfterResolving(PartBook::class, static fn (PartBook $parts) => $parts->register('alerts', AlertsPart::of(...)));
        $this->callAfterResolving(SignalSources::class, static function (SignalSources $sources): void {
            $sources->register(new LoadSignals());
            $sources->register(new FindingSignals());
            $sources->register(new RingSignals());
        });
        $this->callAfterResolving(TimeMarks::class, static function (TimeMarks $marks): void {
            $marks->register(Deploys::marks(...), 'deploys');
            $marks->register(IncidentMarks::of(...), 'incidents');
        });
        $this->callAfterResolving(FindingSources::class, static fn (FindingSources $sources) => $sources->register(new FindingSource(
            IncidentFindings::SOURCE,
            weighed: 'measured',
            home: static fn (Finding $finding): array => [
                'The incident',
                address('incident.show', (int) substr($finding->object, strlen('incident '))),
            ],
        )));
    }

    protected function pages(): array
    {
        return [
            new Page(Bench::Tend, 'alerts', 'Alerts and incidents', 'alert.index', group: 'Alerts', rank: 60),
            new Page(Bench::Tend, 'silences', 'Silences', 'silence.index', group: 'Alerts', rank: 61),
        ];
    }

    protected function abilities(): array
    {
        return ['alert' => [Role::Engineer, Role::Owner]];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('alerts:judge')->everyMinute()->withoutOverlapping(5);
    }
}
