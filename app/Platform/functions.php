<?php

declare(strict_types=1);

use Illuminate\Http\Request;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Facades\Route as Routes;

/**
 * The address of a route within this application, as pages link to it: no page writes an address out.
 *
 * @param  mixed  $parameters one value, or several in the order of the address or by name; what the address has no place for
 *                            becomes its query
 */
function address(string $route, mixed $parameters = []): string
{
    // A page has hundreds of links; most need no more than their few values put into the address.
    static $parts = [];
    $parts[$route] ??= explode('{', Routes::getRoutes()->getByName($route)?->uri() ?? '?');
    $address = "/{$parts[$route][0]}";
    $values = array_values(is_array($parameters) ? $parameters : [$parameters]);
    $plain = $address !== '//' && count($values) === count($parts[$route]) - 1 && array_is_list((array) $parameters);
    foreach ($plain ? $values : [] as $i => $value) {
        $rest = explode('}', $parts[$route][$i + 1], 2);
        $said = is_int($value) || (is_string($value) && preg_match('~^[\w.-]*\w$~', $value) === 1);
        $plain = $plain && $said && ! str_ends_with($rest[0], '?');
        $address .= $plain ? $value.$rest[1] : '';
    }
    if ($plain && ! str_contains($address, '?')) {
        return $address;
    }

    return route($route, $parameters, false);
}

/** The one file a form sent; where several came by that name, or none, the request is refused. */
function upload(Request $request, string $name = 'file'): UploadedFile
{
    $file = $request->file($name);

    return $file instanceof UploadedFile ? $file : abort(422, 'Choose one file.');
}
