<?php

declare(strict_types=1);

namespace App\Alerts\Charts;

use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Figures\Scale;
use App\Platform\Support\MomentStyle;
use DateTimeZone;
use Fulcrion\Core\Text\Quantity;

/**
 * What happened when: lanes on one axis of time, what lasted as bars and what happened once as marks.
 */
final readonly class LanesFigure
{
    private const ROW = 26;

    private const BAR = 12;

    private const LETTERS = 22;

    /**
     * @param  list<array{string, list<array{int, int|null, string, string}>}>  $lanes name of each and what is in it: first second, first
     *     second after it or null where it happened once, what is said of it, and class of its bar
     */
    public static function draw(
        string $id,
        string $title,
        string $summary,
        string $how,
        array $lanes,
        int $from,
        int $to,
        DateTimeZone $zone,
    ): Figure {
        $frame = new Frame(
            $id,
            $title,
            $summary,
            Axis::even((float) $from, (float) $to),
            Axis::even(0.0, (float) max(1, count($lanes))),
            height: 34 + self::ROW * max(1, count($lanes)),
            left: 168,
            top: 8,
            beside: 10,
        );
        $frame->hatch("{$id}-quiet", 'waits-line', 5);
        $frame->along(Scale::times($from, $to, $zone), within: true);
        $rows = [];
        foreach ($lanes as $place => [$name, $items]) {
            $y = $frame->top + self::ROW * ($place + 0.5);
            $frame->stroke('grid', $frame->left, $y, $frame->right, $y);
            $frame->text($frame->left - 8, $y + 4, mb_strimwidth($name, 0, self::LETTERS, '…'), 'tick', 'end');
            foreach ($items as [$began, $ended, $said, $class]) {
                $x = $frame->x((float) max($from, $began));
                if ($ended === null) {
                    $frame->dot("happened {$class}", $x, $y, 4.5, $said);
                } else {
                    $frame->box("lasted {$class}", $x, $y - self::BAR / 2, max(3.0, $frame->x((float) min($to, $ended)) - $x), self::BAR,
                        $said);
                }
                $rows[] = [$name, moment($began * 1_000_000, MomentStyle::Second, $zone),
                    $ended === null ? '' : Quantity::duration(($ended - $began) * 1e6), $said];
            }
        }
        usort($rows, static fn (array $a, array $b): int => $a[1] <=> $b[1]);

        return $frame->figure($how, ['lane', 'when', 'for', 'what'], $rows);
    }
}
