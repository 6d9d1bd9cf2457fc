<?php

declare(strict_types=1);

namespace App\Ledger;

use App\Ledger\Changes\ChangeKinds;
use App\Ledger\Changes\ChangeMarks;
use App\Ledger\Changes\ChangeRunner;
use App\Ledger\Console\PartsCommand;
use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Ledger\Notifications\OutboxPart;
use App\Ledger\Policies\ChangePolicy;
use App\Ledger\Policies\FindingPolicy;
use App\Platform\Figures\TimeMarks;
use App\Platform\Parts\PartBook;
use App\Platform\Runs\BrokenRuns;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use App\Platform\Support\Journal;
use Illuminate\Console\Scheduling\Schedule;
use Illuminate\Database\Eloquent\Builder;
use Illuminate\Support\Facades\Gate;
use Illuminate\Support\Facades\View;
use Illuminate\View\View as ShownView;

final class Provider extends Capability
{
    public function register(): void
    {
        $this->app->bind(Journal::class, Ledger::class);
        $this->app->singleton(ChangeKinds::class);
        $this->app->singleton(FindingSources::class);
    }

    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        Gate::policy(Finding::class, FindingPolicy::class);
        Gate::policy(Change::class, ChangePolicy::class);
        $this->callAfterResolving(BrokenRuns::class, fn (BrokenRuns $runs) => $runs->register(
            static fn (): Builder => Change::query()->where('doing', '!=', ''),
            fn (Change $change): string => $this->app->make(ChangeRunner::class)->recover($change),
        ));
        $this->callAfterResolving(TimeMarks::class, static fn (TimeMarks $marks) => $marks->register(ChangeMarks::of(...), 'changes'));
        $this->callAfterResolving(PartBook::class, static fn (PartBook $parts) => $parts->register('outbox', OutboxPart::of(...)));
        $this->callAfterResolving(FindingSources::class, static fn (FindingSources $sources) => $sources->register(new FindingSource(
            PartsCommand::SOURCE,
            weighed: 'measured',
            home: static fn (): array => ['Fulcrion itself', address('parts.show')],
        )));
        // What waits for somebody belongs beside a cluster; the page of clusters knows no findings.
        View::composer('clusters.clusters', static function (ShownView $view): void {
            $view->with('waiting', Finding::waitingByCluster());
        });
    }

    protected function pages(): array
    {
        return [
            new Page(Bench::Ledger, 'findings', 'Findings', 'finding.index'),
            new Page(Bench::Ledger, 'changes', 'Changes', 'change.index'),
            new Page(Bench::Ledger, 'proofs', 'Proofs', 'proof.index'),
            new Page(Bench::Ledger, 'outbox', 'Outbox', 'notification.index'),
            new Page(Bench::Ledger, 'acts', 'Acts', 'ledger.index'),
        ];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('ledger:parts')->everyFiveMinutes()->withoutOverlapping(5);
        $schedule->command('ledger:post')->everyMinute()->withoutOverlapping(5);
        $schedule->command('ledger:post --digest')->dailyAt('06:00')->withoutOverlapping(5);
    }
}
