<?php

declare(strict_types=1);

namespace App\Storage\Charts;

use App\Platform\Figures\Figure;
use App\Platform\Figures\Scale;
use App\Platform\Figures\Svg;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Text\Quantity;

/**
 * Rows by node, and by partition.
 */
final readonly class PlaceFigure
{
    private const WIDTH = 1180.0;

    private const HEIGHT = 150.0;

    private const MOST_BARS = 240;

    public static function nodes(TableLayout $table): Figure
    {
        $rows = $table->rowsByNode();
        $bytes = $table->bytesByNode();
        $bars = [];
        foreach ($rows as $node => $count) {
            $bars[] = [
                'node '.($node + 1),
                $count,
                Quantity::count($count).' rows, '.Quantity::bytes($bytes[$node] * $table->rowFactor),
                $bytes[$node],
            ];
        }
        $mean = array_sum($rows) / max(1, count($rows));

        return self::bars(
            'nodes',
            'Rows on each node',
            $bars,
            $mean,
            'Rows stored on each node; the line is the mean. Skew is the fullest node over the mean: '.
                Quantity::digits($table->skew()).
                '.',
            ['node', 'rows', 'bytes'],
            array_map(
                static fn (array $bar): array => [$bar[0], Quantity::count($bar[1]), Quantity::bytes($bar[3] * $table->rowFactor)],
                $bars,
            ),
        );
    }

    /**
     * @param  float|null  $read share of the rows the workload reads after skipping partitions
     */
    public static function partitions(TableLayout $table, ?float $read): Figure
    {
        $bars = [];
        foreach ($table->partitions() as $name => $one) {
            $bars[] = [
                (string) $name,
                $one['rows'],
                Quantity::count($one['rows']).' rows in '.Quantity::count($one['chunks']).' chunks',
                $one['bytes'],
            ];
        }
        $sum = array_sum(array_column($bars, 1));
        $mean = $sum / max(1, count($bars));
        $tiny = count(array_filter($bars, static fn (array $bar): bool => $bar[1] < $mean / 10));

        return self::bars(
            'partitions',
            'Rows in each partition',
            $bars,
            $mean,
            Quantity::count(count($bars)).
                ' partitions of '.
                Quantity::count((int) $mean).
                ' rows on average (the line)'.
                ($tiny > 0 ? ", {$tiny} of them below a tenth of that" : '').
                ($read === null
                    ? '; no filter of the workload is held against them.'
                    : '; the workload reads '.Quantity::percent($read).' of the rows after skipping partitions.'),
            ['partition', 'rows', 'chunks', 'bytes'],
            array_map(
                static fn (array $bar, array $one): array => [
                    $bar[0],
                    Quantity::count($bar[1]),
                    Quantity::count($one['chunks']),
                    Quantity::bytes($bar[3] * $table->rowFactor),
                ],
                array_slice($bars, 0, 600),
                array_slice(array_values($table->partitions()), 0, 600),
            ),
        );
    }

    /**
     * @param  list<array{string, int, string, int}>  $bars
     * @param  list<string>  $head
     * @param  list<list<string>>  $rows
     */
    private static function bars(string $id, string $title, array $bars, float $mean, string $how, array $head, array $rows): Figure
    {
        $shown = $bars;
        if (count($bars) > self::MOST_BARS) {
            // Neighbours share a bar; the fullest of them is shown.
            $size = max(1, (int) ceil(count($bars) / self::MOST_BARS));
            $shown = array_map(
                static fn (array $group): array => [
                    $group[0][0].' to '.$group[count($group) - 1][0],
                    max(array_column($group, 1)),
                    'at most '.Quantity::count(max(array_column($group, 1))).' rows',
                    0,
                ],
                array_chunk($bars, $size),
            );
        }
        $most = max([1, ...array_column($shown, 1)]);
        $ticks = Scale::ticks($most, 3);
        $top = $ticks[count($ticks) - 1];
        $y = static fn (float $value): float => self::HEIGHT - 22 - ($value / $top) * (self::HEIGHT - 36);
        $left = 62.0;
        $width = (self::WIDTH - $left) / max(1, count($shown));
        $svg =
            '<svg class="figure-svg" viewBox="0 0 1180 150" role="img" aria-labelledby="'.
            $id.
            '-title"><title id="'.
            $id.
            '-title">'.
            $title.
            '</title>';
        foreach ($ticks as $tick) {
            $svg .=
                '<line class="grid" x1="'.
                $left.
                '" x2="1180" y1="'.
                Svg::number($y($tick)).
                '" y2="'.
                Svg::number($y($tick)).
                '"/><text class="tick" text-anchor="end" x="'.
                ($left - 6).
                '" y="'.
                Svg::number($y($tick) + 4).
                '">'.
                Quantity::short($tick).
                '</text>';
        }
        foreach ($shown as $i => [$name, $count, $words]) {
            $x = $left + $i * $width;
            $svg .=
                '<rect class="bar s1" x="'.
                Svg::number($x + min(2.0, $width * 0.1)).
                '" y="'.
                Svg::number($y($count)).
                '" width="'.
                Svg::number(max(0.6, $width - min(4.0, $width * 0.2))).
                '" height="'.
                Svg::number(max(0.0, self::HEIGHT - 22 - $y($count))).
                '"><title>'.
                Svg::escape("{$name}: {$words}").
                '</title></rect>';
            $every = max(1, (int) ceil(count($shown) / 12));
            if ($i % $every === 0) {
                $svg .=
                    '<text class="tick" x="'.
                    Svg::number($x + 2).
                    '" y="'.
                    (self::HEIGHT - 6).
                    '">'.
                    Svg::escape(mb_strimwidth($name === '' ? 'all' : explode(' to ', $name)[0], 0, 13, '…')).
                    '</text>';
            }
        }
        $svg .=
            '<line class="mark" stroke-dasharray="5 3" x1="'.
            $left.
            '" x2="1180" y1="'.
            Svg::number($y($mean)).
            '" y2="'.
            Svg::number($y($mean)).
            '"/>';

        return new Figure($svg.'</svg>', $title, $how, $head, $rows);
    }
}
