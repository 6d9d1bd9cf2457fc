<?php

declare(strict_types=1);

/**
 * The address of a route within this application, as pages link to it: no page writes an address out.
 *
 * @param  mixed  $parameters one value, or several in the order of the address or by name; what the address has no place for
 *                            becomes its query
 */
function address(string $route, mixed $parameters = []): string
{
    return route($route, $parameters, false);
}
