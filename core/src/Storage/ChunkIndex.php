<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

use Fulcrion\Core\Catalog\ZoneMap;

/**
 * Answers how much of a table a set of predicates would read, by its bounds.
 *
 * One range takes two binary searches over running sums, since no chunk can lie both wholly above and wholly below it.
 * Several predicates go through the chunks of the narrowest. Bounds are held as ranks among all bounds of their column,
 * so that texts compare as fast as numbers.
 */
final class ChunkIndex
{
    /**
     * @var array<string, array{points: list<int|float|string|bool>, min: array<int, int>, max: array<int, int>, byMin: list<int>,
     *     minSums: list<int>, minRanks: list<int>, byMax: list<int>, maxSums: list<int>, maxRanks: list<int>, unbounded: list<int>}>
     */
    private array $columns = [];

    /** @var array<string, float> share by predicates */
    private array $known = [];

    /** @var array<string, array{float, int}> */
    private array $fullest = [];

    public readonly int $total;

    /** @var array<string, int> */
    private readonly array $numbers;

    /**
     * @param  list<list<ZoneMap>>  $zones of each chunk, in order of the columns
     * @param  list<int>  $sizes what reading a chunk costs: its bytes, or rows
     * @param  list<string>  $columns
     * @param  list<int>  $nodes of each chunk, as in Chunk; where they are not given, one has them all
     */
    public function __construct(
        private readonly array $zones,
        private readonly array $sizes,
        array $columns,
        private readonly array $nodes = [],
    ) {
        $this->total = array_sum($sizes);
        $this->numbers = array_flip($columns);
    }

    public static function ofLayout(TableLayout $layout): self
    {
        return new self(
            array_map(static fn (Chunk $chunk): array => $chunk->zones, $layout->chunks),
            array_map(static fn (Chunk $chunk): int => $chunk->bytes, $layout->chunks),
            array_map(static fn ($column): string => $column->name, $layout->definition->columns),
            array_map(static fn (Chunk $chunk): int => $chunk->node, $layout->chunks),
        );
    }

    /**
     * Share of the table that has to be read, 0 to 1.
     *
     * @param  list<Predicate>  $predicates
     */
    public function share(array $predicates): float
    {
        if ($this->total === 0) {
            return 0.0;
        }
        $key = '';
        $useful = [];
        foreach ($predicates as $p) {
            if ($p->known && isset($this->numbers[$p->column])) {
                $useful[] = $p;
                $key .= $p->signature.'&';
            }
        }

        return $this->known[$key] ??= $this->read($useful) / $this->total;
    }

    /**
     * What the node reads that reads most: its share of the table, and its chunks. A step is as slow as its slowest node.
     *
     * @param  list<Predicate>  $predicates
     * @param  bool  $whole whether chunks that are on every node are read on every node, and not by one of them
     * @return array{float, int}
     */
    public function fullest(array $predicates, int $nodes, bool $whole): array
    {
        if ($this->total === 0) {
            return [0.0, 0];
        }
        $useful = array_values(array_filter($predicates, fn (Predicate $p): bool => $p->known && isset($this->numbers[$p->column])));
        $key = implode('&', array_map(static fn (Predicate $p): string => $p->signature, $useful))."|{$nodes}|{$whole}";
        if (isset($this->fullest[$key])) {
            return $this->fullest[$key];
        }
        $sizes = $counts = array_fill(0, max(1, $nodes), 0);
        $everySize = $everyCount = 0;
        foreach ($this->chunks($useful) as $chunk) {
            $node = $this->nodes[$chunk] ?? 0;
            if ($node === Chunk::EVERY_NODE) {
                if ($whole) {
                    $everySize += $this->sizes[$chunk];
                    $everyCount++;

                    continue;
                }
                $node = $chunk;
            }
            $sizes[$node % max(1, $nodes)] += $this->sizes[$chunk];
            $counts[$node % max(1, $nodes)]++;
        }

        return $this->fullest[$key] = [($everySize + max($sizes)) / $this->total, $everyCount + max($counts)];
    }

