<?php

declare(strict_types=1);

namespace App\Jobs\Charts;

use App\Platform\Figures\Scale;
use App\Platform\Figures\Svg;
use Fulcrion\Core\Text\Quantity;

/**
 * A number of workers that changes over time, with the best fixed one; the table below says the same.
 */
final readonly class ElasticFigure
{
    private const WIDTH = 1180;

    private const HEIGHT = 150;

    private const LEFT = 84;

    private const TOP = 14;

    private const BOTTOM = 24;

    /**
     * @param  array{levels: list<array{int, int}>, timeUs: int, fixed: array{workers: int, timeUs: int, idle: float}, ...}  $elastic
     */
    public static function draw(array $elastic): string
    {
        $untilUs = max($elastic['timeUs'], $elastic['fixed']['timeUs'], 1);
        $most = max($elastic['fixed']['workers'], ...array_column($elastic['levels'], 1)) * 1.05;
        $x = static fn (float $us): float => self::LEFT + ($us / $untilUs) * (self::WIDTH - self::LEFT - 84);
        $y = static fn (float $workers): float => self::TOP + (1 - $workers / $most) * (self::HEIGHT - self::TOP - self::BOTTOM);
        $n = Svg::number(...);
        $svg =
            '<div class="scroll" tabindex="0" role="group" aria-label="Workers over time, figure"><svg class="figure-svg" viewBox="0 0 '.
            self::WIDTH.
            ' '.
            self::HEIGHT.
            '" role="img" aria-label="Workers over time; the table below says the same">';
        foreach (Scale::counts($most / 1.05) as $tick) {
            if ($tick <= $most) {
                $svg .=
                    '<line class="grid" x1="'.
                    self::LEFT.
                    '" x2="'.
                    $n($x($untilUs)).
                    '" y1="'.
                    $n($y($tick)).
                    '" y2="'.
                    $n($y($tick)).
                    '"/><text class="tick" x="'.
                    (self::LEFT - 8).
                    '" y="'.
                    $n($y($tick) + 4).
                    '" text-anchor="end">'.
                    Quantity::count($tick).
                    '</text>';
            }
        }
        foreach (Scale::durations($untilUs, 6) as $tick) {
            if ($tick <= $untilUs) {
                $svg .=
                    '<text class="tick" x="'.
                    $n($x($tick)).
                    '" y="'.
                    (self::HEIGHT - 6).
                    '" text-anchor="'.
                    ($tick > 0 ? 'middle' : 'start').
                    '">'.
                    ($tick > 0 ? Svg::escape(Quantity::duration($tick)) : 'start').
                    '</text>';
            }
        }
        $points = [[$x(0), $y(0)]];
        foreach ($elastic['levels'] as $i => [$at, $level]) {
            $points[] = [$x($at), $y($level)];
            $points[] = [$x($elastic['levels'][$i + 1][0] ?? $elastic['timeUs']), $y($level)];
        }
        $points[] = [$x($elastic['timeUs']), $y(0)];
        $fixed = [
            [$x(0), $y($elastic['fixed']['workers'])],
            [$x($elastic['fixed']['timeUs']), $y($elastic['fixed']['workers'])],
            [$x($elastic['fixed']['timeUs']), $y(0)],
        ];

        return $svg.
            '<path class="at-work" d="'.
            Svg::path($points).
            'Z"/><path class="modelled" d="'.
            Svg::path($fixed).
            '"/><text class="tick strong halo" x="'.
            $n($x($untilUs) + 6).
            '" y="'.
            $n($y($elastic['fixed']['workers']) + 4).
            '">fixed: '.
            Quantity::count($elastic['fixed']['workers']).
            '</text></svg></div>';
    }
}
