<?php

declare(strict_types=1);

namespace App\Encodings\Charts;

use App\Encodings\Application\LabPage;
use App\Platform\Figures\Axis;
use App\Platform\Figures\Figure;
use App\Platform\Figures\Frame;
use Fulcrion\Core\Storage\Encodings\Variant;
use Fulcrion\Core\Text\Quantity;

/**
 * Size against time to read of every variant; those nothing beats in both are joined by a line.
 */
final readonly class FrontFigure
{
    public static function draw(LabPage $page): Figure
    {
        $sizes = $page->variants === [] ? [1.0] : array_map($page->size(...), $page->variants);
        $reads = $page->variants === [] ? [1.0] : array_map(static fn (Variant $v): float => $v->readWorkNs, $page->variants);
        [$least, $most, $fast, $slow] = [min($sizes) * 0.9, max($sizes) * 1.1, max(1.0, min($reads) * 0.8), max(2.0, max($reads) * 1.25)];
        $summary =
            count($page->front).
            ' of '.
            count($page->variants).
            ' ways are beaten by no other in both size and time to read; the chosen one takes '.
            Quantity::bytes($page->size($page->chosen)).
            '.';
        // Both run over magnitudes.
        [$across, $up] = [Axis::magnitudes($least, $most), Axis::magnitudes($fast, $slow)];
        $frame = new Frame('front', 'Size against time to read', $summary, $across, $up, height: 300, top: 16, below: 44, beside: 20);
        $labels = [];
        for ($power = 0; $power < 60; $power++) {
            if ($across->holds(2.0 ** $power)) {
                $labels[(string) (2.0 ** $power)] = Quantity::bytes(2.0 ** $power);
            }
        }
        $times = array_filter(
            [10.0, 20.0, 50.0, 100.0, 200.0, 500.0, 1000.0, 2000.0, 5000.0, 10_000.0, 20_000.0],
            $up->holds(...),
        );
        $frame->grid($times, static fn (float $ns): string => Quantity::count($ns).' ns')->along($labels, 26)
            ->names('time to read what statements ask for, a row', 'size of the whole table')
            ->line('line s1', array_map(static fn (Variant $v): array => [$page->size($v), $v->readWorkNs], $page->front));
        $keys = array_map(static fn (Variant $v): string => $v->key(), $page->front);
        foreach ($page->variants as $v) {
            $front = in_array($v->key(), $keys, true);
            $title = "{$v->label()}: ".Quantity::bytes($page->size($v)).', '.Quantity::count(round($v->readWorkNs)).' ns a row';
            [$px, $py] = [$frame->x($page->size($v)), $frame->y($v->readWorkNs)];
            // Whole rows are squares, so that they are told apart without colour.
            $v->policy === Variant::ROWS
                ? $frame->box('dot s3', $px - 4, $py - 4, 8, 8, $title)
                : $frame->dot('dot '.($front ? 's1' : 's4 faint'), $px, $py, $front ? 5 : 3, $title);
        }
        [$cx, $cy] = [$frame->x($page->size($page->chosen)), $frame->y($page->chosen->readWorkNs)];
        $inside = $cx > Frame::WIDTH - 160;
        $frame->dot('ring', $cx, $cy, 9)
            ->text($inside ? $cx - 14 : $cx + 14, $cy - 8, 'chosen', 'tick strong', $inside ? 'end' : 'start');
        $rows = array_map(
            static fn (Variant $v): array => [
                $v->label(),
                Quantity::bytes($page->size($v)),
                Quantity::count(round($v->readWorkNs)).' ns',
                Quantity::count(round($v->writeNs)).' ns',
            ],
            $page->front,
        );

        return $frame->figure(
            'Each way was written and read back on this machine with the sampled rows; sizes are told for the whole table from the '
                .'bytes a row took. Squares are whole rows one behind the other, dots are columns; large dots joined by the line are '
                .'beaten by none in both.',
            ['beaten by none', 'size', 'read a row', 'write a row'],
            $rows,
        );
    }
}
