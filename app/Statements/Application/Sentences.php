<?php

declare(strict_types=1);

namespace App\Statements\Application;

use App\Platform\Support\MomentStyle;
use Fulcrion\Core\Time\Window;

/**
 * Windows in running text.
 */
final class Sentences
{
    public static function window(StatementScope $scope): string
    {
        return str_starts_with($scope->windowText, 'last ') ? "in the {$scope->windowText}" : self::span($scope->window, $scope);
    }

    public static function span(Window $window, StatementScope $scope): string
    {
        $say = static fn (int $at, MomentStyle $as): string => moment($at * 1_000_000, $as, $scope->zone);
        [$first, $last] = [$say($window->from, MomentStyle::Weekday), $say($window->to, MomentStyle::Weekday)];

        return $first === $last
            ? "on {$first} between {$say($window->from, MomentStyle::Time)} and {$say($window->to, MomentStyle::Time)}"
            : "between {$say($window->from, MomentStyle::Minute)} and {$say($window->to, MomentStyle::Minute)}";
    }
}
