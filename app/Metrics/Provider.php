<?php

declare(strict_types=1);

namespace App\Metrics;

use App\Platform\Sections\Capability;
use Illuminate\Console\Scheduling\Schedule;

final class Provider extends Capability
{
    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('metrics:read-host')->everyTenSeconds()->withoutOverlapping(1);
        $schedule->command('metrics:seal')->hourlyAt(4)->withoutOverlapping(30);
    }
}
