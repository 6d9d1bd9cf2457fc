<?php

declare(strict_types=1);

namespace App\Platform\Http\Middleware;

use App\Platform\Support\StyleNonce;
use Closure;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\Response;

final class SecurityHeaders
{
    private const POLICY =
        "default-src 'none'; script-src 'self'; style-src 'self'%s; img-src 'self' data:; font-src 'self'; ".
        "connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";

    public function handle(Request $request, Closure $next): Response
    {
        $response = $next($request);
        $nonce = StyleNonce::asked($request);
        $response->headers->set('Content-Security-Policy', sprintf(self::POLICY, $nonce === null ? '' : " 'nonce-{$nonce}'"));
        $response->headers->set('X-Content-Type-Options', 'nosniff');
        $response->headers->set('Referrer-Policy', 'same-origin');
        $response->headers->set('Cross-Origin-Opener-Policy', 'same-origin');
        $response->headers->set('Permissions-Policy', 'camera=(), microphone=(), geolocation=()');

        return $response;
    }
}
