<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

use SplMinHeap;

/**
 * How the spans of a table's chunks lie over the range of one column.
 */
final readonly class Overlap
{
    /**
     * @param  list<array{int, int|float|string|bool, int|float|string|bool, int}>  $spans chunk, least, greatest value, lane
     * @param  list<array{int|float|string|bool, int}>  $profile depth from a point to the next, in order
     */
    private function __construct(
        public array $spans,
        /** Chunks over a point of the range, averaged over its length; over its end points where values have no length. */
        public float $meanDepth,
        public int $maxDepth,
        public array $profile,
        /** Chunks without any value. */
        public int $empty,
    ) {
    }

    public static function of(TableLayout $layout, string $column, ?int $node = null): self
    {
        $number = $layout->definition->index($column);
        $spans = [];
        $empty = 0;
        foreach ($layout->chunks as $i => $chunk) {
            if ($node !== null && $chunk->node !== $node && $chunk->node !== Chunk::EVERY_NODE) {
                continue;
            }
            $zone = $chunk->zones[$number];
            if ($zone->min === null || $zone->max === null) {
                $empty++;
            } else {
                $spans[] = [$i, $zone->min, $zone->max];
            }
        }
        usort($spans, static function (array $a, array $b): int {
            $compared = Predicate::compare($a[1], $b[1]);

            return $compared !== 0 ? $compared : [Predicate::compare($a[2], $b[2]), $a[0]] <=> [0, $b[0]];
        });

        return self::sweep($spans, $empty);
    }

    /**
     * @param  list<array{int, int|float|string|bool, int|float|string|bool}>  $spans by their begin
     */
    private static function sweep(array $spans, int $empty): self
    {
        $ends = array_map(static fn (array $span): int|float|string|bool => $span[2], $spans);
        usort($ends, Predicate::compare(...));
        $profile = [];
        [$depth, $most, $left, $sum] = [0, 0, 0, 0];
        foreach ($spans as [, $from]) {
            for (; $left < count($ends) && Predicate::compare($ends[$left], $from) < 0; $left++) {
                $profile[] = [$ends[$left], --$depth];
            }
            $profile[] = [$from, ++$depth];
            $most = max($most, $depth);
            $sum += $depth;
        }
        for (; $left < count($ends); $left++) {
            $profile[] = [$ends[$left], --$depth];
        }
        [$area, $length] = [0.0, 0.0];
        foreach ($profile as $i => [$at, $over]) {
            $next = $profile[$i + 1][0] ?? $at;
            if (! is_string($at) && ! is_string($next) && $over > 0) {
                $width = (float) $next - (float) $at;
                $area += $over * $width;
                $length += $width;
            }
        }

        return new self(
            self::lanes($spans),
            $length > 0 ? $area / $length : ($spans === [] ? 0.0 : $sum / count($spans)),
            $most,
            $profile,
            $empty,
        );
    }

    /**
     * Each span goes to the lowest lane that is free.
     *
     * @param  list<array{int, int|float|string|bool, int|float|string|bool}>  $spans by their begin
     * @return list<array{int, int|float|string|bool, int|float|string|bool, int}>
     */
    private static function lanes(array $spans): array
    {
        /** @var SplMinHeap<int> $free */
        $free = new SplMinHeap();
        $order = $placed = [];
        $ends = [];
        foreach ($spans as $i => $span) {
            $order[$i] = $span[2];
        }
        uasort($order, Predicate::compare(...));
        $leaving = array_keys($order);
        $next = $lanes = 0;
        foreach ($spans as $i => [$chunk, $from, $to]) {
            // A span that ends where another begins still shares that point with it.
            while ($next < count($leaving) && $leaving[$next] !== $i && Predicate::compare($spans[$leaving[$next]][2], $from) < 0) {
                $free->insert($ends[$leaving[$next]]);
                $next++;
            }
            $lane = $free->isEmpty() ? $lanes++ : $free->extract();
            $ends[$i] = $lane;
            $placed[] = [$chunk, $from, $to, $lane];
        }

        return $placed;
    }
}
