<?php

declare(strict_types=1);

namespace App\Platform\Http\Middleware;

use Closure;
use Illuminate\Http\Request;
use Symfony\Component\HttpFoundation\Response;

/**
 * Refuses addresses that give a list where pages take one value. Pages read their parameters as texts.
 */
final class FlatQuery
{
    /** Parameters that are lists of values. */
    private const LISTS = ['acts', 'changes', 'findings', 'items', 'labels', 'paths', 'rollups', 'statements', 'with'];

    public function handle(Request $request, Closure $next): Response
    {
        foreach ($request->query->all() as $name => $value) {
            $isList = in_array($name, self::LISTS, true);
            if (is_array($value) && (! $isList || array_filter($value, is_array(...)) !== [])) {
                abort(400, 'The address gives a list of values for "'.mb_strimwidth((string) $name, 0, 40, '…').'", which takes one.');
            }
        }

        return $next($request);
    }
}
