<?php

declare(strict_types=1);

namespace App\Platform\Figures;

use Closure;
use DateTimeZone;

/**
 * One quantity over time with an earlier period as a ghost behind it.
 */
final readonly class LineFigure
{
    private const WIDTH = 1180;

    private const HEIGHT = 210;

    private const LEFT = 70;

    private const TOP = 12;

    private const BOTTOM = 24;

    /**
     * @param  list<int>  $times
     * @param  list<float|int|null>  $now
     * @param  list<float|int|null>  $ghost the same number of intervals of the earlier period
     * @param  Closure(float): string  $format
     */
    public static function draw(
        string $id,
        string $title,
        string $summary,
        string $how,
        array $times,
        int $to,
        array $now,
        array $ghost,
        string $ghostName,
        DateTimeZone $zone,
        Closure $format,
        bool $isTime,
    ): Figure {
        $values = array_filter([...$now, ...$ghost], static fn (float|int|null $value): bool => $value !== null);
        $most = $values === [] ? 0.0 : (float) max($values);
        $ticks = $isTime ? Scale::durations($most) : Scale::counts($most);
        $top = end($ticks) ?: 1.0;
        $count = count($times);
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
            '" role="img" aria-labelledby="'.
            $id.
            '-title '.
            $id.
            '-desc">'.
            "<title id=\"{$id}-title\">".
            Svg::escape($title).
            "</title><desc id=\"{$id}-desc\">".
            Svg::escape($summary).
            '</desc>';
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
                Svg::escape($format($tick)).
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
        $svg .= self::line('ghost', $times, $ends, $ghost, $x, $y).self::line('line s1', $times, $ends, $now, $x, $y);
        $rows = [];
        foreach ($times as $i => $at) {
            $when = StackFigure::when($at, $ends[$i] - $at, $zone);
            $value = $now[$i] ?? null;
            $old = $ghost[$i] ?? null;
            $rows[] = [$when, $value === null ? '–' : $format((float) $value), $old === null ? '–' : $format((float) $old)];
            $svg .=
                '<rect class="slice" x="'.
                $n($x($at)).
                '" y="'.
                self::TOP.
                '" width="'.
                $n($x($ends[$i]) - $x($at)).
                '" height="'.
                (self::HEIGHT - self::TOP - self::BOTTOM).
                '"><title>'.
                Svg::escape(
                    "{$when}: ".
                        ($value === null ? 'not run' : $format((float) $value)).
                        "; {$ghostName}: ".
                        ($old === null ? 'not run' : $format((float) $old)),
                ).
                '</title></rect>';
        }

        return new Figure($svg.'</svg>', $summary, $how, ['interval', 'this window', $ghostName], $rows);
    }

    /**
     * @param  list<int>  $times
     * @param  list<int>  $ends
     * @param  list<float|int|null>  $values
     * @param  Closure(float): float  $x
     * @param  Closure(float): float  $y
     */
    private static function line(string $class, array $times, array $ends, array $values, Closure $x, Closure $y): string
    {
        $d = '';
        $dots = '';
        $open = false;
        foreach ($times as $i => $at) {
            $value = $values[$i] ?? null;
            if ($value === null) {
                $open = false;

                continue;
            }
            $px = Svg::number($x(($at + $ends[$i]) / 2));
            $py = Svg::number($y((float) $value));
            $d .= ($open ? 'L' : 'M')."{$px} {$py}";
            if (! $open && ($values[$i + 1] ?? null) === null) {
                $dots .= "<circle class=\"{$class} dot\" cx=\"{$px}\" cy=\"{$py}\" r=\"2.5\"/>";
            }
            $open = true;
        }

        return ($d === '' ? '' : "<path class=\"{$class}\" d=\"{$d}\"/>").$dots;
    }
}
