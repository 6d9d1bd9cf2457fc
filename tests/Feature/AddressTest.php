<?php

declare(strict_types=1);

namespace Tests\Feature;

use Illuminate\Support\Facades\Route as Routes;
use Tests\TestCase;

/**
 * Addresses that are put together at once are those the framework would have made.
 */
final class AddressTest extends TestCase
{
    public function test_every_route_has_the_address_the_framework_makes(): void
    {
        $seen = 0;
        foreach (Routes::getRoutes()->getRoutes() as $route) {
            $name = $route->getName();
            if ($name === null || $name === '') {
                continue;
            }
            $names = $route->parameterNames();
            foreach ([[7, 8, 9], ['a-b', 'c.d', 'e_f'], ['a b', 'c/d', 'ü?&'], ['..', '.', 'x.'], ['x', '', '0']] as $values) {
                $list = array_slice($values, 0, count($names));
                if (in_array('', $list, true)) {
                    continue;
                }
                self::assertSame(route($name, $list, false), address($name, $list), $name);
                self::assertSame(
                    route($name, array_combine($names, $list), false),
                    address($name, array_combine($names, $list)),
                    "{$name} by name",
                );
                self::assertSame(route($name, [...$list, 'more' => 'x y'], false), address($name, [...$list, 'more' => 'x y']), $name);
                $seen++;
            }
        }
        self::assertGreaterThan(300, $seen);
    }

    public function test_one_value_needs_no_list_and_a_missing_one_is_an_error(): void
    {
        self::assertSame(route('finding.show', 12, false), address('finding.show', 12));
        $this->expectException(\Illuminate\Routing\Exceptions\UrlGenerationException::class);
        address('finding.show');
    }
}
