<?php

declare(strict_types=1);

namespace App\Metrics;

use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use Illuminate\Console\Scheduling\Schedule;
use Illuminate\Support\Facades\DB;

final class Provider extends Capability
{
    protected function pages(): array
    {
        return [new Page(Bench::Tend, 'sources', 'Sources of metrics', 'source.index', rank: 80)];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('metrics:read-host')->everyTenSeconds()->withoutOverlapping(1);
        $schedule->command('metrics:scrape')->everyTenSeconds()->withoutOverlapping(5)
            ->when(static fn (): bool => DB::table('metric_scrapes')->exists());
        $schedule->command('metrics:seal')->hourlyAt(4)->withoutOverlapping(30);
    }
}
