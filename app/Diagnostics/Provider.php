<?php

declare(strict_types=1);

namespace App\Diagnostics;

use App\Diagnostics\Application\LiveDiagnosis;
use App\Diagnostics\Application\RunsListener;
use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Findings\SubjectKind;
use App\Ledger\Models\Finding;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Sections;
use App\Telemetry\Events\RunsRead;
use Illuminate\Console\Scheduling\Schedule;
use Illuminate\Support\Facades\Event;

final class Provider extends Capability
{
    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        Event::listen(RunsRead::class, RunsListener::class);
        $this->callAfterResolving(FindingSources::class, static function (FindingSources $sources): void {
            $sources->register(new FindingSource(LiveDiagnosis::SOURCE, weighed: 'measured', evidenceFirst: true, home: self::home(...)));
        });
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('diagnostics:check')->everyThirtySeconds()->withoutOverlapping(5);
        $schedule->command('diagnostics:check --prune')->dailyAt('03:50')->withoutOverlapping(60);
    }

    /**
     * @return array{string, string}
     */
    private static function home(Finding $finding): array
    {
        $subject = $finding->subject();
        $query = http_build_query(['cluster' => $finding->cluster->slug, 'window' => 'last 24 hours']);

        return $subject->kind === SubjectKind::Statement
            ? ['Statement', address('statement.show', (string) $subject->statement)."?{$query}"]
            : ['Statements', address('statement.index')."?{$query}"];
    }
}
