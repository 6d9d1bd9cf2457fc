<?php

declare(strict_types=1);

namespace App\Platform\Figures;

use Closure;
use DateTimeImmutable;
use DateTimeZone;
use Fulcrion\Core\Text\Quantity;

/**
 * Quantities over time stacked on each other; every interval is a link that narrows the window to it.
 */
final readonly class StackFigure
{
    private const WIDTH = 1180;

    private const HEIGHT = 250;

    private const LEFT = 46;

    private const TOP = 12;

    private const BOTTOM = 24;

    /**
     * @param  list<int>  $times interval starts in Unix seconds
     * @param  int  $to end of the last one
     * @param  array<string, list<float>>  $series name => value for each interval
     * @param  list<int>  $samples executions for each interval
     * @param  (Closure(int, int): string)|null  $link address for an interval
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
    ): Figure {
        $count = count($times);
        $totals = array_fill(0, $count, 0.0);
        foreach ($series as $values) {
            foreach ($values as $i => $value) {
                $totals[$i] += $value;
            }
        }
        $ticks = Scale::ticks($totals === [] ? 0.0 : max($totals));
        $top = end($ticks) ?: 1.0;
        $from = $times[0];
        // The first and the last interval end with the window.
        $ends = [...array_slice($times, 1), $to];
        $x = static fn (float $at): float => self::LEFT + (($at - $from) / ($to - $from)) * (self::WIDTH - self::LEFT - 8);
        $y = static fn (float $value): float => self::TOP + (1 - $value / $top) * (self::HEIGHT - self::TOP - self::BOTTOM);
        $n = Svg::number(...);

        $svg =
            '<svg class="figure-svg" viewBox="0 0 '.
            self::WIDTH.
            ' '.
            self::HEIGHT.
            '" role="'.
            ($link === null ? 'img' : 'group').
            '" aria-labelledby="'.
            $id.
            '-title '.
            $id.
            '-desc">'.
            "<title id=\"{$id}-title\">".
            Svg::escape($title).
            "</title><desc id=\"{$id}-desc\">".
            Svg::escape($summary).
            '</desc>'.
            self::patterns($id, count($series));
        foreach ($ticks as $tick) {
            $svg .=
                '<line class="grid" x1="'.
                self::LEFT.
                '" x2="'.
                (self::WIDTH - 8).
                '" y1="'.
                $n($y($tick)).
                '" y2="'.
                $n($y($tick)).
                '"/>'.
                '<text class="tick" x="'.
                (self::LEFT - 6).
                '" y="'.
                $n($y($tick) + 4).
                '" text-anchor="end">'.
                Svg::escape(Quantity::digits($tick)).
                '</text>';
        }
        foreach (Scale::times($from, $to, $zone) as $at => $label) {
            $svg .=
                '<text class="tick" x="'.
                $n(min(self::WIDTH - 30, max(self::LEFT + 14, $x($at)))).
                '" y="'.
                (self::HEIGHT - 6).
                '" text-anchor="middle">'.
                $label.
                '</text>';
        }
        $floor = array_fill(0, $count, 0.0);
        $place = 0;
        foreach ($series as $name => $values) {
            $place++;
            // In steps: along each interval, then up or down to the next.
            $upper = $lower = '';
            foreach ($values as $i => $value) {
                [$left, $right] = [$n($x($times[$i])), $n($x($ends[$i]))];
                $lower = "V{$n($y($floor[$i]))}H{$left}{$lower}";
                $floor[$i] += $value;
                $upper .= ($i === 0 ? "M{$left} " : 'V').$n($y($floor[$i]))."H{$right}";
            }
            $d = "{$upper}{$lower}Z";
            $svg .= "<path class=\"area s{$place}\" d=\"{$d}\"/><path class=\"hatch\" fill=\"url(#{$id}-h{$place})\" d=\"{$d}\"/>";
        }
        $rows = [];
        foreach ($times as $i => $at) {
            $when = self::when($at, $ends[$i] - $at, $zone);
            $parts = [];
            foreach ($series as $name => $values) {
                $parts[$name] = Quantity::digits($values[$i]);
            }
            $rows[] = [$when, Quantity::digits($totals[$i]), ...array_values($parts), Quantity::count($samples[$i])];
            arsort($parts);
            $said = "{$when}: ".Quantity::digits($totals[$i]).' in flight, from '.Quantity::count($samples[$i]).' executions';
            foreach (array_slice(array_filter($parts, static fn (string $value): bool => $value !== '0'), 0, 3) as $name => $value) {
                $said .= "; {$name} {$value}";
            }
            $rect =
                '<rect class="slice" x="'.
                $n($x($at)).
                '" y="'.
                self::TOP.
                '" width="'.
                $n($x($ends[$i]) - $x($at)).
                '" height="'.
                (self::HEIGHT - self::TOP - self::BOTTOM).
                '"><title>'.
                Svg::escape($said).
                '</title></rect>';
            $svg .=
                $link === null
                    ? $rect
                    : '<a tabindex="-1" href="'.
                        Svg::escape($link($at, $ends[$i])).
                        '" aria-label="'.
                        Svg::escape($said).
                        '">'.
                        $rect.
                        '</a>';
        }

        return new Figure($svg.'</svg>', $summary, $how, ['interval', 'load', ...array_keys($series), 'executions'], $rows);
    }

    public static function when(int $at, int $step, DateTimeZone $zone): string
    {
        $start = (new DateTimeImmutable('@'.$at))->setTimezone($zone);
        $end = (new DateTimeImmutable('@'.($at + $step)))->setTimezone($zone);

        return $step >= 86_400 ? $start->format('D j M') : $start->format('D j M H:i').'–'.$end->format('H:i');
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
