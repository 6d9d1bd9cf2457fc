<?php

declare(strict_types=1);

use App\Metrics\Places\PlaceError;
use App\Platform\Http\Middleware\FlatQuery;
use App\Platform\Http\Middleware\KeptToPages;
use App\Platform\Http\Middleware\RequireRole;
use App\Platform\Http\Middleware\SecurityHeaders;
use App\Platform\Http\Middleware\ShortNumbers;
use App\Platform\Sections\Sections;
use Illuminate\Auth\AuthenticationException;
use Illuminate\Foundation\Application;
use Illuminate\Foundation\Configuration\Exceptions;
use Illuminate\Foundation\Configuration\Middleware;
use Illuminate\Http\Exceptions\PostTooLargeException;
use Illuminate\Http\Middleware\HandleCors;
use Illuminate\Http\Request;

$app = Application::configure(basePath: dirname(__DIR__))
    ->withRouting(using: static fn () => app(Sections::class)->routes(), health: '/up')
    ->withMiddleware(static function (Middleware $middleware): void {
        $middleware->remove(HandleCors::class);
        // Names people may call it by; behind a proxy of its own name, APP_URL says which.
        $middleware->trustHosts(
            at: static fn (): array => array_map(
                static fn (string $host): string => '^'.preg_quote($host).'$',
                array_filter([
                    '127.0.0.1',
                    'localhost',
                    '[::1]',
                    (string) parse_url((string) config('app.url'), PHP_URL_HOST),
                    ...explode(',', (string) config('fulcrion.hosts')),
                ]),
            ),
            subdomains: false,
        );
        $middleware->append(SecurityHeaders::class);
        $middleware->append(FlatQuery::class);
        $middleware->web(append: [KeptToPages::class], prepend: [ShortNumbers::class]);
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
                ? response()->json(
                    [
                        'error' => 'This call needs a valid token: send it as "Authorization: Bearer TOKEN". Tokens are made on the '
                            .'page of a cluster.',
                    ],
                    401,
                )
                : null;
        });
        // Another server that keeps readings: what was sent is to be sent again, and people are told what to do.
        $exceptions->render(static function (PlaceError $error, Request $request) {
            return $request->is('api/*')
                ? response()->json(['message' => 'What keeps the readings cannot be used now. Send them again later.'], 503)
                : response()->view('errors.place', ['said' => $error->getMessage()], 503);
        });
        $exceptions->render(static function (PostTooLargeException $exception) {
            return response()->view('errors.413', [], 413);
        });
    })
    ->create();

$app->useStoragePath(dirname(__DIR__).'/var/'.(getenv('FULCRION_STORAGE') ?: 'storage'));

return $app;
