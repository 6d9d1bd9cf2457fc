<?php

declare(strict_types=1);

namespace App\Platform\Http\Middleware;

use Closure;
use Illuminate\Http\Request;
use Illuminate\Routing\Route;
use Symfony\Component\HttpFoundation\Response;

/**
 * Finds nothing by a number that no record can have, rather than fail at it.
 */
final class ShortNumbers
{
    /** Digits any number of 64 bits has at most, less one. */
    private const MOST = 18;

    public function handle(Request $request, Closure $next): Response
    {
        $route = $request->route();
        if (! $route instanceof Route) {
            return $next($request);
        }
        foreach ($route->wheres as $name => $pattern) {
            $given = $route->originalParameter($name);
            abort_if($pattern === '[0-9]+' && is_string($given) && strlen($given) > self::MOST, 404);
        }

        return $next($request);
    }
}
