<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Indexes;

/**
 * What a query costs with some indexes: the cheapest order of its tables, each read by the cheapest of its ways. Counted in rows read one
 * after the other. The model is the classical one of Selinger et al., "Access Path Selection in a Relational Database Management System"
 * (1979): independent conditions, nested loops, an index finds by its first columns that are held to values and a span behind them.
 *
 * Its constants are measured on MariaDB 10.11 with all pages in memory, where a row read one after the other takes 0.1 µs.
 */
final readonly class QueryCost
{
    /** Going down an index once. */
    private const SEEK = 20.0;

    /** A row that an index leads to, beside its entry. */
    private const FETCH = 9.0;

    private const ENTRY = 1.3;

    /** A row compared with one of those kept of the tables before. */
    private const COMPARE = 0.27;

    /** Rows of the tables before that are kept at a time while one is read as a whole. */
    private const KEPT = 8_000.0;

    /** Sorting, for each row and halving. */
    private const SORT = 0.17;

    /** Finding the group of a row that comes in no order. */
    private const GROUP = 3.0;

    /** More tables are read in the order they are written. */
    private const MOST_TABLES = 6;

    /**
     * @param  array<string, IndexedTable>  $tables
     */
    public function __construct(private array $tables, private RowShares $shares, private string $statement = '')
    {
    }

    /**
     * @param  array<string, list<Index>>  $more indexes that could be there, by table
     */
    public function of(QueryReach $query, array $more = []): QueryEstimate
    {
        $ways = [];
        foreach ($query->members as $i => $reach) {
            $ways[$i] = array_values(array_filter(
                [...$this->tables[$reach->table]->indexes, ...$more[$reach->table] ?? []],
                static fn (Index $index): bool => $index->whole,
            ));
        }
        $best = QueryEstimate::impossible();
        $places = array_keys($query->members);
        foreach (count($places) > self::MOST_TABLES ? [$places] : self::orders($places) as $order) {
            // Sorted by the way the first table is read, or sorted afterwards.
            foreach ([false, true] as $isSorted) {
                $one = $this->inOrder($query, $order, $ways, $isSorted);
                $best = $one->cost < $best->cost ? $one : $best;
            }
        }

        return $best;
    }

    /**
     * @param  list<int>  $order of the members
     * @param  array<int, list<Index>>  $ways
     */
    private function inOrder(QueryReach $query, array $order, array $ways, bool $isSorted): QueryEstimate
    {
        $known = [];
        $cost = $touched = 0.0;
        $rows = 1.0;
        $isWanted = array_filter(
            $query->members,
            static fn (IndexReach $reach): bool => $reach->order !== [] || $reach->grouped !== [],
        ) !== [];
        foreach ($order as $place => $i) {
            $reach = $query->members[$i];
            $way = array_diff($reach->after, $known) === []
                ? $this->cheapest($reach, $ways[$i], $known, $rows, $place === 0, $place === 0 && $isSorted)
                : null;
            if ($way === null) {
                return QueryEstimate::impossible();
            }
            [$own, $found, $read] = $way;
            $cost += $own;
            $touched += $read;
            $rows = max(1e-6, $rows * $found);
            $known[] = $reach->alias;
        }
        if ($isWanted && ! $isSorted) {
            $cost += $this->groups($query) ? $rows * self::GROUP : $rows * self::SORT * log(max(2.0, $rows), 2);
        } elseif ($query->limit !== null && $query->limit < $rows && ! $this->groups($query)) {
            // It stops when it has them.
            $cost = self::SEEK + ($cost - self::SEEK) * $query->limit / $rows;
            $touched *= $query->limit / $rows;
        }

        return new QueryEstimate($cost, $touched);
    }

    private function groups(QueryReach $query): bool
    {
        return array_filter($query->members, static fn (IndexReach $reach): bool => $reach->grouped !== []) !== [];
    }

    /**
     * @param  list<Index>  $indexes
     * @param  list<string>  $known aliases read before
     * @param  float  $outer rows of those
     * @return array{float, float, float}|null cost, rows that fit each row before, rows looked at; null where it cannot be read that way
     */
    private function cheapest(IndexReach $reach, array $indexes, array $known, float $outer, bool $isFirst, bool $isSorted): ?array
    {
        $rows = (float) max(1, $this->tables[$reach->table]->rows);
        $shares = [];
        foreach ($reach->equal as $column) {
            $joins = $reach->joins[$column] ?? null;
            if ($joins === null) {
                $shares[$column] = $this->shares->ofConstant($reach, $column);
            } elseif (array_intersect($joins, $known) !== []) {
                $shares[$column] = $this->shares->matching($reach, $column);
            }
        }
        $spans = [];
        foreach ($reach->ranges as $column) {
            $spans[$column] = $this->shares->ofSpan($reach, $column, $this->statement);
        }
        $found = max(1e-6, $rows * array_product($shares) * array_product($spans));
        $lots = max(1.0, ceil($outer / self::KEPT));
        // Read as a whole: once for each lot of the rows before that is kept, and compared with those where it fits its own conditions.
        $own = array_product(array_diff_key($shares, $reach->joins)) * array_product($spans);
        $best = $isSorted ? null : [$rows * $lots + ($isFirst ? 0.0 : $outer * $rows * $own * self::COMPARE), $found, $rows * $lots];
        foreach ($indexes as $index) {
            $way = $this->by($index, $reach, $shares, $spans, $rows, $isSorted);
            if ($way !== null && ($best === null || $best[0] > $way[0] * $outer)) {
                $best = [$way[0] * $outer, $found, $way[1] * $outer];
            }
        }

        return $best;
    }

    /**
     * @param  array<string, float>  $shares of the columns held to values
     * @param  array<string, float>  $spans
     * @return array{float, float}|null cost and rows looked at for one row before; null where it is of no use
     */
    private function by(Index $index, IndexReach $reach, array $shares, array $spans, float $rows, bool $isSorted): ?array
    {
        $share = 1.0;
        $used = 0;
        foreach ($index->columns as $column) {
            if (! isset($shares[$column])) {
                break;
            }
            $share *= $shares[$column];
            $used++;
        }
        if ($index->unique && $used === count($index->columns)) {
            return [self::SEEK + self::FETCH, 1.0];
        }
        $still = array_values(array_diff($reach->order !== [] ? $reach->order : $reach->grouped, array_keys($shares)));
        $ordered = ($reach->order !== [] || $reach->grouped !== []) &&
            array_slice($index->columns, $used, count($still)) === $still;
        if ($isSorted && ! $ordered) {
            return null;
        }
        $next = $index->columns[$used] ?? null;
        if ($next !== null && isset($spans[$next])) {
            $share *= $spans[$next];
            $used++;
        }
        $covers = array_diff($reach->read, $index->columns, $this->tables[$reach->table]->primary()) === [];
        if ($used === 0 && ! $ordered && ! $covers) {
            return null;
        }
        $entries = $rows * $share;
        if ($index->isPrimary()) {
            return [self::SEEK + $entries, $entries];
        }
        // Other columns of the index sift before the row is looked up.
        $sifted = $entries;
        foreach (array_slice($index->columns, $used) as $column) {
            $sifted *= $shares[$column] ?? $spans[$column] ?? 1.0;
        }

        return [self::SEEK + $entries * self::ENTRY + ($covers ? 0.0 : $sifted * self::FETCH), $entries];
    }

    /**
     * @param  list<int>  $items
     * @return list<list<int>>
     */
    private static function orders(array $items): array
    {
        if (count($items) < 2) {
            return [$items];
        }
        $all = [];
        foreach ($items as $i => $first) {
            $others = $items;
            unset($others[$i]);
            foreach (self::orders(array_values($others)) as $rest) {
                $all[] = [$first, ...$rest];
            }
        }

        return $all;
    }
}
