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
        array $now,
        array $ghost,
        string $ghostName,
        DateTimeZone $zone,
        Closure $format,
        bool $isTime,
        array $gaps = [],
        array $marks = [],
    ): Figure {
        $values = array_filter([...$now, ...$ghost], static fn (float|int|null $value): bool => $value !== null);
        $most = $values === [] ? 0.0 : (float) max($values);
        $ticks = $isTime ? Scale::durations($most) : Scale::counts($most);
        $from = $times[0];
        // The first and the last interval end with the window.
        $ends = [...array_slice($times, 1), $to];
        $frame = new Frame($id, $title, $summary, Axis::even($from, $to), Axis::upTo($ticks), height: 210, left: 70, top: 12);
        $frame->grid($ticks, $format)->along(Scale::times($from, $to, $zone), within: true);
        $frame->gaps($gaps, $from, $to);
        $frame->broken('ghost', self::points($times, $ends, $ghost))->broken('line s1', self::points($times, $ends, $now));
        $frame->marks($marks);
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

        $lines = [['ghost', $ghost], ['line s1', $now]];
        $plot = new TimePlot(false, $times, $to, $lines, Scale::labelled($ticks, $format), 210, 70, $zone, $gaps, $marks);

        return $frame->figure($how, ['interval', 'this window', $ghostName], $rows, $plot);
    }

    /**
     * @param  list<int>  $times
     * @param  list<int>  $ends
     * @param  list<float|int|null>  $values
     * @return list<array{float, float|null}> in the middle of their intervals
     */
    private static function points(array $times, array $ends, array $values): array
    {
        $points = [];
        foreach ($times as $i => $at) {
            $value = $values[$i] ?? null;
            $points[] = [($at + $ends[$i]) / 2, $value === null ? null : (float) $value];
        }

        return $points;
    }
}
