<?php

declare(strict_types=1);

namespace App\Health;

use App\Health\Application\EventSignals;
use App\Health\Application\HostFindings;
use App\Health\Application\MetricStore;
use App\Health\Application\ServerEvents;
use App\Health\Application\StateFindings;
use App\Health\Application\StateListener;
use App\Health\Application\StateStore;
use App\Health\Probes\ProbeFindings;
use App\Health\Probes\ProbePart;
use App\Health\Probes\ProbeSignals;
use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Models\Finding;
use App\Metrics\Signals\SignalSources;
use App\Platform\Figures\TimeMarks;
use App\Platform\Parts\OwnPart;
use App\Platform\Parts\PartBook;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use App\Platform\Support\Role;
use App\Telemetry\Events\ServerRead;
use Illuminate\Console\Scheduling\Schedule;
use Illuminate\Support\Facades\Event;

final class Provider extends Capability
{
    public function register(): void
    {
        $this->app->bind(MetricStore::class, StateStore::class);
    }

    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        Event::listen(ServerRead::class, StateListener::class);
        $this->callAfterResolving(TimeMarks::class, static function (TimeMarks $marks): void {
            $marks->register((new ServerEvents())->starts(...), 'server');
            $marks->register((new ServerEvents())->settings(...), 'settings');
        });
        $this->callAfterResolving(PartBook::class,
            fn (PartBook $parts) => $parts->register('probes', fn (): OwnPart => $this->app->make(ProbePart::class)->of()));
        $this->callAfterResolving(SignalSources::class, function (SignalSources $sources): void {
            $sources->register($this->app->make(ProbeSignals::class));
            $sources->register($this->app->make(EventSignals::class));
        });
        $this->callAfterResolving(FindingSources::class, static function (FindingSources $sources): void {
            $sources->register(new FindingSource(
                StateFindings::SOURCE,
                weighed: 'measured',
                home: static fn (Finding $finding): array => [
                    'State',
                    address('state.show').'?'.http_build_query(['cluster' => $finding->cluster->slug, 'window' => 'last 24 hours']),
                ],
            ));
            $sources->register(new FindingSource(
                ProbeFindings::SOURCE,
                weighed: 'measured',
                home: static fn (Finding $finding): array => [
                    'Is it the system?',
                    address('system.show').'?'.http_build_query(['cluster' => $finding->cluster->slug]),
                ],
            ));
            $sources->register(new FindingSource(
                HostFindings::SOURCE,
                weighed: 'measured',
                home: static fn (Finding $finding): array => [
                    'Hosts side by side',
                    address('host.beside').'?'.http_build_query(['cluster' => $finding->cluster->slug, 'window' => 'last 14 days']),
                ],
            ));
        });
    }

    protected function pages(): array
    {
        return [
            new Page(Bench::Tend, 'system', 'Is it the system?', 'system.show', group: 'Watch'),
            new Page(Bench::Tend, 'time', 'Over time', 'cluster.time', group: 'Watch'),
            new Page(Bench::Tend, 'moment', 'A moment', 'moment.show', group: 'Watch'),
            new Page(Bench::Tend, 'state', 'State of servers', 'state.show', group: 'Watch'),
            new Page(Bench::Tend, 'beside', 'Hosts side by side', 'host.beside', group: 'Watch'),
            new Page(Bench::Tend, 'hosts', 'One host', 'host.show', group: 'Watch'),
        ];
    }

    protected function abilities(): array
    {
        return ['probe' => [Role::Engineer, Role::Owner]];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('health:probe')->everyMinute()->withoutOverlapping(5);
        $schedule->command('health:nodes')->everyFiveMinutes()->withoutOverlapping(10);
        $schedule->command('health:judge')->hourlyAt(9)->withoutOverlapping(30);
        $schedule->command('health:prune')->dailyAt('04:05')->withoutOverlapping(60);
    }
}
