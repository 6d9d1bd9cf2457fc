<?php

declare(strict_types=1);

namespace App\Platform\Figures;

use App\Platform\Support\MomentStyle;
use Closure;
use DateTimeZone;
use Fulcrion\Core\Text\Quantity;

/**
 * Quantities over time stacked on each other; every interval is a link that narrows the window to it.
 */
final readonly class StackFigure
{
    /**
     * @param  list<int>  $times interval starts in Unix seconds
     * @param  int  $to end of the last one
     * @param  array<string, list<float>>  $series name => value for each interval
     * @param  list<int>  $samples executions for each interval
     * @param  (Closure(int, int): string)|null  $link address for an interval
     * @param  list<array{int, int}>  $gaps spans of which nothing is known
     * @param  array<int, string>  $marks what happened, by Unix second
     */
    public static function draw(
        string $id,
        string $title,
        string $summary,
        string $how,
        array $times,
        int $to,
        array $series,
        array $samples,
        DateTimeZone $zone,
        ?Closure $link = null,
        array $gaps = [],
        array $marks = [],
    ): Figure {
        $count = count($times);
        $totals = array_fill(0, $count, 0.0);
        foreach ($series as $values) {
            foreach ($values as $i => $value) {
                $totals[$i] += $value;
            }
        }
        $ticks = Scale::ticks($totals === [] ? 0.0 : max($totals));
        $from = $times[0];
        // The first and the last interval end with the window.
        $ends = [...array_slice($times, 1), $to];
        $frame = new Frame(
            $id,
            $title,
            $summary,
            Axis::even($from, $to),
            Axis::upTo($ticks),
            height: 250,
            left: 46,
            top: 12,
            links: $link !== null,
        );
        $frame->add(self::patterns($id, count($series)))->grid($ticks, Quantity::digits(...))
            ->along(Scale::times($from, $to, $zone), within: true);
        $frame->gaps($gaps, $from, $to);
        $n = Svg::number(...);
        $floor = array_fill(0, $count, 0.0);
        $place = 0;
        foreach ($series as $name => $values) {
            $place++;
            // In steps: along each interval, then up or down to the next.
            $upper = $lower = '';
            foreach ($values as $i => $value) {
                [$left, $right] = [$n($frame->x($times[$i])), $n($frame->x($ends[$i]))];
                $lower = "V{$n($frame->y($floor[$i]))}H{$left}{$lower}";
                $floor[$i] += $value;
                $upper .= ($i === 0 ? "M{$left} " : 'V').$n($frame->y($floor[$i]))."H{$right}";
            }
            $d = "{$upper}{$lower}Z";
            $frame->add("<path class=\"area s{$place}\" d=\"{$d}\"/><path class=\"hatch\" fill=\"url(#{$id}-h{$place})\" d=\"{$d}\"/>");
        }
        $frame->marks($marks);
        $rows = [];
        foreach ($times as $i => $at) {
            $when = self::when($at, $ends[$i] - $at, $zone);
            $parts = [];
            foreach ($series as $name => $values) {
                $parts[$name] = Quantity::digits($values[$i]);
            }
            $within = array_filter($gaps, static fn (array $gap): bool => $gap[0] < $ends[$i] && $gap[1] > $at);
            $isGap = $samples[$i] === 0 && $within !== [];
            // Of what nobody read it is not known that there was nothing.
            $rows[] = $isGap
                ? [$when, ...array_fill(0, count($parts) + 2, Quantity::NONE)]
                : [$when, Quantity::digits($totals[$i]), ...array_values($parts), Quantity::count($samples[$i])];
            arsort($parts);
            $said = $isGap
                ? "{$when}: not known, nothing was read"
                : "{$when}: ".Quantity::digits($totals[$i]).' in flight, from '.Quantity::count($samples[$i]).' executions';
            foreach (array_slice(array_filter($parts, static fn (string $value): bool => $value !== '0'), 0, 3) as $name => $value) {
                $said .= "; {$name} {$value}";
            }
            $frame->slice($at, $ends[$i], $said, $link === null ? null : $link($at, $ends[$i]));
        }

        $layers = [];
        foreach (array_values($series) as $i => $values) {
            $layers[] = ['s'.($i + 1), $values];
        }
        $plot = new TimePlot(
            true,
            $times,
            $to,
            $layers,
            Scale::labelled($ticks, Quantity::digits(...)),
            250,
            46,
            $zone,
            $gaps,
            $marks,
        );

        return $frame->figure($how, ['interval', 'load', ...array_keys($series), 'executions'], $rows, $plot);
    }

    public static function when(int $at, int $step, DateTimeZone $zone): string
    {
        return $step < 60 ? moment($at * 1_000_000, MomentStyle::Clock, $zone) : ($step >= 86_400
            ? moment($at * 1_000_000, MomentStyle::Weekday, $zone)
            : moment($at * 1_000_000, MomentStyle::Minute, $zone).'–'.moment(($at + $step) * 1_000_000, MomentStyle::Time, $zone));
    }

    /** Each series has its own hatch beside its colour. */
    public static function patterns(string $id, int $count): string
    {
        $marks = [
            1 => '',
            2 => '<path d="M0 8L8 0"/>',
            3 => '<path d="M0 4H8"/>',
            4 => '<path d="M0 0L8 8"/>',
            5 => '<path d="M4 0V8"/>',
            6 => '<circle cx="4" cy="4" r="1.2"/>',
        ];
        $defs = '';
        for ($i = 1; $i <= min(6, $count); $i++) {
            $defs .= "<pattern id=\"{$id}-h{$i}\" width=\"8\" height=\"8\" patternUnits=\"userSpaceOnUse\"><g "
                ."class=\"hatch-mark\">{$marks[$i]}</g></pattern>";
        }

        return "<defs>{$defs}</defs>";
    }

    /**
     * @param  list<string>  $names
     */
    public static function legend(string $id, array $names): string
    {
        $items = '';
        foreach ($names as $i => $name) {
            $place = $i + 1;
            $items .=
                "<li><svg class=\"swatch\" viewBox=\"0 0 18 12\" aria-hidden=\"true\"><rect class=\"area s{$place}\" width=\"18\" "
                    ."height=\"12\"/><rect class=\"hatch\" fill=\"url(#{$id}-h{$place})\" width=\"18\" height=\"12\"/></svg> ".
                Svg::escape($name).
                '</li>';
        }

        return "<ul class=\"legend\">{$items}</ul>";
    }
}
