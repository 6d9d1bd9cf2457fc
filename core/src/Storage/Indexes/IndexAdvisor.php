<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage\Indexes;

use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Storage\StatementUse;

/**
 * Which indexes of a live server are missing, and which are there for nothing. An index begins with the columns held to
 * single values, then has the one held to a span or those the rows are wanted in order of, then what else is read, so
 * that the table itself need not be looked at.
 */
final readonly class IndexAdvisor
{
    private const MOST_COLUMNS = 6;

    /** Tables a whole read of which is as good as any index. */
    private const SMALL = 500;

    /** Share of the rows a span is taken to keep. */
    private const SPAN = 0.2;

    /**
     * @param  array<string, IndexedTable>  $tables
     */
    public function __construct(private array $tables, private Dialect $dialect = Dialect::MariaDb)
    {
    }

    /**
     * Columns held to single values, of which one should know how often each value is there before an index is proposed.
     *
     * @param  list<StatementUse>  $statements
     * @return array<string, list<string>> by table
     */
    public function asked(array $statements): array
    {
        $reader = new IndexReachReader($this->tables, $this->dialect);
        $asked = [];
        foreach ($statements as $statement) {
            foreach ($reader->read($statement->sql, $statement->schema) as $reach) {
                if ($this->tables[$reach->table]->rows >= self::SMALL) {
                    $asked[$reach->table] = array_values(array_unique([...$asked[$reach->table] ?? [], ...$reach->equal]));
                }
            }
        }

        return $asked;
    }

    /**
     * @param  list<StatementUse>  $statements
     * @param  array<string, float>  $examined rows an execution looks at now, by fingerprint
     * @param  array<string, array<string, array<string,
     *     float>>>  $shares table => column => value => share of the rows that have it; the most frequent ones
     * @return list<ProposedIndex> most time saved first
     */
    public function missing(array $statements, array $examined, array $shares = []): array
    {
        $reader = new IndexReachReader($this->tables, $this->dialect);
        /** @var array<string, ProposedIndex> $found */
        $found = [];
        foreach ($statements as $statement) {
            foreach ($reader->read($statement->sql, $statement->schema) as $reach) {
                $table = $this->tables[$reach->table];
                $columns = $this->columns($table, $reach);
                if ($columns === [] || $table->rows < self::SMALL || $this->hasAlready($table, $reach, $columns)) {
                    continue;
                }
                $now = max(1.0, min((float) $table->rows, $examined[$statement->id] ?? (float) $table->rows));
                $then = $this->rows($table, $reach, $shares[$reach->table] ?? []);
                $sort = $reach->ranges === [] && $reach->order !== [] && array_diff($reach->order, $columns) === [];
                $covers = array_diff($reach->read, $columns) === [];
                // What is left of the time is as the rows that are left, looked up one by one where the index does not hold all.
                $left = min(1.0, ($then * ($covers ? 1.0 : 2.0)) / $now);
                if ($left > 0.7 && ! $sort) {
                    continue;
                }
                $key = "{$reach->table}:".implode(',', $columns);
                $found[$key] = new ProposedIndex(
                    $reach->table,
                    $columns,
                    ($found[$key]->served ?? []) + [
                        $statement->id => [
                            'rowsNow' => $now,
                            'rowsThen' => $then,
                            'savedUs' => $statement->durationUs * (1 - $left),
                            'sort' => $sort,
                            'covers' => $covers,
                        ],
                    ],
                );
            }
        }
        $merged = self::merged(array_values($found));
        usort($merged, static fn (ProposedIndex $a, ProposedIndex $b): int => $b->savedUs() <=> $a->savedUs());

        return $merged;
    }

    /**
     * Indexes another one begins with, or nobody reads by. All of them may go: what one rests on stays.
     *
     * @return list<array{table: IndexedTable, index: Index, why: string}>
     */
    public function needless(): array
    {
        $found = [];
        foreach ($this->tables as $table) {
            $kept = $table->indexes;
            // Those nobody reads by go first, so that of two alike the one that is read by stays.
            usort(
                $kept,
                static fn (Index $a, Index $b): int => [$a->uses !== 0, count($a->columns), $b->name] <=> [
                    $b->uses !== 0,
                    count($b->columns),
                    $a->name,
                ],
            );
            foreach ($kept as $place => $index) {
                if ($index->unique || ! $index->whole) {
                    // The one keeps a promise, whoever reads by it; of the other the server does not say what it is for.
                    continue;
                }
                $others = array_filter($kept, static fn (Index $other): bool => $other !== $index && $other->whole);
                $longer =
                    array_values(array_filter($others, static fn (Index $other): bool => $other->beginsWith($index->columns)))[0] ?? null;
                if ($longer === null && ($index->uses !== 0 || $this->holds($table, $index, $others))) {
                    continue;
                }
                $found[] = [
                    'table' => $table,
                    'index' => $index,
                    'why' => $longer === null
                            ? 'nobody read by it since the server began to count'
                            : "{$longer->name} (".implode(', ', $longer->columns).') begins with the same columns',
                ];
                // What is to be dropped is no reason to drop another one.
                unset($kept[$place]);
            }
        }
        usort(
            $found,
            static fn (array $a, array $b): int => [$a['table']->name, $a['index']->name] <=> [$b['table']->name, $b['index']->name],
        );

        return $found;
    }

    /**
     * Whether a foreign key needs the index, because no other begins with its columns.
     *
     * @param  array<int, Index>  $others
     */
    private function holds(IndexedTable $table, Index $index, array $others): bool
    {
        foreach ($table->foreign as $columns) {
            if (
                $index->beginsWith($columns) &&
                array_filter($others, static fn (Index $other): bool => $other->beginsWith($columns)) === []
            ) {
                return true;
            }
        }

        return false;
    }

    /**
     * @return list<string>
     */
    private function columns(IndexedTable $table, IndexReach $reach): array
    {
        $fits = static fn (string $column): bool => ! ($table->columns[$column]['long'] ?? true);
        $equal = array_values(array_filter($reach->equal, $fits));
        // Those that tell most apart first: shorter indexes begin with them too.
        usort($equal, static fn (string $a, string $b): int => [$table->distinct($b), $a] <=> [$table->distinct($a), $b]);
        $ranges = array_values(array_filter($reach->ranges, $fits));
        usort($ranges, static fn (string $a, string $b): int => [$table->distinct($b), $a] <=> [$table->distinct($a), $b]);
        $columns = $equal;
        if ($ranges !== []) {
            $columns[] = $ranges[0];
        } else {
            foreach ($reach->order !== [] ? $reach->order : $reach->grouped as $column) {
                if (! $fits($column)) {
                    break;
                }
                $columns[] = $column;
            }
        }
        $columns = array_slice(array_values(array_unique($columns)), 0, self::MOST_COLUMNS);
        if ($columns === []) {
            return [];
        }
        $all = array_values(array_unique([...$columns, ...$reach->read]));

        return count($all) <= self::MOST_COLUMNS && array_filter($all, $fits) === $all ? $all : $columns;
    }

    /**
     * @param  list<string>  $columns
     */
    private function hasAlready(IndexedTable $table, IndexReach $reach, array $columns): bool
    {
        foreach ($table->indexes as $index) {
            if (! $index->whole) {
                continue;
            }
            if ($index->beginsWith($columns)) {
                return true;
            }
            $leading = array_slice($index->columns, 0, count($reach->equal));
            sort($leading);
            $wanted = $reach->equal;
            sort($wanted);
            // A key of all the columns that are held to one value finds the row by itself.
            if (
                $wanted !== [] &&
                $leading === $wanted &&
                ($reach->ranges === [] ||
                    ($index->columns[count($wanted)] ?? '') === $reach->ranges[0] ||
                    ($index->unique && count($index->columns) === count($wanted)))
            ) {
                return true;
            }
        }

        return false;
    }

    /**
     * @param  array<string, array<string, float>>  $shares
     */
    private function rows(IndexedTable $table, IndexReach $reach, array $shares): float
    {
        $rows = (float) $table->rows;
        foreach ($reach->equal as $column) {
            $rows *= min(1.0, self::share($table->distinct($column), $reach->values[$column] ?? null, $shares[$column] ?? []));
        }

        return max(1.0, $rows * ($reach->ranges === [] ? 1.0 : self::SPAN));
    }

    /**
     * Share of the rows that have the values asked for.
     *
     * @param  list<string>|null  $values null where they are not known
     * @param  array<string, float>  $shares of the most frequent values
     */
    private static function share(float $distinct, ?array $values, array $shares): float
    {
        if ($shares === []) {
            return count($values ?? [1]) / $distinct;
        }
        $rest = max(0.0, 1 - array_sum($shares)) / max(1.0, $distinct - count($shares));
        if ($values === null) {
            // Asked for as often as they are there.
            return array_sum(array_map(static fn (float $share): float => $share ** 2, $shares)) + $rest * max(0.0, 1 - array_sum($shares));
        }

        return array_sum(array_map(static fn (string $value): float => $shares[$value] ?? $rest, $values));
    }

    /**
     * What is the beginning of another goes into it.
     *
     * @param  list<ProposedIndex>  $proposals
     * @return list<ProposedIndex>
     */
    private static function merged(array $proposals): array
    {
        usort($proposals, static fn (ProposedIndex $a, ProposedIndex $b): int => count($b->columns) <=> count($a->columns));
        $kept = [];
        foreach ($proposals as $proposal) {
            foreach ($kept as $i => $longer) {
                if (
                    $longer->table === $proposal->table &&
                    array_slice($longer->columns, 0, count($proposal->columns)) === $proposal->columns
                ) {
                    $kept[$i] = new ProposedIndex($longer->table, $longer->columns, $longer->served + $proposal->served);

                    continue 2;
                }
            }
            $kept[] = $proposal;
        }

        return array_values($kept);
    }
}
