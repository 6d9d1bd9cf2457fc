<?php

declare(strict_types=1);

namespace App\Platform;

use App\Platform\Parts\OwnParts;
use App\Platform\Parts\PartBook;
use App\Platform\Runs\BrokenRuns;
use App\Platform\Sections\Bench;
use App\Platform\Sections\Capability;
use App\Platform\Sections\Page;
use App\Platform\Sections\Sections;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use Illuminate\Cache\RateLimiting\Limit;
use Illuminate\Console\Scheduling\Schedule;
use Illuminate\Contracts\Cache\Repository;
use Illuminate\Http\Request;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\RateLimiter;

final class Provider extends Capability
{
    public function register(): void
    {
        $this->app->singleton(Sections::class);
        $this->app->singleton(BrokenRuns::class);
        $this->app->singleton(PartBook::class);
    }

    public function boot(Sections $sections): void
    {
        parent::boot($sections);
        $now = config('fulcrion.now');
        if (is_string($now) && $now !== '') {
            Carbon::setTestNow(Carbon::parse($now));
        }
        $this->callAfterResolving(PartBook::class, fn (PartBook $parts) => $this->app->make(OwnParts::class)->register($parts));
        RateLimiter::for(
            'sign-in',
            static fn (Request $request): array => [
                Limit::perMinute(5)->by(mb_strtolower((string) $request->string('email')).'|'.$request->ip()),
                Limit::perMinute(30)->by((string) $request->ip()),
            ],
        );
        RateLimiter::for('executions', static fn (Request $request): Limit => Limit::perMinute(600)->by((string) $request->bearerToken()));
    }

    protected function pages(): array
    {
        return [new Page(Bench::Tend, 'parts', 'Fulcrion itself', 'parts.show', group: 'Sources', rank: 95)];
    }

    protected function abilities(): array
    {
        return ['own' => [Role::Owner]];
    }

    protected function schedule(Schedule $schedule): void
    {
        $schedule->call(static fn (Repository $cache) => $cache->forever(OwnParts::BEAT, Clock::seconds()))->everyMinute();
        $schedule->command('platform:recover')->everyMinute()->withoutOverlapping(5);
        $schedule->command('platform:tidy')->hourlyAt(50)->withoutOverlapping(30);
    }
}
