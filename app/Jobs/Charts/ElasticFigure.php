<?php

declare(strict_types=1);

namespace App\Jobs\Charts;

use App\Platform\Figures\Axis;
use App\Platform\Figures\Frame;
use App\Platform\Figures\Scale;
use App\Platform\Figures\Svg;
use Fulcrion\Core\Text\Quantity;

/**
 * A number of workers that changes over time, with the best fixed one; the table below says the same.
 */
final readonly class ElasticFigure
{
    /**
     * @param  array{levels: list<array{int, int}>, timeUs: int, fixed: array{workers: int, timeUs: int, idle: float}, ...}  $elastic
     */
    public static function draw(array $elastic): string
    {
        $untilUs = max($elastic['timeUs'], $elastic['fixed']['timeUs'], 1);
        $most = max($elastic['fixed']['workers'], ...array_column($elastic['levels'], 1)) * 1.05;
        $frame = new Frame(
            'elastic',
            'Workers over time',
            'The table below says the same.',
            Axis::even(0.0, (float) $untilUs),
            Axis::even(0.0, $most),
            height: 150,
            beside: 84,
        );
        $counts = array_filter(Scale::counts($most / 1.05), static fn (float $tick): bool => $tick <= $most);
        $times = [];
        foreach (Scale::durations($untilUs, 6) as $tick) {
            if ($tick > 0 && $tick <= $untilUs) {
                $times[(string) $tick] = Quantity::duration($tick);
            }
        }
        $frame->grid($counts, Quantity::count(...), 8)->text($frame->left, $frame->height - 6, 'start', 'tick', 'start')->along($times);
        $points = [[0.0, 0.0]];
        foreach ($elastic['levels'] as $i => [$at, $level]) {
            $points[] = [(float) $at, (float) $level];
            $points[] = [(float) ($elastic['levels'][$i + 1][0] ?? $elastic['timeUs']), (float) $level];
        }
        $points[] = [(float) $elastic['timeUs'], 0.0];
        [$workers, $fixedUs] = [(float) $elastic['fixed']['workers'], (float) $elastic['fixed']['timeUs']];
        $place = static fn (array $point): array => [$frame->x($point[0]), $frame->y($point[1])];
        $frame->path('at-work', Svg::path(array_map($place, $points)).'Z')
            ->line('modelled', [[0.0, $workers], [$fixedUs, $workers], [$fixedUs, 0.0]])
            ->text($frame->right + 6, $frame->y($workers) + 4, 'fixed: '.Quantity::count($workers), 'tick strong halo', '');

        return '<div class="scroll" tabindex="0" role="group" aria-label="Workers over time, figure">'.$frame->drawing().'</div>';
    }
}
