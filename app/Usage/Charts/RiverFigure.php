<?php

declare(strict_types=1);

namespace App\Usage\Charts;

use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Figures\StackFigure;
use App\Platform\Figures\Svg;
use App\Telemetry\Usage\Amount;
use Closure;
use Fulcrion\Core\Usage\UsageMeasure;

/**
 * Use as a river: periods across, each team a ribbon as wide as its use, all in one order; what grows widens, what declines thins.
 */
final readonly class RiverFigure
{
    private const HEIGHT = 300;

    /** Half of the width of a period, over the way to the next one. */
    private const LEVEL = 0.28;

    /**
     * @param  list<string>  $periods names, oldest first
     * @param  array<string, list<int>>  $teams amount of each period by team, in the order they are drawn, from below
     * @param  int  $whole periods that are over; a later one is still going on
     * @param  Closure(string): ?string  $link
     */
    public static function draw(
        string $title,
        string $summary,
        string $how,
        array $periods,
        array $teams,
        int $whole,
        UsageMeasure $measure,
        Closure $link,
    ): Figure {
        $totals = array_fill(0, count($periods), 0);
        foreach ($teams as $values) {
            foreach ($values as $i => $value) {
                $totals[$i] += $value;
            }
        }
        $amount = static fn (int|float $value): string => Amount::of($measure, $value);
        $ticks = Amount::ticks($measure, (float) max([1, ...$totals]));
        $last = max(1, count($periods) - 1);
        $frame = new Frame(
            'river',
            $title,
            $summary,
            Axis::even(-0.5, $last + 0.5),
            Axis::upTo($ticks),
            height: self::HEIGHT,
            left: 84,
            top: 14,
            beside: 170,
            links: true,
        );
        $frame->add(StackFigure::patterns('river', count($teams)))->grid($ticks, $amount);
        $frame->along(array_map(static fn (string $name, int $i): string => $name, $periods, array_keys($periods)));
        $floor = array_fill(0, count($periods), 0);
        $place = 0;
        $rows = [];
        foreach ($teams as $team => $values) {
            $place++;
            $lower = $floor;
            foreach ($values as $i => $value) {
                $floor[$i] += $value;
            }
            $d = self::ribbon($frame, array_values($lower), array_values($floor));
            $said = [];
            foreach ($values as $i => $value) {
                $said[] = "{$periods[$i]} ".$amount($value);
            }
            $shape = "<path class=\"area s{$place}\" d=\"{$d}\"><title>".Svg::escape("{$team}: ".implode(', ', $said)).'</title></path>'.
                "<path class=\"hatch\" fill=\"url(#river-h{$place})\" d=\"{$d}\"/>";
            $href = $link((string) $team);
            $label = Svg::escape((string) $team);
            $frame->add($href === null ? $shape : '<a href="'.Svg::escape($href)."\" aria-label=\"{$label}\">{$shape}</a>");
            $end = count($values) - 1;
            $middle = $frame->y(($lower[$end] + $floor[$end]) / 2);
            // A name where its ribbon is as high as a letter.
            if ($frame->y((float) $lower[$end]) - $frame->y((float) $floor[$end]) >= 11) {
                $frame->text($frame->right + 6, $middle + 4, (string) $team, 'tick', '');
            }
            $rows[] = [(string) $team, ...array_map(static fn (int $value): string => $amount($value), $values)];
        }
        if ($whole < count($periods)) {
            $x = $frame->x($whole - 0.5);
            $frame->box('unfinished', $x, $frame->top, $frame->right - $x, $frame->bottom - $frame->top, "{$periods[$whole]} is not over");
        }
        $rows[] = ['all', ...array_map(static fn (int $value): string => $amount($value), $totals)];

        return $frame->figure($how, ['team', ...$periods], $rows);
    }

    /**
     * Level in each period, and bending over from one to the next.
     *
     * @param  list<int>  $lower
     * @param  list<int>  $upper
     */
    private static function ribbon(Frame $frame, array $lower, array $upper): string
    {
        $last = count($upper) - 1;

        return 'M'.self::edge($frame, $upper, range(0, $last), 1).'L'.self::edge($frame, $lower, range($last, 0), -1).'Z';
    }

    /**
     * @param  list<int>  $values
     * @param  list<int>  $order
     * @param  int  $way 1 to the right, -1 to the left
     */
    private static function edge(Frame $frame, array $values, array $order, int $way): string
    {
        $n = Svg::number(...);
        $d = '';
        foreach ($order as $k => $i) {
            $y = $n($frame->y((float) $values[$i]));
            [$in, $out] = [$frame->x($i - $way * self::LEVEL), $frame->x($i + $way * self::LEVEL)];
            if ($k === 0) {
                $in = $frame->x($i - $way * 0.5);
            }
            if ($k === count($order) - 1) {
                $out = $frame->x($i + $way * 0.5);
            }
            if ($k > 0) {
                $before = $order[$k - 1];
                $from = $frame->x($before + $way * self::LEVEL);
                $middle = ($from + $in) / 2;
                $d .= "C{$n($middle)} {$n($frame->y((float) $values[$before]))} {$n($middle)} {$y} {$n($in)} {$y}";
            } else {
                $d .= "{$n($in)} {$y}";
            }
            $d .= "H{$n($out)}";
        }

        return $d;
    }
}
