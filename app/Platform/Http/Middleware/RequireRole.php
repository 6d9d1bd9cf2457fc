<?php

declare(strict_types=1);

namespace App\Platform\Http\Middleware;

use App\Platform\Models\User;
use App\Platform\Support\Role;
use Closure;
use Illuminate\Http\Request;
use Illuminate\Support\Facades\Auth;
use Symfony\Component\HttpFoundation\Response;

/**
 * Lets pass whom a route names: role:engineer,steward. The owner always passes.
 */
final class RequireRole
{
    public function handle(Request $request, Closure $next, string ...$roles): Response
    {
        $user = $request->user();
        if ($user instanceof User && $user->disabled_at !== null) {
            Auth::logout();
            $request->session()->invalidate();

            return redirect(address('login'));
        }
        $allowed =
            $user instanceof User && ($user->role === Role::Owner || $roles === ['any'] || in_array($user->role->value, $roles, true));
        abort_unless($allowed, 403, 'This needs the role '.implode(' or ', [...$roles, 'owner']).'.');

        return $next($request);
    }
}
