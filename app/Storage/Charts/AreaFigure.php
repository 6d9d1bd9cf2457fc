<?php

declare(strict_types=1);

namespace App\Storage\Charts;

use App\Platform\Figures\Figure;
use App\Platform\Figures\Svg;
use Fulcrion\Core\Text\Quantity;

/**
 * Tables as areas: as large as their bytes, as dark as their findings weigh. Rectangles are laid out in rows as near to
 * squares as they come (Bruls, Huizing and van Wijk, "Squarified treemaps", 2000).
 */
final readonly class AreaFigure
{
    private const WIDTH = 1180.0;

    private const HEIGHT = 300.0;

    /**
     * @param  list<array{name: string, bytes: int, weightUs: float, findings: int, href: string}>  $tables
     */
    public static function of(array $tables): Figure
    {
        $tables = array_values(array_filter($tables, static fn (array $table): bool => $table['bytes'] > 0));
        usort($tables, static fn (array $a, array $b): int => $b['bytes'] <=> $a['bytes']);
        $most = max([1.0, ...array_column($tables, 'weightUs')]);
        $svg =
            '<svg class="figure-svg area-svg" viewBox="0 0 1180 300" role="group" aria-labelledby="area-title"><title '
                .'id="area-title">Tables by size and weight of findings</title>';
        $rows = [];
        foreach (self::layout(array_map(static fn (array $table): float => (float) $table['bytes'], $tables)) as $i => [$x, $y, $w, $h]) {
            $table = $tables[$i];
            $tone = $table['findings'] === 0 ? 0 : max(1, (int) ceil(6 * sqrt($table['weightUs'] / $most)));
            $label =
                $table['name'].
                ': '.
                Quantity::bytes($table['bytes']).
                ', '.
                ($table['findings'] === 0
                    ? 'no findings'
                    : "{$table['findings']} findings that cost ".Quantity::duration($table['weightUs']).' a week');
            $rows[] = [
                $table['name'],
                Quantity::bytes($table['bytes']),
                (string) $table['findings'],
                Quantity::duration($table['weightUs']),
            ];
            $svg .=
                '<a href="'.
                Svg::escape($table['href']).
                '" aria-label="'.
                Svg::escape($label).
                '"><rect class="area-cell t'.
                $tone.
                '" x="'.
                Svg::number($x).
                '" y="'.
                Svg::number($y).
                '" width="'.
                Svg::number(max(0.5, $w - 1.5)).
                '" height="'.
                Svg::number(max(0.5, $h - 1.5)).
                '"><title>'.
                Svg::escape($label).
                '</title></rect>';
            $room = (int) (($w - 10) / 6.6);
            if ($room >= 5 && $h >= 20) {
                $svg .=
                    '<text class="cell-name'.
                    ($tone >= 4 ? ' light' : '').
                    '" x="'.
                    Svg::number($x + 6).
                    '" y="'.
                    Svg::number($y + 16).
                    '">'.
                    Svg::escape(mb_strimwidth($table['name'], 0, $room, '…')).
                    '</text>';
                if ($h >= 36 && $room >= 8) {
                    $svg .=
                        '<text class="cell-name'.
                        ($tone >= 4 ? ' light' : '').
                        '" x="'.
                        Svg::number($x + 6).
                        '" y="'.
                        Svg::number($y + 31).
                        '">'.
                        Svg::escape(Quantity::bytes($table['bytes'])).
                        '</text>';
                }
            }
            $svg .= '</a>';
        }

        return new Figure(
            $svg.'</svg>',
            '',
            'Each table is as large as the bytes it stores (copies on every node counted once a node) and as dark as its open findings '
                .'weigh in modelled time a week; white has none.',
            ['table', 'stored', 'findings', 'weight a week'],
            $rows,
        );
    }

    /**
     * @param  list<float>  $sizes largest first
     * @return list<array{float, float, float, float}> x, y, width, height
     */
    private static function layout(array $sizes): array
    {
        $all = array_sum($sizes);
        if ($all <= 0) {
            return [];
        }
        $scale = (self::WIDTH * self::HEIGHT) / $all;
        $areas = array_map(static fn (float $size): float => $size * $scale, $sizes);
        [$x, $y, $w, $h] = [0.0, 0.0, self::WIDTH, self::HEIGHT];
        $placed = [];
        for ($at = 0; $at < count($areas); $at += $count) {
            $side = min($w, $h);
            $count = 1;
            $best = self::worst(array_slice($areas, $at, 1), $side);
            while ($at + $count < count($areas)) {
                $next = self::worst(array_slice($areas, $at, $count + 1), $side);
                if ($next > $best) {
                    break;
                }
                $best = $next;
                $count++;
            }
            $row = array_slice($areas, $at, $count);
            $depth = $side > 0 ? array_sum($row) / $side : 0.0;
            $offset = 0.0;
            foreach ($row as $area) {
                $length = $depth > 0 ? $area / $depth : 0.0;
                $placed[] = $w >= $h ? [$x, $y + $offset, $depth, $length] : [$x + $offset, $y, $length, $depth];
                $offset += $length;
            }
            if ($w >= $h) {
                $x += $depth;
                $w -= $depth;
            } else {
                $y += $depth;
                $h -= $depth;
            }
        }

        return $placed;
    }

    /**
     * @param  list<float>  $row
     */
    private static function worst(array $row, float $side): float
    {
        $sum = array_sum($row);

        return $side <= 0 || $row === [] || min($row) <= 0
            ? INF
            : max(($side ** 2 * max($row)) / $sum ** 2, $sum ** 2 / ($side ** 2 * min($row)));
    }
}
