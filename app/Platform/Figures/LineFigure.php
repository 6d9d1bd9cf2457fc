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
        $from = $times[0];
        // The first and the last interval end with the window.
        $ends = [...array_slice($times, 1), $to];
        $frame = new Frame($id, $title, $summary, Axis::even($from, $to), Axis::upTo($ticks), height: 210, left: 70, top: 12);
        $frame->grid($ticks, $format)->along(Scale::times($from, $to, $zone), within: true);
        $frame->add(self::line('ghost', $times, $ends, $ghost, $frame).self::line('line s1', $times, $ends, $now, $frame));
        $rows = [];
        foreach ($times as $i => $at) {
            $when = StackFigure::when($at, $ends[$i] - $at, $zone);
            $value = $now[$i] ?? null;
            $old = $ghost[$i] ?? null;
            $rows[] = [$when, $value === null ? '–' : $format((float) $value), $old === null ? '–' : $format((float) $old)];
            $frame->box(
                'slice',
                $frame->x($at),
                $frame->top,
                $frame->x($ends[$i]) - $frame->x($at),
                $frame->bottom - $frame->top,
                "{$when}: ".
                    ($value === null ? 'not run' : $format((float) $value)).
                    "; {$ghostName}: ".
                    ($old === null ? 'not run' : $format((float) $old)),
            );
        }

        return $frame->figure($how, ['interval', 'this window', $ghostName], $rows);
    }

    /**
     * @param  list<int>  $times
     * @param  list<int>  $ends
     * @param  list<float|int|null>  $values
     */
    private static function line(string $class, array $times, array $ends, array $values, Frame $frame): string
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
            $px = Svg::number($frame->x(($at + $ends[$i]) / 2));
            $py = Svg::number($frame->y((float) $value));
            $d .= ($open ? 'L' : 'M')."{$px} {$py}";
            if (! $open && ($values[$i + 1] ?? null) === null) {
                $dots .= "<circle class=\"{$class} dot\" cx=\"{$px}\" cy=\"{$py}\" r=\"2.5\"/>";
            }
            $open = true;
        }

        return ($d === '' ? '' : "<path class=\"{$class}\" d=\"{$d}\"/>").$dots;
    }
}
