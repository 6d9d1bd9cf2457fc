<?php

declare(strict_types=1);

namespace App\Platform\Sections;

/**
 * An entry of the navigation.
 */
final readonly class Page
{
    /**
     * @param  string  $name what a page says of itself to be marked as the present one; empty where the bench itself leads to it
     * @param  string  $route name of the route it leads to
     * @param  string  $ability needed to see the entry; empty where everybody who is signed in does
     * @param  int  $rank its place in the group; equal ones stand in the order of the providers
     */
    public function __construct(
        public Bench $bench,
        public string $name,
        public string $label,
        public string $route,
        public string $group = '',
        public string $ability = '',
        public int $rank = 50,
    ) {
    }

    public function address(): string
    {
        return address($this->route);
    }
}
