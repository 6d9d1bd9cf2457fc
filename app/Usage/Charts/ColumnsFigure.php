<?php

declare(strict_types=1);

namespace App\Usage\Charts;

use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use App\Platform\Figures\StackFigure;
use App\Platform\Figures\Svg;
use App\Telemetry\Usage\Amount;
use App\Usage\Application\ExplorePage;
use App\Usage\Application\UsageGrid;

/**
 * A column for each value across, built of the largest rows; the rest is on top.
 */
final readonly class ColumnsFigure
{
    private const LAYERS = 5;

    public static function draw(ExplorePage $page): Figure
    {
        $grid = $page->grid;
        $measure = $page->scope->measure;
        $layers = self::layers($grid);
        $ticks = Amount::ticks($measure, (float) max([1, ...array_values($grid->columnTotals)]));
        $count = count($grid->columns);
        $frame = new Frame(
            'columns',
            ucfirst($page->what()).' by '.$page->columns->label(),
            $page->sentence().'.',
            Axis::even(0.0, (float) $count),
            Axis::upTo($ticks),
            height: 280,
            left: 84,
            top: 12,
            beside: 20,
            below: 26,
            links: true,
        );
        $frame->add(StackFigure::patterns('columns', count($layers) + 1))
            ->grid($ticks, static fn (float $value): string => Amount::of($measure, $value));
        $each = max(1, (int) ceil($count / 12));
        foreach ($grid->columns as $i => $column) {
            $left = $frame->x($i + 0.12);
            $width = $frame->x($i + 0.88) - $left;
            $floor = 0;
            $said = [];
            foreach ([...$layers, null] as $place => $row) {
                // What is not among the largest, whatever it is.
                $amount = $row === null ? $grid->columnTotals[$column] - $floor : $grid->cell($row, $column);
                if ($amount <= 0) {
                    continue;
                }
                $top = $frame->y((float) ($floor + $amount));
                $height = $frame->y((float) $floor) - $top;
                $n = $place + 1;
                [$x, $y, $w, $h] = array_map(Svg::number(...), [$left, $top, $width, $height]);
                $at = "x=\"{$x}\" y=\"{$y}\" width=\"{$w}\" height=\"{$h}\"";
                $frame->add("<rect class=\"area s{$n}\" {$at}/><rect class=\"hatch\" fill=\"url(#columns-h{$n})\" {$at}/>");
                $floor += $amount;
                $layer = $row === null ? 'other' : mb_strimwidth($page->name($page->rows, $row), 0, 40, '…');
                $said[] = "{$layer} ".Amount::of($measure, $amount);
            }
            $name = $page->name($page->columns, $column);
            $frame->box(
                'slice',
                $frame->x((float) $i),
                $frame->top,
                $frame->x($i + 1.0) - $frame->x((float) $i),
                $frame->bottom - $frame->top,
                implode('; ', [
                    "{$name}: ".Amount::of($measure, $grid->columnTotals[$column]),
                    ...array_slice($said, 0, 3),
                ]),
                $page->behind(null, $column),
            );
            if ($i % $each === 0) {
                $frame->text($frame->x($i + 0.5), 280 - 8, mb_strimwidth($name, 0, (int) (13 * min(3, max(1, 12 / $count))), '…'));
            }
        }

        return $frame->figure(
            'Sums of usage facts; the largest '.count($layers).' by themselves, all others on top.',
            [$page->columns->label(), 'all'],
            array_map(static fn (string $column): array => [
                $page->name($page->columns, $column), Amount::of($measure, $grid->columnTotals[$column]),
            ], $grid->columns),
        );
    }

    /**
     * @return list<string> the largest rows
     */
    private static function layers(UsageGrid $grid): array
    {
        $rows = array_filter($grid->rows, static fn (string $row): bool => $row !== UsageGrid::OTHER);

        return array_slice(array_values($rows), 0, self::LAYERS);
    }

    /**
     * @return list<string> of the layers, for a legend
     */
    public static function names(ExplorePage $page): array
    {
        $names = array_map(
            static fn (string $row): string => mb_strimwidth($page->name($page->rows, $row), 0, 40, '…'),
            self::layers($page->grid),
        );

        return count($page->grid->rows) > count($names) ? [...$names, 'other'] : $names;
    }
}
