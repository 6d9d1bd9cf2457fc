<?php

declare(strict_types=1);

namespace App\Usage;

use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Support\Role;
use Illuminate\Console\Scheduling\Schedule;

final class Provider extends Capability
{
    protected function pages(): array
    {
        return [
            new Page(Bench::Meter, 'usage', 'Usage', 'usage.index'),
            new Page(Bench::Meter, 'why', 'Why it changed', 'usage.why'),
            new Page(Bench::Meter, 'explore', 'Explore', 'usage.explore'),
            new Page(Bench::Meter, 'limits', 'Who sees whom', 'usage.limits', ability: 'limit-viewers'),
        ];
    }

    protected function abilities(): array
    {
        return ['keep-views' => Role::cases(), 'limit-viewers' => [Role::Owner]];
    }

    protected function schedule(Schedule $schedule): void
    {
        // Days that are not over follow their load.
        $schedule->command('usage:close')->everyFiveMinutes()->withoutOverlapping(30);
        // What came late is a correction.
        $schedule->command('usage:close --again')->dailyAt('01:40')->withoutOverlapping(120);
    }
}
