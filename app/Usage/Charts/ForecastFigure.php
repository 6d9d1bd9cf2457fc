<?php

declare(strict_types=1);

namespace App\Usage\Charts;

use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Figures\Svg;
use App\Platform\Support\MomentStyle;
use App\Usage\Application\ForecastPage;
use Fulcrion\Core\Forecast\PeriodForecast;
use Fulcrion\Core\Usage\Days;

/**
 * A month added up day by day: a line for what was, the middle path as dashes, where half, four of five and nineteen of twenty such
 * forecasts end as widening hatch, and what was to be said earlier as thin lines.
 */
final readonly class ForecastFigure
{
    private const HEIGHT = 300;

    private const PARTS = ['p95' => 0.95, 'p80' => 0.8, 'p50' => 0.5];

    public static function draw(ForecastPage $page, PeriodForecast $all): Figure
    {
        $count = $all->period->count();
        $top = max([1.0, $all->expected(), $all->range(0.95)[1] ?? 0.0, ...array_map(
            static fn (PeriodForecast $one): float => $one->expected(), $page->earlier,
        )]);
        $ticks = $page->ticks($top);
        $frame = new Frame(
            'forecast',
            ucfirst($page->measure()).', '.$all->period->describe(),
            "{$page->sentence()}.",
            Axis::even(0.0, (float) $count),
            Axis::upTo($ticks),
            height: self::HEIGHT,
            top: 14,
            beside: 130,
            below: 26,
        );
        $frame->hatch('forecast-hatch', 'fan-line');
        $frame->grid($ticks, $page->amount(...));
        $frame->along(self::days($all->period));
        foreach (self::PARTS as $class => $part) {
            $frame->path("fan {$class}", self::fan($frame, $all, $part));
        }
        foreach ($page->earlier as $one) {
            $frame->line('ghost', self::ahead($one));
        }
        $frame->line('line s1', self::over($all));
        $frame->line('expected', self::ahead($all));
        $frame->stroke('mark', $frame->x($count - $all->ahead), $frame->top, $frame->x($count - $all->ahead), $frame->bottom);
        $frame->text($frame->right + 8, $frame->y($all->expected()) + 4, $page->amount($all->expected()), 'tick strong', '');

        return $frame->figure(
            'A line: what was used, day by day added up. Dashes: what is expected. Hatched: where half, four of five and, faint, nineteen '
                .'of twenty such forecasts end, by how wrong the same way of forecasting was on each of the last days. Thin: what was to '
                .'be said one, two and three weeks ago.',
            ['day', 'used or expected', 'all so far', 'four of five between'],
            self::rows($page, $all),
        );
    }

    /**
     * @return array<int, string> place => name
     */
    private static function days(Days $month): array
    {
        $names = [];
        foreach ($month->starts() as $place => $day) {
            if ($place % 5 === 0) {
                $names[$place] = onUtc($day, MomentStyle::ShortDay);
            }
        }

        return $names;
    }

    /**
     * @return list<array{float, float}>
     */
    private static function over(PeriodForecast $one): array
    {
        $points = [[0.0, 0.0]];
        $sum = 0.0;
        foreach ($one->days() as $place => $amount) {
            $sum += $amount;
            $points[] = [(float) $place + 1, $sum];
        }

        return $points;
    }

    /**
     * @return list<array{float, float}>
     */
    private static function ahead(PeriodForecast $one): array
    {
        $sum = $one->used();
        $from = $one->period->count() - $one->ahead;
        $points = [[(float) $from, $sum]];
        foreach (array_slice($one->forecast->days, 0, $one->ahead) as $place => $amount) {
            $sum += $amount;
            $points[] = [(float) $from + $place + 1, $sum];
        }

        return $points;
    }

    private static function fan(Frame $frame, PeriodForecast $one, float $part): string
    {
        $from = $one->period->count() - $one->ahead;
        $start = [$frame->x((float) $from), $frame->y($one->used())];
        $low = $high = [];
        for ($h = 1; $h <= $one->ahead; $h++) {
            $range = $one->range($part, $h);
            if ($range === null) {
                return '';
            }
            $low[] = [$frame->x((float) $from + $h), $frame->y($range[0])];
            $high[] = [$frame->x((float) $from + $h), $frame->y($range[1])];
        }

        return Svg::path([$start, ...$high, ...array_reverse($low), $start]);
    }

    /**
     * @return list<list<string>>
     */
    private static function rows(ForecastPage $page, PeriodForecast $all): array
    {
        $rows = [];
        $sum = 0.0;
        foreach ($all->period->starts() as $place => $day) {
            $over = $all->period->count() - $all->ahead;
            $amount = $place < $over ? $all->days()[$place] : $all->forecast->days[$place - $over];
            $sum += $amount;
            $range = $place < $over ? null : $all->range(0.8, $place - $over + 1);
            $rows[] = [
                onUtc($day, MomentStyle::Weekday).($place < $over ? '' : ', expected'), $page->amount($amount), $page->amount($sum),
                $range === null ? '' : "{$page->amount($range[0])} and {$page->amount($range[1])}",
            ];
        }

        return $rows;
    }
}
