<?php

declare(strict_types=1);

namespace App\Usage;

use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Models\Finding;
use App\Platform\Models\User;
use App\Platform\Runs\BrokenRuns;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use App\Platform\Support\Role;
use App\Telemetry\Usage\UsageLimits;
use App\Usage\Application\JumpFindings;
use App\Usage\Application\UnreadFindings;
use App\Usage\Models\UsageRun;
use Illuminate\Console\Scheduling\Schedule;

final class Provider extends Capability
{
    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        $this->callAfterResolving(BrokenRuns::class, static fn (BrokenRuns $runs) => $runs->ends(UsageRun::class));
        // Who may see some teams only is not shown what is of all of them.
        $sections->limit(static fn (User $user): ?array => UsageLimits::of($user) === null ? null : [
            'usage.index', 'usage.why', 'usage.explore', 'usage.explore-export', 'usage.export', 'usage.keep', 'usage.forget',
            'usage.forecast', 'usage.forecast-export',
            'cost.index', 'cost.export', 'team.*', 'budget.index', 'limit.index', 'limit.show',
        ]);
        $this->callAfterResolving(FindingSources::class, static function (FindingSources $sources): void {
            $sources->register(new FindingSource(
                JumpFindings::SOURCE,
                deciders: 'Engineers decide on it.',
                acts: 'usage.finding-acts',
                weighed: 'measured',
                evidenceFirst: true,
                home: static fn (Finding $finding): array => ['Why it changed', address('usage.why')],
            ));
            $sources->register(new FindingSource(
                UnreadFindings::SOURCE,
                weighed: 'measured',
                evidenceFirst: true,
                home: static fn (Finding $finding): array => ['Usage', address('usage.index')],
            ));
        });
    }

    protected function pages(): array
    {
        return [
            new Page(Bench::Meter, 'usage', 'Usage', 'usage.index', rank: 10),
            new Page(Bench::Meter, 'why', 'Why it changed', 'usage.why', rank: 20),
            new Page(Bench::Meter, 'explore', 'Explore', 'usage.explore', rank: 30),
            new Page(Bench::Meter, 'forecast', 'Forecast', 'usage.forecast', rank: 35),
            new Page(Bench::Meter, 'days', 'Days', 'usage.days', rank: 80),
            new Page(Bench::Meter, 'limits', 'Who sees whom', 'usage.limits', ability: 'limit-viewers', rank: 90),
        ];
    }

    protected function abilities(): array
    {
        return [
            'keep-views' => Role::cases(), 'limit-viewers' => [Role::Owner], 'make-days' => [Role::Engineer, Role::Owner],
            'set-zone' => [Role::Owner],
        ];
    }

    protected function schedule(Schedule $schedule): void
    {
        // Days that are not over follow their load.
        $schedule->command('usage:close')->everyFiveMinutes()->withoutOverlapping(30);
        // What came late is a correction.
        $schedule->command('usage:close --again')->dailyAt('01:40')->withoutOverlapping(120);
    }
}
