<?php

declare(strict_types=1);

namespace App\Platform\Providers;

use App\Ledger\Events\TableChanged;
use App\Platform\Models\User;
use App\Platform\Support\Role;
use App\Tune\Listeners\AuditChangedTable;
use Illuminate\Cache\RateLimiting\Limit;
use Illuminate\Http\Request;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Event;
use Illuminate\Support\Facades\Gate;
use Illuminate\Support\Facades\RateLimiter;
use Illuminate\Support\ServiceProvider;

final class PlatformProvider extends ServiceProvider
{
    public function boot(): void
    {
        $now = config('fulcrion.now');
        if (is_string($now) && $now !== '') {
            Carbon::setTestNow(Carbon::parse($now));
        }
        Event::listen(TableChanged::class, AuditChangedTable::class);
        RateLimiter::for('sign-in', static fn (Request $request): array => [
            Limit::perMinute(5)->by(mb_strtolower((string) $request->string('email')).'|'.$request->ip()),
            Limit::perMinute(30)->by((string) $request->ip()),
        ]);
        RateLimiter::for('executions', static fn (Request $request): Limit => Limit::perMinute(600)->by((string) $request->bearerToken()));
        Gate::define('import', static fn (User $user): bool => in_array($user->role, [Role::Engineer, Role::Owner], true));
        Gate::define('connect', static fn (User $user): bool => in_array($user->role, [Role::Engineer, Role::Owner], true));
        Gate::define('run', static fn (User $user): bool => in_array($user->role, [Role::Engineer, Role::Owner], true));
        Gate::define('reveal', static fn (User $user): bool => $user->role !== Role::Viewer);
        Gate::define('own', static fn (User $user): bool => $user->role === Role::Owner);
    }
}
