<?php

declare(strict_types=1);

namespace App\Guard\Providers;

use App\Estate\Access\Doorkeeper;
use App\Guard\Policy\PolicyDoorkeeper;
use App\Guard\Policy\PolicyStore;
use App\Guard\Policy\PublishedPeople;
use App\Guard\World\History;
use App\Guard\World\WorldReader;
use App\Guard\Written\AccessWriter;
use App\Ledger\Changes\Performers;
use App\Platform\Models\User;
use App\Platform\Support\PolicyPeople;
use App\Platform\Support\Role;
use Illuminate\Support\Facades\Gate;
use Illuminate\Support\ServiceProvider;

final class GuardProvider extends ServiceProvider
{
    public function register(): void
    {
        // What a request or a job has read of the world must not outlive it.
        foreach ([WorldReader::class, PolicyStore::class, History::class] as $class) {
            $this->app->scoped($class);
        }
        $this->app->bind(Doorkeeper::class, PolicyDoorkeeper::class);
        $this->app->bind(PolicyPeople::class, PublishedPeople::class);
        $this->app->tag([AccessWriter::class], Performers::TAG);
    }

    public function boot(): void
    {
        Gate::define('guard', static fn (User $user): bool => in_array($user->role, [Role::Steward, Role::Owner], true));
    }
}
