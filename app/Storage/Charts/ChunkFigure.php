<?php

declare(strict_types=1);

namespace App\Storage\Charts;

use App\Platform\Figures\Figure;
use App\Platform\Figures\Svg;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Storage\Overlap;
use Fulcrion\Core\Storage\Predicate;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Text\Quantity;

/**
 * Chunks as spans over the range of a column, stacked where they overlap. Beyond what can be told apart the height of
 * the stack is drawn instead of its spans.
 */
final readonly class ChunkFigure
{
    private const WIDTH = 1180.0;

    private const MOST_SPANS = 900;

    private const MOST_LANES = 60;

    private const BINS = 236;

    public static function of(TableLayout $table, string $column, Overlap $overlap): Figure
    {
        $type = $table->definition->column($column)->type ?? throw new \LogicException($column);
        $place = self::scale($overlap);
        $lanes = max([0, ...array_map(static fn (array $span): int => $span[3], $overlap->spans)]) + 1;
        $drawn = count($overlap->spans) <= self::MOST_SPANS && $lanes <= self::MOST_LANES;
        $height = $drawn ? max(40, min(300, $lanes * 9)) : 220;
        $rows = [];
        foreach (array_slice($overlap->spans, 0, 400) as [$chunk, $from, $to]) {
            $rows[] = [
                $table->chunks[$chunk]->file,
                self::show($type, $from),
                self::show($type, $to),
                Quantity::count($table->chunks[$chunk]->rows),
                Quantity::bytes($table->chunks[$chunk]->bytes),
            ];
        }
        $id = 'chunks-'.preg_replace('~\W~', '-', $column);
        $summary =
            Quantity::count(count($overlap->spans)).
            ' chunks over the range of '.
            $column.
            ', at most '.
            Quantity::count($overlap->maxDepth).
            ' over a point, '.
            Quantity::digits($overlap->meanDepth).
            ' on average';
        $svg =
            '<svg class="figure-svg" viewBox="0 0 1180 '.
            ($height + 30).
            '" role="img" aria-labelledby="'.
            $id.
            '"><title id="'.
            $id.
            '">'.
            Svg::escape($summary).
            '</title>';
        $svg .= $drawn ? self::spans($table, $type, $overlap, $place, $lanes, $height) : self::depth($overlap, $place, $height);
        $svg .= '<line class="grid" x1="0" x2="1180" y1="'.$height.'" y2="'.$height.'"/>';
        $points = $overlap->profile;
        if ($points !== []) {
            $least = $points[0][0];
            $greatest = $points[count($points) - 1][0];
            for ($i = 0; $i <= 4; $i++) {
                $value =
                    is_string($least) || is_bool($least) || is_string($greatest) || is_bool($greatest)
                        ? $points[(int) round(($i / 4) * (count($points) - 1))][0]
                        : $least + (($greatest - $least) * $i) / 4;
                $anchor = ['start', 'middle', 'middle', 'middle', 'end'][$i];
                $shown = self::show($type, is_float($value) && is_int($least) ? (int) $value : $value);
                $svg .=
                    '<text class="tick" text-anchor="'.
                    $anchor.
                    '" x="'.
                    Svg::number((self::WIDTH * $i) / 4).
                    '" y="'.
                    ($height + 18).
                    '">'.
                    Svg::escape(mb_strimwidth((string) preg_replace('~(:\d\d)\.\d+$~', '$1', $shown), 0, 24, '…')).
                    '</text>';
            }
        }

        return new Figure(
            $svg.'</svg>',
            $summary,
            ($drawn
                ? 'Every chunk is a bar from its least to its greatest '.
                    $column.
                    '; bars over one another overlap and have to be read together. A table in good order is a thin staircase.'
                : Quantity::count(count($overlap->spans)).
                    ' chunks are too many to be drawn apart: the height says how many lie over each point.').
                ' From the bounds in the manifest, no data is read.'.
                ($type->is(TypeKind::Text) ? ' Texts are placed in their order; which they are is not shown.' : ''),
            ['chunk', 'least', 'greatest', 'rows', 'bytes'],
            $rows,
        );
    }

    /** Texts may name somebody; for the order of chunks it is enough that they have one. */
    private static function show(ColumnType $type, int|float|string|bool $value): string
    {
        return $type->is(TypeKind::Text) ? 'a text' : $type->show($value);
    }

    /**
     * @param  callable(int|float|string|bool): float  $place
     */
    private static function spans(
        TableLayout $table,
        ColumnType $type,
        Overlap $overlap,
        callable $place,
        int $lanes,
        float $height,
    ): string {
        $step = $height / $lanes;
        $svg = '';
        foreach ($overlap->spans as [$chunk, $from, $to, $lane]) {
            [$x, $right] = [$place($from), $place($to)];
            $one = $table->chunks[$chunk];
            $svg .=
                '<rect class="span'.
                ($table->isSmall($one) ? ' small-chunk' : '').
                '" x="'.
                Svg::number(min($x, self::WIDTH - 1.5)).
                '" y="'.
                Svg::number($height - ($lane + 1) * $step + 0.5).
                '" width="'.
                Svg::number(max(1.5, $right - $x)).
                '" height="'.
                Svg::number(max(1.0, $step - 1)).
                '"><title>'.
                Svg::escape(
                    self::show($type, $from).
                        ' to '.
                        self::show($type, $to).
                        ': '.
                        Quantity::count($one->rows).
                        ' rows, '.
                        Quantity::bytes($one->bytes).
                        ($one->node >= 0 ? ', node '.($one->node + 1) : ', every node').
                        ($one->partition === '' ? '' : ", partition {$one->partition}"),
                ).
                '</title></rect>';
        }

        return $svg;
    }

    /**
     * @param  callable(int|float|string|bool): float  $place
     */
    private static function depth(Overlap $overlap, callable $place, float $height): string
    {
        // The deepest point of each strip; between points the depth stays.
        $bins = array_fill(0, self::BINS, 0);
        $last = 0;
        $depth = 0;
        foreach ($overlap->profile as [$at, $over]) {
            $bin = min(self::BINS - 1, (int) (($place($at) / self::WIDTH) * self::BINS));
            for ($i = $last; $i <= $bin; $i++) {
                $bins[$i] = max($bins[$i], $depth);
            }
            $bins[$bin] = max($bins[$bin], $over);
            [$last, $depth] = [$bin, $over];
        }
        $most = max([1, ...$bins]);
        $points = [[0.0, $height]];
        foreach ($bins as $i => $count) {
            $y = $height - ($count / $most) * ($height - 16);
            $points[] = [($i / self::BINS) * self::WIDTH, $y];
            $points[] = [(($i + 1) / self::BINS) * self::WIDTH, $y];
        }
        $points[] = [self::WIDTH, $height];

        return '<path class="span-depth" d="'.
            Svg::path($points).
            'Z"><title>up to '.
            Quantity::count($most).
            ' chunks over a point</title></path><text class="tick strong" x="4" y="12">'.
            Quantity::count($most).
            ' chunks deep</text>';
    }

    /**
     * Numbers by their value; texts by their rank among all bounds.
     *
     * @return callable(int|float|string|bool): float
     */
    private static function scale(Overlap $overlap): callable
    {
        $points = array_map(static fn (array $point): int|float|string|bool => $point[0], $overlap->profile);
        $least = $points[0] ?? 0;
        $greatest = $points[count($points) - 1] ?? 0;
        if (is_string($least) || is_bool($least) || is_string($greatest) || is_bool($greatest)) {
            usort($points, Predicate::compare(...));
            $ranks = [];
            foreach ($points as $point) {
                $ranks[serialize($point)] ??= count($ranks);
            }
            $last = max(1, count($ranks) - 1);

            return static fn (int|float|string|bool $value): float => (self::WIDTH * ($ranks[serialize($value)] ?? 0)) / $last;
        }
        $width = (float) $greatest - (float) $least;

        return static fn (
            int|float|string|bool $value,
        ): float => $width > 0 && ! is_string($value) ? (self::WIDTH * ((float) $value - (float) $least)) / $width : 0.0;
    }
}
