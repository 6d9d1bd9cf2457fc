<?php

declare(strict_types=1);

namespace App\Access;

use App\Access\Application\AccessCatalogReader;
use App\Access\Application\AccessHistory;
use App\Access\Application\PolicyAuthorizer;
use App\Access\Application\PolicyStore;
use App\Access\Application\Provisioner;
use App\Access\Application\PublishedPeople;
use App\Estate\Authorization\QueryAuthorizer;
use App\Ledger\Changes\ChangeExecutors;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Support\PolicyPeople;
use App\Platform\Support\Role;
use Illuminate\Console\Scheduling\Schedule;

final class Provider extends Capability
{
    public function register(): void
    {
        // What a request or a job has read of the world must not outlive it.
        foreach ([AccessCatalogReader::class, PolicyStore::class, AccessHistory::class] as $class) {
            $this->app->scoped($class);
        }
        $this->app->bind(QueryAuthorizer::class, PolicyAuthorizer::class);
        $this->app->bind(PolicyPeople::class, PublishedPeople::class);
        $this->app->tag([Provisioner::class], ChangeExecutors::TAG);
    }

    protected function pages(): array
    {
        return [
            new Page(Bench::Guard, 'access', 'Access', '/guard'),
            new Page(Bench::Guard, 'try', 'Try as', '/guard/try', ability: 'guard'),
            new Page(Bench::Guard, 'draft', 'Draft', '/guard/draft', ability: 'guard'),
            new Page(Bench::Guard, 'policy', 'Policy', '/guard/policy'),
            new Page(Bench::Guard, 'labels', 'Labels', '/guard/labels', ability: 'guard'),
            new Page(Bench::Guard, 'review', 'Review', '/guard/review', ability: 'guard'),
            new Page(Bench::Guard, 'products', 'Products', '/guard/products'),
            new Page(Bench::Guard, 'requests', 'Requests', '/guard/requests'),
            new Page(Bench::Guard, 'decisions', 'Decisions', '/guard/decisions'),
        ];
    }

    protected function abilities(): array
    {
        return ['guard' => [Role::Steward, Role::Owner]];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->command('access:audit')->hourlyAt(37)->withoutOverlapping(50);
    }
}
