<?php

declare(strict_types=1);

namespace App\Telemetry;

use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Support\Role;
use Illuminate\Console\Scheduling\Schedule;

final class Provider extends Capability
{
    protected function pages(): array
    {
        return [new Page(Bench::Tune, 'imports', 'Imports', 'import.index', 'Watch')];
    }

    protected function abilities(): array
    {
        return ['import' => [Role::Engineer, Role::Owner]];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('telemetry:collect')->everyTenSeconds()->withoutOverlapping(5);
        $schedule->command('telemetry:prune')->dailyAt('03:40')->withoutOverlapping(120);
        $schedule->command('telemetry:resume')->everyMinute()->withoutOverlapping(5);
    }
}
