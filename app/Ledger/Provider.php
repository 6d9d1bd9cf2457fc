<?php

declare(strict_types=1);

namespace App\Ledger;

use App\Ledger\Changes\ChangeExecutor;
use App\Ledger\Changes\ChangeExecutors;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Support\Journal;
use Illuminate\Console\Scheduling\Schedule;
use Illuminate\Contracts\Foundation\Application;

final class Provider extends Capability
{
    public function register(): void
    {
        $this->app->bind(Journal::class, Ledger::class);
        $this->app->bind(ChangeExecutors::class, static function (Application $app): ChangeExecutors {
            /** @var iterable<ChangeExecutor> $brought */
            $brought = $app->tagged(ChangeExecutors::TAG);

            return new ChangeExecutors($brought);
        });
    }

    protected function pages(): array
    {
        return [
            new Page(Bench::Ledger, 'findings', 'Findings', '/ledger/findings'),
            new Page(Bench::Ledger, 'changes', 'Changes', '/ledger/changes'),
            new Page(Bench::Ledger, 'proofs', 'Proofs', '/ledger/proofs'),
            new Page(Bench::Ledger, 'outbox', 'Outbox', '/ledger/outbox'),
            new Page(Bench::Ledger, 'acts', 'Acts', '/ledger'),
        ];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('ledger:recover')->everyMinute()->withoutOverlapping(5);
        $schedule->command('ledger:post')->everyMinute()->withoutOverlapping(5);
        $schedule->command('ledger:post --digest')->dailyAt('06:00')->withoutOverlapping(5);
        $schedule->command('ledger:expire')->hourlyAt(20)->withoutOverlapping(30);
    }
}
