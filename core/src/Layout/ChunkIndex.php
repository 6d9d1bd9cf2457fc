<?php

declare(strict_types=1);

namespace Fulcrion\Core\Layout;

use Fulcrion\Core\Catalog\ZoneMap;

/**
 * Answers how much of a table a set of predicates would read, by its bounds. One range takes two binary searches over
 * running sums, since no chunk can lie both wholly above and wholly below it; several predicates go through the chunks
 * of the narrowest.
 */
final class ChunkIndex
{
    /** @var array<string, array{list<int|float|string|bool>, list<int>, list<int>, list<int|float|string|bool>, list<int>, list<int>}> by column: mins ascending, their chunks, running sizes; the same of maxs */
    private array $sorted = [];

    /** @var array<string, list<int>> chunks whose bounds are not known, by column */
    private array $unbounded = [];

    public readonly int $total;

    /** @var array<string, int> */
    private readonly array $numbers;

    /** @var list<int> */
    private readonly array $sizes;

    /**
     * @param  list<list<ZoneMap>>  $zones of each chunk, in order of the columns
     * @param  list<int>  $sizes what reading a chunk costs: its bytes, or rows
     * @param  list<string>  $columns
     */
    public function __construct(private readonly array $zones, array $sizes, array $columns)
    {
        $this->sizes = $sizes;
        $this->total = array_sum($sizes);
        $this->numbers = array_flip($columns);
    }

    public static function ofLayout(TableLayout $layout): self
    {
        return new self(
            array_map(static fn (Chunk $chunk): array => $chunk->zones, $layout->chunks),
            array_map(static fn (Chunk $chunk): int => $chunk->bytes, $layout->chunks),
            array_map(static fn ($column): string => $column->name, $layout->definition->columns),
        );
    }

    /**
     * Share of the table that has to be read, 0 to 1.
     *
     * @param  list<Predicate>  $predicates
     */
    public function share(array $predicates): float
    {
        $useful = array_values(array_filter($predicates, fn (Predicate $p): bool => $p->known && isset($this->numbers[$p->column])));
        if ($useful === [] || $this->total === 0) {
            return $this->total === 0 ? 0.0 : 1.0;
        }
        $narrowest = null;
        $least = PHP_INT_MAX;
        foreach ($useful as $predicate) {
            $size = $this->within($predicate);
            if ($size < $least) {
                [$least, $narrowest] = [$size, $predicate];
            }
        }
        if ($narrowest === null || (count($useful) === 1 && $narrowest->values === null)) {
            return $least / $this->total;
        }
        $sum = 0;
        foreach ($this->candidates($narrowest) as $chunk) {
            foreach ($useful as $predicate) {
                if (! $predicate->meets($this->zones[$chunk][$this->numbers[$predicate->column]])) {
                    continue 2;
                }
            }
            $sum += $this->sizes[$chunk];
        }

        return $sum / $this->total;
    }

    private function within(Predicate $p): int
    {
        [$mins, , $minSums, $maxs, , $maxSums] = $this->column($p->column);
        $all = $minSums === [] ? 0 : $minSums[count($minSums) - 1];
        $notAbove = $p->high === null ? $all : self::sum($minSums, self::count($mins, $p->high, true));
        $below = $p->low === null ? 0 : self::sum($maxSums, self::count($maxs, $p->low, false));

        foreach ($this->unbounded[$p->column] ?? [] as $chunk) {
            $notAbove += $this->sizes[$chunk];
        }

        return $notAbove - $below;
    }

    /**
     * @return list<int> chunks that hold all that meet the range, and some more
     */
    private function candidates(Predicate $p): array
    {
        [$mins, $byMin, , $maxs, $byMax] = $this->column($p->column);
        $notAbove = $p->high === null ? count($mins) : self::count($mins, $p->high, true);
        $below = $p->low === null ? 0 : self::count($maxs, $p->low, false);

        return [...($notAbove < count($maxs) - $below ? array_slice($byMin, 0, $notAbove) : array_slice($byMax, $below)), ...($this->unbounded[$p->column] ?? [])];
    }

    /**
     * @return array{list<int|float|string|bool>, list<int>, list<int>, list<int|float|string|bool>, list<int>, list<int>}
     */
    private function column(string $name): array
    {
        if (isset($this->sorted[$name])) {
            return $this->sorted[$name];
        }
        $number = $this->numbers[$name];
        $mins = $maxs = [];
        foreach ($this->zones as $chunk => $zones) {
            $zone = $zones[$number];
            if ($zone->min !== null && $zone->max !== null) {
                $mins[$chunk] = $zone->min;
                $maxs[$chunk] = $zone->max;
            } elseif ($zone->nullCount < $zone->rowCount) {
                // Bounds are not known: it always has to be read.
                $this->unbounded[$name][] = $chunk;
            }
        }
        $parts = [];
        foreach ([$mins, $maxs] as $bounds) {
            asort($bounds, is_string($bounds[array_key_first($bounds) ?? 0] ?? null) ? SORT_STRING : SORT_NUMERIC);
            $sum = 0;
            $sums = [];
            foreach ($bounds as $chunk => $_) {
                $sums[] = $sum += $this->sizes[$chunk];
            }
            array_push($parts, array_values($bounds), array_keys($bounds), $sums);
        }

        return $this->sorted[$name] = [$parts[0], $parts[1], $parts[2], $parts[3], $parts[4], $parts[5]];
    }

    /**
     * How many bounds are below a value, or at most it.
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
     * @param  list<int>  $sums
     */
    private static function sum(array $sums, int $count): int
    {
        return $sums[$count - 1] ?? 0;
    }
}
