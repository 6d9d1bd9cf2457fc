<?php

declare(strict_types=1);

namespace App\Cost;

use App\Cost\Application\BillFindings;
use App\Cost\Application\BookRates;
use App\Cost\Application\BudgetFindings;
use App\Cost\Application\MoneyDays;
use App\Cost\Application\QuantityFlows;
use App\Estate\Pricing\DailyMoney;
use App\Estate\Pricing\MoneyRates;
use App\Estate\Pricing\WrittenFlows;
use App\Ledger\Findings\FindingSource;
use App\Ledger\Findings\FindingSources;
use App\Ledger\Models\Finding;
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
        // For one request: a page asks for the same rates once a row.
        $this->app->scoped(MoneyRates::class, BookRates::class);
        $this->app->bind(WrittenFlows::class, QuantityFlows::class);
        $this->app->bind(DailyMoney::class, MoneyDays::class);
    }

    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        $this->callAfterResolving(FindingSources::class, static function (FindingSources $sources): void {
            $sources->register(new FindingSource(
                BudgetFindings::SOURCE,
                deciders: 'Engineers and owners decide on it.',
                acts: 'cost.finding-acts',
                evidenceFirst: true,
                home: static fn (Finding $finding): array => ['Budgets', address('budget.index')],
            ));
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
            new Page(Bench::Meter, 'team', 'Team', 'team.show', rank: 40),
            new Page(Bench::Meter, 'cost', 'Cost', 'cost.index', rank: 45),
            new Page(Bench::Meter, 'budgets', 'Budgets', 'budget.index', rank: 48),
            new Page(Bench::Meter, 'savings', 'Savings', 'cost.savings', rank: 50),
            new Page(Bench::Meter, 'bills', 'Bills', 'bill.index', rank: 55),
            new Page(Bench::Meter, 'accounts', 'Statements of account', 'account.index', ability: 'price', rank: 60),
            new Page(Bench::Meter, 'prices', 'Prices', 'cost.prices', rank: 65),
        ];
    }

    protected function abilities(): array
    {
        return ['price' => [Role::Owner]];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('budget:check')->hourlyAt(25)->withoutOverlapping(60);
        $schedule->command('cost:measure-storage')->everySixHours(20)->withoutOverlapping(120);
        $schedule->command('account:send')->dailyAt('06:10')->withoutOverlapping(60);
    }
}
