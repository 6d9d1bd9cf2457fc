<?php

declare(strict_types=1);

namespace App\Limits\Charts;

use App\Limits\Application\KeptAllowance;
use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Figures\Scale;
use App\Platform\Figures\Svg;
use App\Platform\Support\MomentStyle;
use Fulcrion\Core\Limits\AllowanceDay;
use Fulcrion\Core\Usage\Days;

/**
 * The balance day by day, filled up to where it stands and dashed where it goes; the cap as a rail, what is used beyond as bars that hang
 * from nothing.
 */
final readonly class AllowanceFigure
{
    private const HEIGHT = 230;

    /** Below nothing, of the height. */
    private const BELOW = 0.3;

    private const LABEL_DAYS = 7;

    public static function draw(KeptAllowance $one): Figure
    {
        $outlook = $one->outlook;
        $count = count($outlook->days);
        $top = max(1e-9, $outlook->allowance->cap);
        $beyond = max([0.0, ...array_map(static fn (AllowanceDay $day): float => $day->beyond, $outlook->days)]);
        $least = $beyond > 0.0 ? -max($top * self::BELOW, min($beyond, $top)) : 0.0;
        $frame = new Frame(
            "allowance-{$one->id}",
            ucfirst($one->measure->label())." of {$one->cluster->name}",
            "{$one->sentence()}.",
            Axis::even(0.0, (float) max(1, $count)),
            Axis::even($least, $top * 1.1),
            height: self::HEIGHT,
            top: 12,
            beside: 110,
            below: 26,
        );
        $frame->grid(Scale::ticks($top, 3), $one->amount(...));
        $labels = [];
        for ($place = 0; $place < $count; $place += self::LABEL_DAYS * max(1, intdiv($count, 80))) {
            $labels[$place] = onUtc($outlook->first + $place * Days::DAY, MomentStyle::ShortDay);
        }
        $frame->along($labels, within: true);
        $points = [[0.0, min($top, $outlook->allowance->start)]];
        foreach ($outlook->days as $place => $day) {
            $points[] = [(float) $place + 1, $day->balance];
        }
        $known = array_slice($points, 0, $outlook->known + 1);
        $foot = static fn (array $point): array => [$frame->x($point[0]), $frame->y(0.0)];
        $at = static fn (array $point): array => [$frame->x($point[0]), $frame->y($point[1])];
        $frame->path('balance', Svg::path([$foot($known[0]), ...array_map($at, $known), $foot($known[count($known) - 1])]));
        $frame->line('line s1', $known);
        $frame->line('expected', array_slice($points, $outlook->known));
        foreach ($outlook->days as $place => $day) {
            if ($day->beyond > 0.0) {
                $x = $frame->x((float) $place);
                $low = $frame->y(max($least, -$day->beyond));
                $frame->box($place < $outlook->known ? 'after-bar worse' : 'foreseen', $x, $frame->y(0.0),
                    max(1.0, $frame->x($place + 1.0) - $x - 1), $low - $frame->y(0.0),
                    onUtc($outlook->first + $place * Days::DAY, MomentStyle::ShortDay).": {$one->amount($day->beyond)} beyond");
            }
        }
        $frame->limitAcross($outlook->allowance->cap);
        $frame->text($frame->right + 8, $frame->y($outlook->allowance->cap) + 4, 'cap', 'tick', '');
        $frame->stroke('mark', $frame->x((float) $outlook->known), $frame->top, $frame->x((float) $outlook->known), $frame->bottom);

        return $frame->figure(
            'Filled: what was left at the end of each day. Dashed: as it goes on if use goes on as it is forecast. Below: what is used '
                .'beyond it, and costs; outlined where that is expected.',
            ['day', 'added', 'used', 'left', 'beyond'],
            self::rows($one),
        );
    }

    /**
     * @return list<list<string>>
     */
    private static function rows(KeptAllowance $one): array
    {
        $rows = [];
        foreach ($one->outlook->days as $place => $day) {
            $rows[] = [
                onUtc($one->outlook->first + $place * Days::DAY, MomentStyle::Weekday).($place < $one->outlook->known ? '' : ', expected'),
                $one->amount($day->added), $one->amount($day->used), $one->amount($day->balance), $one->amount($day->beyond),
            ];
        }

        return $rows;
    }
}
