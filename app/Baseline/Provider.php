<?php

declare(strict_types=1);

namespace App\Baseline;

use App\Baseline\Application\BaselineBook;
use App\Baseline\Models\BaselineRun;
use App\Estate\Models\Cluster;
use App\Metrics\Events\HostBaselineSent;
use App\Metrics\Intake\HostRequests;
use App\Platform\Runs\BrokenRuns;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use App\Platform\Support\Role;
use Illuminate\Support\Facades\Event;

final class Provider extends Capability
{
    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        Event::listen(HostBaselineSent::class, BaselineBook::class);
        $this->callAfterResolving(BrokenRuns::class, static fn (BrokenRuns $runs) => $runs->ends(BaselineRun::class));
        $this->callAfterResolving(HostRequests::class, fn (HostRequests $requests) => $requests->register(
            fn (Cluster $cluster, string $host): ?array => $this->app->make(BaselineBook::class)->asked($cluster, $host),
        ));
    }

    protected function pages(): array
    {
        return [new Page(Bench::Tend, 'baseline', 'Baseline', 'baseline.show', group: 'Machines', rank: 54)];
    }

    protected function abilities(): array
    {
        return ['measure' => [Role::Engineer, Role::Owner]];
    }
}
