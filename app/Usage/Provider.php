<?php

declare(strict_types=1);

namespace App\Usage;

use App\Estate\Pricing\MoneyRates;
use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Models\Finding;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use App\Platform\Support\Role;
use App\Usage\Application\BillFindings;
use App\Usage\Application\BookRates;
use Illuminate\Console\Scheduling\Schedule;

final class Provider extends Capability
{
    public function register(): void
    {
        // For one request: a page asks for the same rates once a row.
        $this->app->scoped(MoneyRates::class, BookRates::class);
    }

    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        $this->callAfterResolving(FindingSources::class, static function (FindingSources $sources): void {
            $sources->register(new FindingSource(
                BillFindings::SOURCE,
                weighed: 'measured',
                home: static fn (Finding $finding): array => ['Bills', address('bill.index')],
            ));
        });
    }

    protected function pages(): array
    {
        return [
            new Page(Bench::Meter, 'usage', 'Usage', 'usage.index'),
            new Page(Bench::Meter, 'why', 'Why it changed', 'usage.why'),
            new Page(Bench::Meter, 'explore', 'Explore', 'usage.explore'),
            new Page(Bench::Meter, 'cost', 'Cost', 'cost.index'),
            new Page(Bench::Meter, 'savings', 'Savings', 'cost.savings'),
            new Page(Bench::Meter, 'bills', 'Bills', 'bill.index'),
            new Page(Bench::Meter, 'prices', 'Prices', 'cost.prices'),
            new Page(Bench::Meter, 'limits', 'Who sees whom', 'usage.limits', ability: 'price'),
        ];
    }

    protected function abilities(): array
    {
        return ['keep-views' => Role::cases(), 'price' => [Role::Owner]];
    }

    protected function schedule(Schedule $schedule): void
    {
        // Days that are not over follow their load.
        $schedule->command('usage:close')->everyFiveMinutes()->withoutOverlapping(30);
        // What came late is a correction.
        $schedule->command('usage:close --again')->dailyAt('01:40')->withoutOverlapping(120);
    }
}
