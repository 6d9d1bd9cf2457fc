<?php

declare(strict_types=1);

namespace App\Telemetry;

use App\Platform\Parts\PartBook;
use App\Platform\Runs\BrokenRuns;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use App\Platform\Support\Role;
use App\Telemetry\Collect\CollectorPart;
use App\Telemetry\Intake\BrokenImport;
use App\Telemetry\Models\Import;
use Illuminate\Console\Scheduling\Schedule;
use Illuminate\Database\Eloquent\Builder;

final class Provider extends Capability
{
    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        $this->callAfterResolving(PartBook::class, static fn (PartBook $parts) => $parts->register('collector', CollectorPart::of(...)));
        $this->callAfterResolving(BrokenRuns::class, static fn (BrokenRuns $runs) => $runs->register(
            static fn (): Builder => Import::query()->where('state', 'running'),
            BrokenImport::recover(...),
        ));
    }

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
    }
}
