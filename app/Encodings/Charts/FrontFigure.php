<?php

declare(strict_types=1);

namespace App\Encodings\Charts;

use App\Encodings\Application\LabPage;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Svg;
use Fulcrion\Core\Storage\Encodings\Variant;
use Fulcrion\Core\Text\Quantity;

/**
 * Size against time to read of every variant; those nothing beats in both are joined by a line.
 */
final readonly class FrontFigure
{
    private const WIDTH = 1180;

    private const HEIGHT = 300;

    private const LEFT = 84;

    private const TOP = 16;

    private const BOTTOM = 44;

    public static function draw(LabPage $page): Figure
    {
        $sizes = array_map($page->size(...), $page->variants) ?: [1.0];
        $reads = array_map(static fn (Variant $v): float => $v->readWorkNs, $page->variants) ?: [1.0];
        [$least, $most, $fast, $slow] = [min($sizes) * 0.9, max($sizes) * 1.1, max(1.0, min($reads) * 0.8), max(2.0, max($reads) * 1.25)];
        // Both run over magnitudes.
        $x = static fn (float $bytes): float => self::LEFT + (log($bytes / $least) / log($most / $least)) * (self::WIDTH - self::LEFT - 20);
        $y = static fn (float $ns): float => self::TOP +
            (1 - log(max($fast, $ns) / $fast) / log($slow / $fast)) * (self::HEIGHT - self::TOP - self::BOTTOM);
        $n = Svg::number(...);
        $summary =
            count($page->front).
            ' of '.
            count($page->variants).
            ' ways are beaten by no other in both size and time to read; the chosen one takes '.
            Quantity::bytes($page->size($page->chosen)).
            '.';
        $svg =
            '<svg class="figure-svg" viewBox="0 0 '.
            self::WIDTH.
            ' '.
            self::HEIGHT.
            '" role="img" aria-labelledby="front-title front-desc"><title id="front-title">Size against time to read</title><desc '
                .'id="front-desc">'.
            Svg::escape($summary).
            '</desc>';
        foreach ([10, 20, 50, 100, 200, 500, 1000, 2000, 5000, 10_000, 20_000] as $tick) {
            if ($tick > $fast && $tick < $slow) {
                $svg .=
                    '<line class="grid" x1="'.
                    self::LEFT.
                    '" x2="'.
                    (self::WIDTH - 20).
                    '" y1="'.
                    $n($y($tick)).
                    '" y2="'.
                    $n($y($tick)).
                    '"/><text class="tick" x="'.
                    (self::LEFT - 6).
                    '" y="'.
                    $n($y($tick) + 4).
                    '" text-anchor="end">'.
                    Quantity::count($tick).
                    ' ns</text>';
            }
        }
        for ($power = 0; $power < 60; $power++) {
            $bytes = 2.0 ** $power;
            if ($bytes > $least && $bytes < $most) {
                $svg .=
                    '<text class="tick" x="'.
                    $n($x($bytes)).
                    '" y="'.
                    (self::HEIGHT - 26).
                    '" text-anchor="middle">'.
                    Svg::escape(Quantity::bytes($bytes)).
                    '</text>';
            }
        }
        $svg .=
            '<text class="tick" x="'.
            self::LEFT.
            '" y="10">time to read what statements ask for, a row</text><text class="tick" x="'.
            (self::WIDTH - 20).
            '" y="'.
            (self::HEIGHT - 6).
            '" text-anchor="end">size of the whole table</text>';
        $path = '';
        foreach ($page->front as $i => $v) {
            $path .= ($i === 0 ? 'M' : 'L').$n($x($page->size($v))).' '.$n($y($v->readWorkNs));
        }
        $svg .= '<path class="line s1" d="'.$path.'"/>';
        $keys = array_map(static fn (Variant $v): string => $v->key(), $page->front);
        foreach ($page->variants as $v) {
            $front = in_array($v->key(), $keys, true);
            $title = "{$v->label()}: ".Quantity::bytes($page->size($v)).', '.Quantity::count(round($v->readWorkNs)).' ns a row';
            [$px, $py] = [$x($page->size($v)), $y($v->readWorkNs)];
            // Whole rows are squares, so that they are told apart without colour.
            $svg .=
                $v->policy === Variant::ROWS
                    ? '<rect class="dot s3" x="'.
                        $n($px - 4).
                        '" y="'.
                        $n($py - 4).
                        '" width="8" height="8"><title>'.
                        Svg::escape($title).
                        '</title></rect>'
                    : '<circle class="dot '.
                        ($front ? 's1' : 's4 faint').
                        '" cx="'.
                        $n($px).
                        '" cy="'.
                        $n($py).
                        '" r="'.
                        ($front ? 5 : 3).
                        '"><title>'.
                        Svg::escape($title).
                        '</title></circle>';
        }
        [$cx, $cy] = [$x($page->size($page->chosen)), $y($page->chosen->readWorkNs)];
        $svg .=
            '<circle class="ring" cx="'.
            $n($cx).
            '" cy="'.
            $n($cy).
            '" r="9"/><text class="tick strong" x="'.
            $n($cx > self::WIDTH - 160 ? $cx - 14 : $cx + 14).
            '" y="'.
            $n($cy - 8).
            '" text-anchor="'.
            ($cx > self::WIDTH - 160 ? 'end' : 'start').
            '">chosen</text>';
        $rows = array_map(
            static fn (Variant $v): array => [
                $v->label(),
                Quantity::bytes($page->size($v)),
                Quantity::count(round($v->readWorkNs)).' ns',
                Quantity::count(round($v->writeNs)).' ns',
            ],
            $page->front,
        );

        return new Figure(
            $svg.'</svg>',
            $summary,
            'Each way was written and read back on this machine with the sampled rows; sizes are told for the whole table from the '
                .'bytes a row took. Squares are whole rows one behind the other, dots are columns; large dots joined by the line are '
                .'beaten by none in both.',
            ['beaten by none', 'size', 'read a row', 'write a row'],
            $rows,
        );
    }
}
