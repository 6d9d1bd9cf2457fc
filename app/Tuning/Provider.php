<?php

declare(strict_types=1);

namespace App\Tuning;

use App\Ledger\Changes\ChangeKind;
use App\Ledger\Changes\ChangeKinds;
use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Models\Finding;
use App\Platform\Runs\BrokenRuns;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use App\Tuning\Application\IndexAudit;
use App\Tuning\Application\IndexExecutor;
use App\Tuning\Application\RehearsalPlan;
use App\Tuning\Models\TuningRun;
use Illuminate\Console\Scheduling\Schedule;

final class Provider extends Capability
{
    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        $this->callAfterResolving(BrokenRuns::class, static fn (BrokenRuns $runs) => $runs->ends(TuningRun::class));
        $this->callAfterResolving(
            ChangeKinds::class,
            static fn (ChangeKinds $kinds) => $kinds->register(new ChangeKind(
                IndexExecutor::KIND,
                IndexExecutor::class,
                places: RehearsalPlan::places(...),
                costs: RehearsalPlan::costs(...),
            )),
        );
        $this->callAfterResolving(FindingSources::class, static fn (FindingSources $sources) => $sources->register(new FindingSource(
            IndexAudit::SOURCE,
            home: static fn (Finding $finding): array => [
                'Indexes',
                address('index.index').'?'.http_build_query(['cluster' => $finding->cluster->slug]),
            ],
        )));
    }

    protected function pages(): array
    {
        return [
            new Page(Bench::Tune, 'indexes', 'Indexes', 'index.index', 'Improve'),
            new Page(Bench::Tune, 'rewrites', 'Rewrites', 'rewrite.index', 'Improve', 'run'),
            new Page(Bench::Tune, 'tuning', 'Tuning runs', 'tuning.index', 'Improve'),
        ];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('indexes:audit')->everyMinute()->withoutOverlapping(5);
        $schedule->command('tuning:tonight')->everyMinute()->withoutOverlapping(5);
    }
}
