<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Rollups;

use Fulcrion\Core\Storage\Sample;

/**
 * Possible rollups of one table: a node is a set of dimensions, finer nodes answer what coarser ones do. Sets are bits:
 * one a column, and eight a moment, one for each unit that can be put together.
 */
final class Lattice
{
    private const MOST_BITS = 62;

    /** @var array<string, int> column or column@unit => bit */
    private array $bits = [];

    /** @var array<string, list<int|string>> values of the sample by dimension */
    private array $codes = [];

    /**
     * @param  array<string, float>  $distinct distinct values by column; of a moment, seconds it spans by "column@"
     */
    public function __construct(
        private readonly float $tableRows,
        private readonly array $distinct,
        private readonly ?Sample $sample = null,
    ) {
    }

    /**
     * @param  list<Dimension>  $dimensions
     * @return int|null null where there are more dimensions than can be told apart
     */
    public function mask(array $dimensions): ?int
    {
        $mask = 0;
        foreach ($dimensions as $dimension) {
            foreach (
                $dimension->unit === ''
                    ? [$dimension->column]
                    : array_map(static fn (string $unit): string =>
                        "{$dimension->column}@{$unit}", Dimension::UNITS[$dimension->unit]) as $key
            ) {
                $bit = $this->bits[$key] ??= count($this->bits);
                if ($bit >= self::MOST_BITS) {
                    return null;
                }
                $mask |= 1 << $bit;
            }
        }

        return $mask;
    }

    /**
     * What is asked of a node: dimensions as they are, without what they can be put together to.
     *
     * @param  list<Dimension>  $dimensions
     */
    public function need(array $dimensions): ?int
    {
        $mask = 0;
        foreach ($dimensions as $dimension) {
            $bit = $this->bits[$dimension->key()] ??= count($this->bits);
            if ($bit >= self::MOST_BITS) {
                return null;
            }
            $mask |= 1 << $bit;
        }

        return $mask;
    }

    /**
     * Finest dimensions that cover both.
     *
     * @param  list<Dimension>  $a
     * @param  list<Dimension>  $b
     * @return list<Dimension>
     */
    public static function union(array $a, array $b): array
    {
        $units = $columns = [];
        foreach ([...$a, ...$b] as $dimension) {
            $columns[$dimension->column] = true;
            $units[$dimension->column][$dimension->unit] = true;
        }
        $union = [];
        foreach (array_keys($columns) as $column) {
            $union[] = isset($units[$column][''])
                ? new Dimension($column)
                : new Dimension($column, self::common(array_keys($units[$column])));
        }
        usort($union, static fn (Dimension $x, Dimension $y): int => strcmp($x->key(), $y->key()));

        return $union;
    }

    /**
     * @param  list<string>  $wanted
     * @return key-of<Dimension::UNITS>
     */
    private static function common(array $wanted): string
    {
        $best = 'second';
        foreach (Dimension::UNITS as $unit => $gives) {
            if (array_diff($wanted, $gives) === []) {
                $best = $unit;
            }
        }

        return $best;
    }

    /**
     * Rows of a node: the product of distinct values, held against what the sample shows. Of P equally likely groups a
     * sample of n rows meets P (1 - (1 - 1/P)^n); the P that gives what was met is taken where it is less.
     *
     * @param  list<Dimension>  $dimensions
     */
    public function rows(array $dimensions): float
    {
        $product = 1.0;
        foreach ($dimensions as $dimension) {
            $product *= max(1.0, $this->values($dimension));
        }
        $product = min($product, $this->tableRows);
        $n = $this->sample?->rows() ?? 0;
        if ($n < 100 || $product <= 4) {
            return max(1.0, $product);
        }
        $met = $this->met($dimensions, $n);
        if ($met > 0.98 * $n) {
            return max(1.0, $product);
        }
        [$low, $high] = [(float) $met, max((float) $met, $product)];
        for ($i = 0; $i < 40 && $high - $low > 0.5; $i++) {
            $middle = ($low + $high) / 2;
            if ($middle * (1 - (1 - 1 / max(1.0, $middle)) ** $n) < $met) {
                $low = $middle;
            } else {
                $high = $middle;
            }
        }

        return max(1.0, min($product, $high));
    }

    private function values(Dimension $dimension): float
    {
        $distinct = $this->distinct[$dimension->column] ?? 100.0;
        if ($dimension->unit === '') {
            return $distinct;
        }
        $span = $this->distinct["{$dimension->column}@"] ?? null;

        return $span === null ? $distinct : min($distinct, $span / Dimension::SECONDS[$dimension->unit] + 1);
    }

    /**
     * @param  list<Dimension>  $dimensions
     */
    private function met(array $dimensions, int $n): int
    {
        $columns = array_map($this->coded(...), $dimensions);
        $seen = [];
        for ($i = 0; $i < $n; $i++) {
            $key = '';
            foreach ($columns as $codes) {
                $key .= $codes[$i].'|';
            }
            $seen[$key] = true;
        }

        return count($seen);
    }

    /**
     * @return list<int|string>
     */
    private function coded(Dimension $dimension): array
    {
        return $this->codes[$dimension->key()] ??= array_map(static function (int|float|string|bool|null $value) use (
            $dimension,
        ): int|string {
            if ($dimension->unit !== '' && is_int($value)) {
                // Months and years are cut evenly here, which makes as many groups.
                return intdiv($value, 1_000_000 * Dimension::SECONDS[$dimension->unit]);
            }

            return is_int($value) ? $value : (string) $value;
        }, $this->sample?->column($dimension->column) ?? []);
    }
}
