<?php

declare(strict_types=1);

namespace App\Storage;

use App\Ledger\Events\TableChanged;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use App\Storage\Application\AuditChangedTable;
use Illuminate\Console\Scheduling\Schedule;
use Illuminate\Support\Facades\Event;

final class Provider extends Capability
{
    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        Event::listen(TableChanged::class, AuditChangedTable::class);
    }

    protected function pages(): array
    {
        return [
            new Page(Bench::Tune, 'layout', 'Layout', '/tune/layout', 'Improve'),
            new Page(Bench::Tune, 'rollups', 'Rollups and lookups', '/tune/rollups', 'Improve'),
            new Page(Bench::Tune, 'encodings', 'Encodings', '/tune/encodings', 'Improve'),
        ];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('storage:audit')->hourlyAt(7)->withoutOverlapping(50);
        $schedule->command('storage:maintain')->everyFiveMinutes()->withoutOverlapping(120);
        $schedule->command('storage:refresh')->everyFiveMinutes()->withoutOverlapping(60);
    }
}
