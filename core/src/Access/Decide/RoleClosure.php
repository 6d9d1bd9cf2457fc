<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Decide;

use Fulcrion\Core\Access\Policy\Item;

/**
 * Which roles somebody holds, directly or through roles that include others (NIST RBAC, hierarchical), and by which
 * path. Works without recursion, so that thousands of roles may be nested.
 */
final readonly class RoleClosure
{
    /**
     * @param  array<string, Item>  $roles
     * @param  list<string>  $direct
     * @return array<string, string|null> role => the role it is held through, null when held directly
     */
    public static function of(array $roles, array $direct): array
    {
        $held = [];
        $open = [];
        foreach ($direct as $name) {
            if (isset($roles[$name]) && ! array_key_exists($name, $held)) {
                $held[$name] = null;
                $open[] = $name;
            }
        }
        for ($i = 0; $i < count($open); $i++) {
            foreach ($roles[$open[$i]]->texts('includes') as $inner) {
                if (isset($roles[$inner]) && ! array_key_exists($inner, $held)) {
                    $held[$inner] = $open[$i];
                    $open[] = $inner;
                }
            }
        }

        return $held;
    }

    /**
     * @param  array<string, string|null>  $held as given by of()
     * @return list<string> from the role held directly to the one asked for
     */
    public static function path(array $held, string $role): array
    {
        $path = [];
        for ($at = $role; $at !== null && ! in_array($at, $path, true); $at = $held[$at] ?? null) {
            array_unshift($path, $at);
        }

        return $path;
    }

    /**
     * A circle among roles that include each other.
     *
     * @param  array<string, Item>  $roles
     * @return list<string> from a role back to itself; none when there is no circle
     */
    public static function circle(array $roles): array
    {
        $done = [];
        foreach (array_keys($roles) as $start) {
            $start = (string) $start;
            if (isset($done[$start])) {
                continue;
            }
            $path = [$start];
            $place = [$start => 0];
            $next = [0];
            while ($path !== []) {
                $depth = count($path) - 1;
                $includes = $roles[$path[$depth]]->texts('includes');
                $at = $next[$depth]++;
                if ($at >= count($includes)) {
                    $done[$path[$depth]] = true;
                    unset($place[$path[$depth]]);
                    array_pop($path);
                    array_pop($next);

                    continue;
                }
                $inner = $includes[$at];
                if (isset($place[$inner])) {
                    return [...array_slice($path, $place[$inner]), $inner];
                }
                if (isset($roles[$inner]) && ! isset($done[$inner])) {
                    $place[$inner] = count($path);
                    $path[] = $inner;
                    $next[] = 0;
                }
            }
        }

        return [];
    }
}
