<?php

declare(strict_types=1);

namespace App\Metrics;

use App\Estate\Models\Cluster;
use App\Metrics\Intake\HostRequests;
use App\Metrics\Places\KeptPlace;
use App\Metrics\Places\MovePlace;
use App\Metrics\Places\PlaceMove;
use App\Metrics\Places\Places;
use App\Metrics\Signals\HostSignals;
use App\Metrics\Signals\SignalSources;
use App\Metrics\Store\ReadingsPart;
use App\Platform\Parts\PartBook;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use Illuminate\Console\Scheduling\Schedule;
use Illuminate\Support\Facades\DB;

final class Provider extends Capability
{
    public function register(): void
    {
        $this->app->scoped(Places::class);
        $this->app->scoped(SignalSources::class);
        $this->app->scoped(HostRequests::class);
    }

    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        Cluster::deleted($this->removed(...));
        $this->callAfterResolving(PartBook::class, static fn (PartBook $parts) => $parts->register('readings', ReadingsPart::of(...)));
        $this->callAfterResolving(SignalSources::class,
            fn (SignalSources $sources) => $sources->register($this->app->make(HostSignals::class)));
    }

    /** What is kept of a cluster is taken away with it, elsewhere as soon as that can be reached. */
    private function removed(Cluster $cluster): void
    {
        $place = KeptPlace::of($cluster->id);
        if ($place === null) {
            PlaceMove::end($cluster->id);
        } else {
            MovePlace::dispatch($place->id);
        }
    }

    protected function pages(): array
    {
        return [new Page(Bench::Tend, 'sources', 'Sources of metrics', 'source.index', group: 'Sources', rank: 80)];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('metrics:read-host')->everyTenSeconds()->withoutOverlapping(1);
        $schedule->command('metrics:scrape')->everyTenSeconds()->withoutOverlapping(5)
            ->when(static fn (): bool => DB::table('metric_scrapes')->exists());
        $schedule->command('metrics:seal')->hourlyAt(4)->withoutOverlapping(30);
    }
}