    /**
     * @param  list<Predicate>  $predicates
     */
    private function read(array $predicates): int
    {
        $least = $this->total;
        $narrowest = null;
        $spans = [];
        foreach ($predicates as $p) {
            $span = $this->span($p);
            $size = $this->within($p->column, $span);
            // What lets every chunk through need not be looked at again.
            if ($size < $this->total || $p->values !== null) {
                $spans[] = [$p, $span];
            }
            if ($size < $least) {
                [$least, $narrowest] = [$size, [$p, $span]];
            }
        }
        if ($spans === [] || ($narrowest !== null && count($spans) === 1 && $narrowest[0]->values === null)) {
            return $least;
        }
        $sum = 0;
        foreach ($this->meetingAll($narrowest, $spans) as $chunk) {
            $sum += $this->sizes[$chunk];
        }

        return $sum;
    }

    /**
     * @param  list<Predicate>  $predicates
     * @return list<int> numbers of the chunks that have to be read
     */
    private function chunks(array $predicates): array
    {
        $least = $this->total + 1;
        $narrowest = null;
        $spans = [];
        foreach ($predicates as $p) {
            $span = $this->span($p);
            $spans[] = [$p, $span];
            $size = $this->within($p->column, $span);
            if ($size < $least) {
                [$least, $narrowest] = [$size, [$p, $span]];
            }
        }

        return $this->meetingAll($narrowest, $spans);
    }

    /**
     * @param  array{Predicate, array{int, int}}|null  $narrowest to begin with
     * @param  list<array{Predicate, array{int, int}}>  $spans
     * @return list<int>
     */
    private function meetingAll(?array $narrowest, array $spans): array
    {
        $chunks = $narrowest === null ? array_keys($this->sizes) : $this->candidates($narrowest[0]->column, $narrowest[1]);
        foreach ($spans as [$p, $span]) {
            $chunks =
                $p->values === null
                    ? $this->meeting($chunks, $p->column, [$span])
                    : $this->meeting(
                        $chunks,
                        $p->column,
                        array_map(fn (int|float|string|bool $value): array => $this->ranks($p->column, $value, $value), $p->values),
                    );
        }

        return $chunks;
    }

    /**
     * @param  list<int>  $chunks
     * @param  list<array{int, int}>  $spans ranks, one of which is to be met
     * @return list<int>
     */
    private function meeting(array $chunks, string $column, array $spans): array
    {
        ['min' => $min, 'max' => $max] = $this->column($column);
        $kept = [];
        if (count($spans) === 1) {
            [$low, $high] = $spans[0];
            foreach ($chunks as $chunk) {
                if ($min[$chunk] <= $high && $max[$chunk] >= $low) {
                    $kept[] = $chunk;
                }
            }

            return $kept;
        }
        foreach ($chunks as $chunk) {
            foreach ($spans as [$low, $high]) {
                if ($min[$chunk] <= $high && $max[$chunk] >= $low) {
                    $kept[] = $chunk;
                    break;
                }
            }
        }

        return $kept;
    }

    /**
     * @return array{int, int}
     */
    private function span(Predicate $p): array
    {
        return $this->ranks($p->column, $p->low, $p->high);
    }

    /**
     * @return array{int, int} least and greatest rank of bounds within
     */
    private function ranks(string $column, int|float|string|bool|null $low, int|float|string|bool|null $high): array
    {
        $points = $this->column($column)['points'];

        return [
            $low === null ? 0 : self::count($points, $low, false),
            $high === null ? count($points) - 1 : self::count($points, $high, true) - 1,
        ];
    }

    /**
     * @param  array{int, int}  $span
     */
    private function within(string $column, array $span): int
    {
        $c = $this->column($column);
        $sum =
            self::sum($c['minSums'], self::countRanks($c['minRanks'], $span[1] + 1)) -
            self::sum($c['maxSums'], self::countRanks($c['maxRanks'], $span[0]));
        foreach ($c['unbounded'] as $chunk) {
            $sum += $this->sizes[$chunk];
        }

        return max(0, $sum);
    }

