<?php

declare(strict_types=1);

namespace App\Storage\Charts;

use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Figures\Scale;
use App\Platform\Figures\Svg;
use App\Storage\Application\RollupSet;
use Fulcrion\Core\Text\Quantity;

/**
 * What rollups save against the space they take: a stair, each step a rollup more or others in place of it.
 */
final readonly class SpaceFigure
{
    /**
     * @param  list<RollupSet>  $sets smallest first
     */
    public static function draw(array $sets, RollupSet $shown, float $rowFactor, float $nowUs): Figure
    {
        $least = max(1.0, min([INF, ...array_map(static fn (RollupSet $s): float => $s->bytes() > 0 ? $s->bytes() : INF, $sets)]) / 2);
        $most = max([0.0, ...array_map(static fn (RollupSet $s): float => $s->bytes(), $sets)]) * 1.5;
        $top = max([1.0, ...array_map(static fn (RollupSet $s): float => $s->savedUs(), $sets)]);
        $ticks = Scale::durations($top);
        $n = Svg::number(...);
        $summary =
            'The more space, the more is saved: '.
            Quantity::duration($shown->savedUs()).
            ' a week in '.
            Quantity::bytes($shown->bytes() * $rowFactor).
            ' as chosen, at most '.
            Quantity::duration($top).
            ' in '.
            Quantity::bytes(($most / 1.5) * $rowFactor).
            '.';
        $frame = new Frame(
            'space',
            'Time saved a week against space',
            $summary,
            Axis::magnitudes($least, $most),
            Axis::even(0.0, max($top, Axis::top($ticks))),
            height: 240,
            left: 80,
            below: 40,
            beside: 12,
        );
        $labels = [];
        for ($bytes = 1024 ** floor(log($least * $rowFactor, 1024)); $bytes < $most * $rowFactor; $bytes *= 4) {
            if ($bytes >= $least * $rowFactor) {
                $labels[(string) ($bytes / $rowFactor)] = Quantity::bytes($bytes);
            }
        }
        $frame->grid($ticks, Quantity::duration(...))->along($labels, 22)->names('', 'space on the modelled cluster');
        $path = '';
        $rows = [];
        $level = 0.0;
        foreach ($sets as $set) {
            if ($set->proposals !== []) {
                $path .=
                    ($path === '' ? 'M'.$n($frame->left).' '.$n($frame->y(0)) : '').
                    'L'.
                    $n($frame->x($set->bytes())).
                    ' '.
                    $n($frame->y($level)).
                    'L'.
                    $n($frame->x($set->bytes())).
                    ' '.
                    $n($frame->y($set->savedUs()));
                $level = $set->savedUs();
                $said =
                    count($set->proposals).
                    ' '.
                    (count($set->proposals) === 1 ? 'rollup' : 'rollups').
                    ', '.
                    Quantity::bytes($set->bytes() * $rowFactor).
                    ': saves '.
                    Quantity::duration($level).
                    ' a week';
                $frame->dot('dot s1', $frame->x($set->bytes()), $frame->y($level), 4, $said);
                $rows[] = [
                    Quantity::bytes($set->bytes() * $rowFactor),
                    (string) count($set->proposals),
                    Quantity::duration($level),
                    $nowUs > 0 ? Quantity::percent($level / $nowUs) : Quantity::NONE,
                ];
            }
        }
        if ($path !== '') {
            $frame->path('line s1', $path.'L'.$n($frame->right).' '.$n($frame->y($level)));
        }
        $places = array_map(static fn (RollupSet $s): float => round($frame->x(max($least, $s->bytes())), 1), $sets);
        $frame->add(
            '<g data-budget-line data-places="'.
            Svg::escape((string) json_encode($places)).
            '" transform="translate('.
            $n($frame->x(max($least, $shown->bytes()))).
            ' 0)"><line class="mark" x1="0" x2="0" y1="'.
            $frame->top.
            '" y2="'.
            $n($frame->bottom).
            '"/><text class="tick strong" x="0" y="10" text-anchor="middle">chosen</text></g>',
        );

        return $frame->figure(
            'For each space the set is chosen greedily by time saved a byte, each rollup beside those chosen before it (Harinarayan, '
                .'Rajaraman, Ullman 1996): worth at least 63% of the best set, less the share of the space its largest takes. Times are '
                .'modelled from executions of the last 28 days; space is estimated from the groups of a sample.',
            ['space', 'rollups', 'saves a week', 'of the time such statements take'],
            $rows,
        );
    }
}
