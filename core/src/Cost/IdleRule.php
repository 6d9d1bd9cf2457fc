<?php

declare(strict_types=1);

namespace Fulcrion\Core\Cost;

/**
 * Where the cost of the time goes in which nothing ran.
 */
enum IdleRule: string
{
    case OwnLine = 'own_line';
    case InProportion = 'in_proportion';
    case ToReservers = 'to_reservers';

    public function label(): string
    {
        return match ($this) {
            self::OwnLine => 'a line of its own',
            self::InProportion => 'spread in proportion to use',
            self::ToReservers => 'charged to those who reserved it, as far as they did not use it',
        };
    }
}
