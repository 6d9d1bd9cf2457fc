<?php

declare(strict_types=1);

namespace Fulcrion\Core\Cost;

use Fulcrion\Core\Usage\Days;

/**
 * The time a budget is for.
 */
enum BudgetPeriod: string
{
    case Month = 'month';
    case Quarter = 'quarter';

    private const MONTHS = 3;

    /**
     * The one a day lies in.
     *
     * @param  int  $day as a date
     */
    public function days(int $day): Days
    {
        $month = Days::month(gmdate('Y-m', $day));
        if ($this === self::Month) {
            return $month;
        }
        $before = ((int) gmdate('n', $day) - 1) % self::MONTHS;
        [$from, $to] = [$month->from, $month->to];
        for ($i = 0; $i < $before; $i++) {
            $from = Days::month(gmdate('Y-m', $from - 1))->from;
        }
        for ($i = $before + 1; $i < self::MONTHS; $i++) {
            $to = Days::month(gmdate('Y-m', $to))->to;
        }

        return new Days($from, $to);
    }
}
