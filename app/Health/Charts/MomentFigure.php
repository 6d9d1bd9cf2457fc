<?php

declare(strict_types=1);

namespace App\Health\Charts;

use App\Health\Application\InFlight;
use App\Health\Application\InFlightAt;
use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Support\MomentStyle;
use DateTimeZone;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Core\Time\Steps;

/**
 * A cut through time: an upright line at the moment, its minute as a band, and each execution in flight then a bar from its start to its
 * end, thick by what it read; what it waited in a queue first is hatched. What happened stands as marks.
 */
final readonly class MomentFigure
{
    private const ROW = 20;

    private const MOST = 30;

    /** Seconds that are shown on each side at least, and at most. */
    private const LEAST = 60;

    private const LONGEST = 3_600;

    private const STEPS = [10, 30, 60, 300, 600, 1_800];

    private const LABELS = 8;

    private const THIN = 3.0;

    private const THICK = 14.0;

    /**
     * @param  list<InFlight>  $executions the longest first
     * @param  array<int, string>  $marks what happened, by Unix second
     */
    public static function draw(array $executions, int $at, array $marks, DateTimeZone $zone): ?Figure
    {
        if ($executions === []) {
            return null;
        }
        $shown = array_slice($executions, 0, self::MOST);
        $before = max(array_map(static fn (InFlight $one): int => $at - intdiv($one->startedUs, 1_000_000), $shown));
        $after = max(array_map(static fn (InFlight $one): int => intdiv($one->endedUs(), 1_000_000) + 1 - $at, $shown));
        $from = $at - max(self::LEAST, min(self::LONGEST, $before));
        $to = $at + max(self::LEAST, min(self::LONGEST, $after));
        $most = max([1, ...array_map(static fn (InFlight $one): int => $one->bytesRead, $shown)]);
        $frame = new Frame(
            'moment',
            'In flight in that minute',
            count($executions).' '.(count($executions) === 1 ? 'execution was' : 'executions were').' in flight, the longest for '
                .Quantity::duration((float) $executions[0]->durationUs).'.',
            Axis::even((float) $from, (float) $to),
            Axis::even(0.0, (float) count($shown)),
            height: 50 + self::ROW * count($shown),
            left: 120,
            top: 20,
            beside: 10,
        );
        $frame->hatch('moment-waits', 'waits-line', 5);
        $frame->along(self::times($from, $to, $zone), within: true);
        $frame->box('usual', $frame->x((float) $at), $frame->top - 6, $frame->x((float) $at + InFlightAt::MINUTE) - $frame->x((float) $at),
            $frame->bottom - $frame->top + 6);
        $rows = [];
        foreach ($shown as $place => $one) {
            $y = $frame->top + self::ROW * ($place + 0.5);
            $thick = self::THIN + (self::THICK - self::THIN) * sqrt($one->bytesRead / $most);
            $began = max((float) $from, $one->startedUs / 1e6);
            $ended = min((float) $to, $one->endedUs() / 1e6);
            $ran = min($ended, max($began, ($one->startedUs + $one->waitedUs) / 1e6));
            $said = "{$one->user}: ".moment($one->startedUs, MomentStyle::Second, $zone).', '.Quantity::duration((float) $one->durationUs)
                .($one->waitedUs > 0 ? ', of which it waited '.Quantity::duration((float) $one->waitedUs) : '')
                .', read '.Quantity::bytes($one->bytesRead);
            $frame->text($frame->left - 8, $y + 4, mb_strimwidth($one->user === '' ? 'not known' : $one->user, 0, 16, '…'), 'tick', 'end');
            if ($ran > $began) {
                $long = max(1.0, $frame->x($ran) - $frame->x($began));
                $frame->box('waited-part', $frame->x($began), $y - self::THIN, $long, 2 * self::THIN, $said);
            }
            $frame->box('flight', $frame->x($ran), $y - $thick / 2, max(1.5, $frame->x($ended) - $frame->x($ran)), $thick, $said);
            $rows[] = [
                mb_strimwidth($one->text, 0, 120, '…'), $one->user, moment($one->startedUs, MomentStyle::Second, $zone),
                Quantity::duration((float) $one->durationUs), Quantity::duration((float) $one->waitedUs), Quantity::bytes($one->bytesRead),
            ];
        }
        $frame->marks(array_filter($marks, static fn (int $second): bool => $second >= $from && $second < $to, ARRAY_FILTER_USE_KEY));
        $frame->stroke('mark', $frame->x((float) $at), $frame->top - 6, $frame->x((float) $at), $frame->bottom);

        return $frame->figure('Each bar is an execution from its start to its end, thick by what it read; the part it waited in a queue is '
            .'hatched. Of each statement and hour the slowest and a few others are kept one by one, so that short ones may be missing.',
            ['statement', 'account', 'began', 'took', 'waited', 'read'], $rows);
    }

    /**
     * @return array<int, string> labels by Unix second
     */
    private static function times(int $from, int $to, DateTimeZone $zone): array
    {
        $step = Steps::shortest($to - $from, self::STEPS, self::LABELS);
        $labels = [];
        for ($at = intdiv($from + $step - 1, $step) * $step; $at <= $to; $at += $step) {
            $labels[$at] = moment($at * 1_000_000, MomentStyle::Clock, $zone);
        }

        return $labels;
    }
}
