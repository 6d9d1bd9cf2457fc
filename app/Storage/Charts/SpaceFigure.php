<?php

declare(strict_types=1);

namespace App\Storage\Charts;

use App\Platform\Figures\Figure;
use App\Platform\Figures\Scale;
use App\Platform\Figures\Svg;
use App\Storage\Application\RollupSet;
use Fulcrion\Core\Text\Quantity;

/**
 * What rollups save against the space they take: a stair, each step a rollup more or others in place of it.
 */
final readonly class SpaceFigure
{
    private const WIDTH = 1180;

    private const HEIGHT = 240;

    private const LEFT = 80;

    private const TOP = 14;

    private const BOTTOM = 40;

    /**
     * @param  list<RollupSet>  $sets smallest first
     */
    public static function draw(array $sets, RollupSet $shown, float $rowFactor, float $nowUs): Figure
    {
        $least = max(1.0, min([INF, ...array_map(static fn (RollupSet $s): float => $s->bytes() ?: INF, $sets)]) / 2);
        $most = max([0.0, ...array_map(static fn (RollupSet $s): float => $s->bytes(), $sets)]) * 1.5;
        $top = max([1.0, ...array_map(static fn (RollupSet $s): float => $s->savedUs(), $sets)]);
        $ticks = Scale::durations($top);
        $high = max($top, end($ticks) ?: 1.0);
        $n = Svg::number(...);
        // Space runs over magnitudes, so each tenfold has the same width.
        $x = static fn (float $bytes): float => self::LEFT +
            ((log(max($least, $bytes)) - log($least)) / max(1e-9, log($most) - log($least))) * (self::WIDTH - self::LEFT - 12);
        $y = static fn (float $us): float => self::TOP + (1 - $us / $high) * (self::HEIGHT - self::TOP - self::BOTTOM);
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
        $svg =
            '<svg class="figure-svg" viewBox="0 0 '.
            self::WIDTH.
            ' '.
            self::HEIGHT.
            '" role="img" aria-labelledby="space-title space-desc"><title id="space-title">Time saved a week against space</title><desc '
                .'id="space-desc">'.
            Svg::escape($summary).
            '</desc>';
        foreach ($ticks as $tick) {
            $svg .=
                '<line class="grid" x1="'.
                self::LEFT.
                '" x2="'.
                (self::WIDTH - 12).
                '" y1="'.
                $n($y($tick)).
                '" y2="'.
                $n($y($tick)).
                '"/><text class="tick" x="'.
                (self::LEFT - 6).
                '" y="'.
                $n($y($tick) + 4).
                '" text-anchor="end">'.
                Svg::escape(Quantity::duration($tick)).
                '</text>';
        }
        for ($bytes = 1024 ** floor(log($least * $rowFactor, 1024)); $bytes < $most * $rowFactor; $bytes *= 4) {
            if ($bytes >= $least * $rowFactor) {
                $svg .=
                    '<text class="tick" x="'.
                    $n($x($bytes / $rowFactor)).
                    '" y="'.
                    (self::HEIGHT - 22).
                    '" text-anchor="middle">'.
                    Svg::escape(Quantity::bytes($bytes)).
                    '</text>';
            }
        }
        $svg .=
            '<text class="tick" x="'.
            (self::WIDTH - 12).
            '" y="'.
            (self::HEIGHT - 6).
            '" text-anchor="end">space on the modelled cluster</text>';
        $path = '';
        $rows = [];
        $level = 0.0;
        foreach ($sets as $set) {
            if ($set->proposals !== []) {
                $path .=
                    ($path === '' ? 'M'.$n(self::LEFT).' '.$n($y(0)) : '').
                    'L'.
                    $n($x($set->bytes())).
                    ' '.
                    $n($y($level)).
                    'L'.
                    $n($x($set->bytes())).
                    ' '.
                    $n($y($set->savedUs()));
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
                $svg .=
                    '<circle class="dot s1" cx="'.
                    $n($x($set->bytes())).
                    '" cy="'.
                    $n($y($level)).
                    '" r="4"><title>'.
                    Svg::escape($said).
                    '</title></circle>';
                $rows[] = [
                    Quantity::bytes($set->bytes() * $rowFactor),
                    (string) count($set->proposals),
                    Quantity::duration($level),
                    $nowUs > 0 ? Quantity::percent($level / $nowUs) : Quantity::NONE,
                ];
            }
        }
        if ($path !== '') {
            $svg .= '<path class="line s1" d="'.$path.'L'.(self::WIDTH - 12).' '.$n($y($level)).'"/>';
        }
        $at = $n($x(max($least, $shown->bytes())));
        $svg .=
            '<g data-budget-line data-places="'.
            Svg::escape((string) json_encode(array_map(static fn (RollupSet $s): float => round($x(max($least, $s->bytes())), 1), $sets))).
            '" transform="translate('.
            $at.
            ' 0)"><line class="mark" x1="0" x2="0" y1="'.
            self::TOP.
            '" y2="'.
            (self::HEIGHT - self::BOTTOM).
            '"/><text class="tick strong" x="0" y="10" text-anchor="middle">chosen</text></g>';

        return new Figure(
            $svg.'</svg>',
            $summary,
            'For each space the set is chosen greedily by time saved a byte, each rollup beside those chosen before it (Harinarayan, '
                .'Rajaraman, Ullman 1996): worth at least 63% of the best set, less the share of the space its largest takes. Times are '
                .'modelled from executions of the last 28 days; space is estimated from the groups of a sample.',
            ['space', 'rollups', 'saves a week', 'of the time such statements take'],
            $rows,
        );
    }
}