    /**
     * @param  array{int, int}  $span
     * @return list<int> chunks that hold all that meet the span, and some more
     */
    private function candidates(string $column, array $span): array
    {
        $c = $this->column($column);
        $notAbove = self::countRanks($c['minRanks'], $span[1] + 1);
        $below = self::countRanks($c['maxRanks'], $span[0]);

        return [
            ...$notAbove < count($c['byMax']) - $below ? array_slice($c['byMin'], 0, $notAbove) : array_slice($c['byMax'], $below),
            ...$c['unbounded'],
        ];
    }

    /**
     * @return array{points: list<int|float|string|bool>, min: array<int, int>, max: array<int, int>, byMin: list<int>,
     *     minSums: list<int>, minRanks: list<int>, byMax: list<int>, maxSums: list<int>, maxRanks: list<int>, unbounded: list<int>}
     */
    private function column(string $name): array
    {
        if (isset($this->columns[$name])) {
            return $this->columns[$name];
        }
        $number = $this->numbers[$name];
        $bounds = $unbounded = [];
        $min = $max = [];
        foreach ($this->zones as $chunk => $zones) {
            $zone = $zones[$number];
            if ($zone->min !== null && $zone->max !== null) {
                $bounds[] = $zone->min;
                $bounds[] = $zone->max;
            } elseif ($zone->nullCount < $zone->rowCount) {
                // Bounds are not known: it always has to be read.
                $unbounded[] = $chunk;
                [$min[$chunk], $max[$chunk]] = [-1, PHP_INT_MAX];
            } else {
                [$min[$chunk], $max[$chunk]] = [PHP_INT_MAX, -2];
            }
        }
        sort($bounds, is_string($bounds[0] ?? null) ? SORT_STRING : SORT_NUMERIC);
        $points = [];
        foreach ($bounds as $bound) {
            if ($points === [] || $points[count($points) - 1] !== $bound) {
                $points[] = $bound;
            }
        }
        $mins = $maxs = [];
        foreach ($this->zones as $chunk => $zones) {
            $zone = $zones[$number];
            if ($zone->min !== null && $zone->max !== null) {
                $mins[$chunk] = $min[$chunk] = self::count($points, $zone->min, false);
                $maxs[$chunk] = $max[$chunk] = self::count($points, $zone->max, false);
            }
        }
        asort($mins, SORT_NUMERIC);
        asort($maxs, SORT_NUMERIC);

        return $this->columns[$name] = [
            'points' => $points,
            'min' => $min,
            'max' => $max,
            'byMin' => array_keys($mins),
            'minSums' => $this->sums(array_keys($mins)),
            'minRanks' => array_values($mins),
            'byMax' => array_keys($maxs),
            'maxSums' => $this->sums(array_keys($maxs)),
            'maxRanks' => array_values($maxs),
            'unbounded' => $unbounded,
        ];
    }

    /**
     * @param  list<int>  $chunks
     * @return list<int> running
     */
    private function sums(array $chunks): array
    {
        $sums = [];
        $sum = 0;
        foreach ($chunks as $chunk) {
            $sums[] = $sum += $this->sizes[$chunk];
        }

        return $sums;
    }

    /**
     * How many values are below one, or at most it.
     *
     * @param  list<int|float|string|bool>  $sorted
     */
    private static function count(array $sorted, int|float|string|bool $value, bool $orEqual): int
    {
        [$low, $high] = [0, count($sorted)];
        while ($low < $high) {
            $middle = ($low + $high) >> 1;
            $compared = Predicate::compare($sorted[$middle], $value);
            if ($compared < 0 || ($orEqual && $compared === 0)) {
                $low = $middle + 1;
            } else {
                $high = $middle;
            }
        }

        return $low;
    }

    /**
     * @param  list<int>  $ranks ascending
     */
    private static function countRanks(array $ranks, int $below): int
    {
        [$low, $high] = [0, count($ranks)];
        while ($low < $high) {
            $middle = ($low + $high) >> 1;
            if ($ranks[$middle] < $below) {
                $low = $middle + 1;
            } else {
                $high = $middle;
            }
        }

        return $low;
    }

    /**
     * @param  list<int>  $sums
     */
    private static function sum(array $sums, int $count): int
    {
        return $sums[$count - 1] ?? 0;
    }
}
