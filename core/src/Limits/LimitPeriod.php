<?php

declare(strict_types=1);

namespace Fulcrion\Core\Limits;

use Fulcrion\Core\Usage\Days;

/**
 * The time in which amounts are counted together.
 */
enum LimitPeriod: string
{
    case Statement = 'statement';
    case Day = 'day';
    case Week = 'week';
    case Month = 'month';

    /**
     * The one a day lies in; of a single statement the day it begins on.
     *
     * @param  int  $day as a date of the estate's calendar
     */
    public function days(int $day): Days
    {
        return match ($this) {
            self::Statement, self::Day => new Days($day, $day + Days::DAY),
            self::Week => Days::week($day),
            self::Month => Days::month(gmdate('Y-m', $day)),
        };
    }
}
