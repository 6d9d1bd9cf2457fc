<?php

declare(strict_types=1);

namespace App\Platform\Http\Middleware;

use App\Platform\Models\User;
use App\Platform\Sections\Sections;
use Closure;
use Illuminate\Http\Request;
use Illuminate\Support\Str;
use Symfony\Component\HttpFoundation\Response;

/**
 * Keeps people to the pages a capability keeps them to; their own account, and the way out, are always theirs.
 */
final readonly class KeptToPages
{
    private const OWN = ['login', 'sign-in.*', 'account.edit', 'account.update', 'account.password'];

    public function __construct(private Sections $sections)
    {
    }

    public function handle(Request $request, Closure $next): Response
    {
        $user = $request->user();
        $kept = $user instanceof User ? $this->sections->keptTo($user) : null;
        $name = (string) $request->route()?->getName();
        if ($kept === null || Str::is([...self::OWN, ...$kept], $name)) {
            return $next($request);
        }
        if ($name === 'round') {
            return redirect(address($kept[0]));
        }
        abort(403, 'You see the use and cost of some teams only; this page is about all of them.');
    }
}
