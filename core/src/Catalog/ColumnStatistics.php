<?php

declare(strict_types=1);

namespace Fulcrion\Core\Catalog;

/**
 * What is known of the values of a column. Built from all values; equality shares come from the most common values
 * first, then from the distinct count.
 */
final readonly class ColumnStatistics
{
    private const COMMON = 12;

    /** A value is common when it is this many times as frequent as the average one. */
    private const COMMON_FACTOR = 1.5;

    /**
     * @param  list<array{int|float|string|bool, float}>  $common value, share of all rows; most frequent first
     */
    public function __construct(
        public int $distinct,
        public float $nullShare,
        public Histogram $histogram,
        public array $common,
        public float $averageBytes,
    ) {
    }

    /**
     * @param  list<int|float|string|bool|null>  $values
     */
    public static function of(array $values): self
    {
        $rows = count($values);
        $present = array_values(array_filter($values, static fn (mixed $value): bool => $value !== null));
        unset($values);
        $first = $present[0] ?? null;
        $number = count($present);
        $bytes = 8 * $number;
        if (is_string($first)) {
            $bytes = 0;
            foreach ($present as $value) {
                $bytes += strlen((string) $value);
            }
        }
        // Sorted, equal values lie together and can be counted without a key for each.
        sort($present, is_string($first) ? SORT_STRING : SORT_NUMERIC);
        $sketch = new HyperLogLog();
        $often = [];
        for ($at = 0; $at < $number; $at = $end) {
            $value = $present[$at];
            $end = $at + 1;
            while ($end < $number && $present[$end] === $value) {
                $end++;
            }
            $sketch->add(is_float($value) ? "f{$value}" : (is_bool($value) ? 'b'.(int) $value : (string) $value));
            $often[] = [$value, $end - $at];
            if (count($often) > 4096) {
                $often = self::most($often);
            }
        }
        $distinct = $sketch->estimate();
        $least = $distinct <= self::COMMON ? 0 : (self::COMMON_FACTOR * $number) / max(1, $distinct);
        $common = [];
        foreach (self::most($often) as [$value, $count]) {
            if ($count > $least) {
                $common[] = [$value, $count / $rows];
            }
        }
        /** @var list<int|float|string> $sorted */
        $sorted = is_bool($first) ? [] : $present;

        return new self(
            max(1, $distinct),
            $rows === 0 ? 0.0 : 1 - $number / $rows,
            Histogram::of($sorted),
            $common,
            $number === 0 ? 8.0 : $bytes / $number,
        );
    }

    /**
     * @param  list<array{int|float|string|bool, int}>  $often value, count
     * @return list<array{int|float|string|bool, int}> the most frequent, first come first among equals
     */
    private static function most(array $often): array
    {
        usort($often, static fn (array $a, array $b): int => $b[1] <=> $a[1]);

        return array_slice($often, 0, self::COMMON);
    }

    /** Share of the rows that equal a value. */
    public function equal(int|float|string|bool $value): float
    {
        $commonShare = 0.0;
        foreach ($this->common as [$candidate, $share]) {
            if ($candidate === $value) {
                return $share;
            }
            $commonShare += $share;
        }
        $others = $this->distinct - count($this->common);
        if ($others <= 0) {
            return 0.0;
        }
        $bounds = $this->histogram->bounds;
        if ($bounds !== [] && ! is_bool($value)
            && (self::before($value, $bounds[0]) || self::before($bounds[count($bounds) - 1], $value))) {
            return 0.0;
        }

        return max(0.0, 1 - $this->nullShare - $commonShare) / $others;
    }

    /** Share of the rows below a value. */
    public function below(int|float|string $value): float
    {
        return (1 - $this->nullShare) * $this->histogram->below($value);
    }

    /**
     * @return array{distinct: int, nullShare: float, bounds: list<int|float|string>, common: list<array{int|float|string|bool, float}>,
     *     averageBytes: float}
     */
    public function toArray(): array
    {
        return [
            'distinct' => $this->distinct,
            'nullShare' => $this->nullShare,
            'bounds' => $this->histogram->bounds,
            'common' => $this->common,
            'averageBytes' => $this->averageBytes,
        ];
    }

    /**
     * @param  array{distinct: int, nullShare: float|int, bounds: list<int|float|string>, common: list<array{int|float|string|bool,
     *     float|int}>, averageBytes: float|int}  $values
     */
    public static function fromArray(array $values): self
    {
        return new self(
            $values['distinct'],
            (float) $values['nullShare'],
            new Histogram($values['bounds']),
            array_map(static fn (array $pair): array => [$pair[0], (float) $pair[1]], $values['common']),
            (float) $values['averageBytes'],
        );
    }

    private static function before(int|float|string $a, int|float|string $b): bool
    {
        return is_string($a) && is_string($b) ? strcmp($a, $b) < 0 : $a < $b;
    }
}
