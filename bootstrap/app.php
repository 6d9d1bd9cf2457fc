<?php

declare(strict_types=1);

use App\Platform\Http\Middleware\FlatQuery;
use App\Platform\Http\Middleware\RequireRole;
use App\Platform\Http\Middleware\SecurityHeaders;
use Illuminate\Auth\AuthenticationException;
use Illuminate\Console\Scheduling\Schedule;
use Illuminate\Foundation\Application;
use Illuminate\Foundation\Configuration\Exceptions;
use Illuminate\Foundation\Configuration\Middleware;
use Illuminate\Http\Exceptions\PostTooLargeException;
use Illuminate\Http\Middleware\HandleCors;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Route;

$app = Application::configure(basePath: dirname(__DIR__))
    ->withProviders([
        App\Platform\Providers\PlatformProvider::class,
        App\Ledger\Providers\LedgerProvider::class,
        App\Tune\Providers\TuneProvider::class,
        App\Guard\Providers\GuardProvider::class,
        // Installed for development and the demo only.
        ...(class_exists(Fulcrion\Tools\ToolsProvider::class) ? [Fulcrion\Tools\ToolsProvider::class] : []),
    ])
    ->withCommands([
        dirname(__DIR__).'/app/Platform/Console',
        dirname(__DIR__).'/app/Estate/Console',
        dirname(__DIR__).'/app/Tune/Console',
        dirname(__DIR__).'/app/Ledger/Console',
        dirname(__DIR__).'/app/Guard/Console',
    ])
    ->withSchedule(static function (Schedule $schedule): void {
        $schedule->command('estate:collect')->everyTenSeconds()->withoutOverlapping(5);
        $schedule->command('estate:prune')->dailyAt('03:40')->withoutOverlapping(120);
        $schedule->command('tune:audit')->hourlyAt(7)->withoutOverlapping(50);
        $schedule->command('guard:audit')->hourlyAt(37)->withoutOverlapping(50);
        $schedule->command('tune:upkeep')->everyFiveMinutes()->withoutOverlapping(120);
        $schedule->command('tune:refresh')->everyFiveMinutes()->withoutOverlapping(60);
        $schedule->command('tune:tonight')->everyMinute()->withoutOverlapping(5);
        $schedule->command('tune:nightly-jobs')->everyFiveMinutes()->withoutOverlapping(60);
        $schedule->command('tune:judge-jobs')->everyFifteenMinutes()->withoutOverlapping(60);
        $schedule->command('ledger:recover')->everyMinute()->withoutOverlapping(5);
        $schedule->command('ledger:post')->everyMinute()->withoutOverlapping(5);
        $schedule->command('ledger:post --digest')->dailyAt('06:00')->withoutOverlapping(5);
        $schedule->command('ledger:expire')->hourlyAt(20)->withoutOverlapping(30);
        $schedule->command('tune:prune')->hourly()->withoutOverlapping(30);
        $schedule->command('estate:resume')->everyMinute()->withoutOverlapping(5);
        $schedule->command('platform:tidy')->hourlyAt(50)->withoutOverlapping(30);
    })
    ->withRouting(
        using: static function (): void {
            Route::middleware('web')->group(static function (): void {
                foreach (['Platform', 'Round', 'Tune', 'Guard', 'Tend', 'Ledger'] as $bench) {
                    Route::group([], dirname(__DIR__)."/app/{$bench}/routes.php");
                }
            });
            foreach (['Estate/routes', 'Tune/api'] as $file) {
                Route::middleware('api')->prefix('api')->group(dirname(__DIR__)."/app/{$file}.php");
            }
        },
        health: '/up',
    )
    ->withMiddleware(static function (Middleware $middleware): void {
        $middleware->remove(HandleCors::class);
        // Names people may call it by; behind a proxy of its own name, APP_URL says which.
        $middleware->trustHosts(at: static fn (): array => array_map(static fn (string $host): string => '^'.preg_quote($host).'$', array_filter([
            '127.0.0.1', 'localhost', '[::1]', (string) parse_url((string) config('app.url'), PHP_URL_HOST), ...explode(',', (string) config('fulcrion.hosts')),
        ])), subdomains: false);
        $middleware->append(SecurityHeaders::class);
        $middleware->append(FlatQuery::class);
        $middleware->alias(['role' => RequireRole::class]);
        $middleware->redirectGuestsTo('/sign-in');
        $middleware->redirectUsersTo('/');
        $middleware->api(remove: ['throttle:api']);
        $middleware->trimStrings(except: ['password', 'sql']);
    })
    ->withExceptions(static function (Exceptions $exceptions): void {
        $exceptions->dontFlash(['password', 'password_confirmation', 'secret']);
        $exceptions->shouldRenderJsonWhen(static fn (Request $request): bool => $request->is('api/*') || $request->expectsJson());
        $exceptions->render(static function (AuthenticationException $exception, Request $request) {
            return $request->is('api/*')
                ? response()->json(['error' => 'This call needs a valid token: send it as "Authorization: Bearer TOKEN". Tokens are made on the page of a cluster.'], 401)
                : null;
        });
        $exceptions->render(static function (PostTooLargeException $exception) {
            return response()->view('errors.413', [], 413);
        });
    })
    ->create();

$app->useStoragePath(dirname(__DIR__).'/var/'.(getenv('FULCRION_STORAGE') ?: 'storage'));

return $app;
