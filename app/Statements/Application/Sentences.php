<?php

declare(strict_types=1);

namespace App\Statements\Application;

use DateTimeImmutable;
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
        $from = (new DateTimeImmutable('@'.$window->from))->setTimezone($scope->zone);
        $to = (new DateTimeImmutable('@'.$window->to))->setTimezone($scope->zone);

        return $from->format('Y-m-d') === $to->format('Y-m-d')
            ? 'on '.$from->format('D j M').' between '.$from->format('H:i').' and '.$to->format('H:i')
            : 'between '.$from->format('D j M H:i').' and '.$to->format('D j M H:i');
    }
}
