<?php

declare(strict_types=1);

namespace App\Capacity\Charts;

use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Figures\Scale;
use App\Platform\Support\MomentStyle;
use DateTimeZone;
use Fulcrion\Core\Capacity\Outage;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Time\Window;

/**
 * Days of a window, each as tall as the minutes in which nobody was answered.
 */
final readonly class AvailabilityFigure
{
    private const HEIGHT = 120;

    private const DAY = 86_400;

    /**
     * @param  list<Outage>  $outages
     * @return Figure|null null where there was none
     */
    public static function draw(array $outages, Window $window, DateTimeZone $zone): ?Figure
    {
        if ($outages === []) {
            return null;
        }
        $byDay = [];
        foreach ($outages as $one) {
            $day = $one->from - $one->from % self::DAY;
            $byDay[$day] = ($byDay[$day] ?? 0.0) + $one->seconds;
        }
        $ticks = Scale::durations(max($byDay) * 1e6, 2);
        $sum = array_sum($byDay);
        $share = 1 - $sum / max(1, $window->to - $window->from);
        $summary = 'Nobody was answered for '.Quantity::duration($sum * 1e6).'; answered '.sprintf('%.3f%%', 100 * $share).' of the time.';
        $frame = new Frame('availability', 'Time without an answer by day', $summary,
            Axis::even((float) $window->from, (float) $window->to),
            Axis::upTo($ticks), height: self::HEIGHT, top: 12, below: 26);
        $frame->grid($ticks, Quantity::duration(...));
        $frame->along(Scale::times($window->from, $window->to, $zone));
        $rows = [];
        foreach ($byDay as $day => $seconds) {
            $x = $frame->x(max($window->from, $day));
            $y = $frame->y($seconds * 1e6);
            $said = moment($day * 1_000_000, MomentStyle::Day, new DateTimeZone('UTC')).': '.Quantity::duration($seconds * 1e6);
            $frame->box('outage', $x, $y, max(3.0, $frame->x(min($window->to, $day + self::DAY)) - $x - 2), $frame->bottom - $y, $said);
            $rows[] = [moment($day * 1_000_000, MomentStyle::Day, new DateTimeZone('UTC')), Quantity::duration($seconds * 1e6)];
        }

        return $frame->figure(
            'Minutes of each day (UTC) in which nothing that was tried succeeded, by the part of the statements of each five minutes that '
                .'failed and by runs of the probe. A time in which nothing was tried counts as answered.',
            ['day', 'without an answer'],
            $rows,
        );
    }
}
