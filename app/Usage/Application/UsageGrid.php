<?php

declare(strict_types=1);

namespace App\Usage\Application;

/**
 * Use by two fields, with all totals: the rows and columns that are not shown by themselves are together one more, so that nothing is lost.
 */
final readonly class UsageGrid
{
    public const ROWS = 60;

    /** Columns of a field; of time there are as many as the days have. */
    public const COLUMNS = 12;

    public const MOST_TIMES = 62;

    public const OTHER = "\0other";

    /**
     * @param  list<string>  $rows
     * @param  list<string>  $columns
     * @param  array<string, array<string, int>>  $cells amount by row and column
     * @param  array<string, int>  $rowTotals
     * @param  array<string, int>  $columnTotals
     */
    private function __construct(
        public array $rows,
        public array $columns,
        public array $cells,
        public array $rowTotals,
        public array $columnTotals,
        public int $total,
        public int $otherRows,
    ) {
    }

    /**
     * @param  list<array{string, string, int}>  $facts row, column, amount; OTHER where some stand together already
     * @param  int  $otherRows how many stand together on the rows already
     */
    public static function of(array $facts, bool $rowsAreTime, bool $columnsAreTime, int $otherRows = 0): self
    {
        $rowSums = $columnSums = [];
        foreach ($facts as [$row, $column, $amount]) {
            $rowSums[$row] = ($rowSums[$row] ?? 0) + $amount;
            $columnSums[$column] = ($columnSums[$column] ?? 0) + $amount;
        }
        // What stands together is never among those that are shown by themselves.
        unset($rowSums[self::OTHER], $columnSums[self::OTHER]);
        $rows = self::shown($rowSums, $rowsAreTime, self::ROWS);
        $columns = self::shown($columnSums, $columnsAreTime, $columnsAreTime ? self::MOST_TIMES : self::COLUMNS);
        $cells = $rowTotals = $columnTotals = [];
        $total = 0;
        foreach ($facts as [$row, $column, $amount]) {
            $r = isset($rows[$row]) ? $row : self::OTHER;
            $c = isset($columns[$column]) ? $column : self::OTHER;
            $cells[$r][$c] = ($cells[$r][$c] ?? 0) + $amount;
            $rowTotals[$r] = ($rowTotals[$r] ?? 0) + $amount;
            $columnTotals[$c] = ($columnTotals[$c] ?? 0) + $amount;
            $total += $amount;
        }
        $names = static fn (array $shown, array $totals): array => array_map(strval(...), [
            ...array_keys($shown),
            ...isset($totals[self::OTHER]) ? [self::OTHER] : [],
        ]);

        return new self(
            $names($rows, $rowTotals),
            $names($columns, $columnTotals),
            $cells,
            $rowTotals,
            $columnTotals,
            $total,
            $otherRows + max(0, count($rowSums) - count($rows)),
        );
    }

    public function cell(string $row, string $column): int
    {
        return $this->cells[$row][$column] ?? 0;
    }

    public function most(): int
    {
        return max([1, ...array_map(static fn (array $row): int => max([0, ...$row]), array_values($this->cells))]);
    }

    /**
     * @param  array<array-key, int>  $sums
     * @return array<array-key, int> of time in its order and the latest ones, of others the largest
     */
    private static function shown(array $sums, bool $isTime, int $most): array
    {
        if ($isTime) {
            ksort($sums);

            return array_slice($sums, -$most, null, true);
        }
        uksort($sums, static fn (int|string $a, int|string $b): int => [$sums[$b], (string) $a] <=> [$sums[$a], (string) $b]);

        return array_slice($sums, 0, $most, true);
    }
}
