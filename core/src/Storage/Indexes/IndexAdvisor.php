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

    /** Reports of a week's end run once a week: before that nobody knows whether an index is used. */
    public const UNUSED_SECONDS = 7 * 86_400;

    /** Tables a whole read of which is as good as any index. */
    private const SMALL = 500;

    /** Share of its cost a query has to save by each further index. */
    private const LEAST_GAIN = 0.2;

    /** Share of what it would cost without one of its indexes that this one saves, from which it is needed. */
    private const LEAST_LOSS = 0.1;

    /** A longer index has to cost at most so much of what a shorter one does. */
    private const WORTH_LONGER = 0.85;

    /** What running any statement costs, in rows read one after the other. */
    private const EXECUTION = 1_000.0;

    /** Indexes of one query. */
    private const MOST_TOGETHER = 4;

    /** Candidates up to which each two are tried together. */
    private const MOST_PAIRED = 40;

    /**
     * @param  array<string, IndexedTable>  $tables
     */
    public function __construct(private array $tables, private Dialect $dialect = Dialect::MariaDb)
    {
    }

    /**
     * What one should know of the data before an index is proposed.
     *
     * @param  list<StatementUse>  $statements
     */
    public function asked(array $statements): AskedFacts
    {
        $reader = new IndexReachReader($this->tables, $this->dialect);
        $columns = $values = $spans = [];
        foreach ($statements as $statement) {
            foreach ($reader->read($statement->sql, $statement->schema) as $reach) {
                if ($this->tables[$reach->table]->rows < self::SMALL) {
                    continue;
                }
                foreach ([...$reach->equal, ...$reach->ranges] as $column) {
                    $columns[$reach->table][$column] = $column;
                }
                foreach ($reach->constants() as $column) {
                    $values[$reach->table][$column] = $column;
                }
                if ($reach->spans !== []) {
                    $spans["{$statement->id} {$reach->alias}"] = [$reach->table, $reach->alias, $reach->spans];
                }
            }
        }

        return new AskedFacts(array_map(array_values(...), $columns), array_map(array_values(...), $values), $spans);
    }

    /**
     * @param  list<StatementUse>  $statements
     * @param  array<string, float>  $examined rows an execution looks at now, by fingerprint
     * @param  array<string, array<string, array<string, float>>>  $shares table => column => value => share of the rows that have it; the
     *     most frequent ones
     * @param  array<string, array<string, float>>  $spans fingerprint and alias, with a space between => column => share its span keeps
     * @return list<ProposedIndex> most time saved first
     */
    public function missing(array $statements, array $examined, array $shares = [], array $spans = []): array
    {
        $reader = new IndexReachReader($this->tables, $this->dialect);
        $rowShares = new RowShares($this->tables, $shares, $spans);
        /** @var array<string, ProposedIndex> $found */
        $found = [];
        foreach ($statements as $statement) {
            $queries = $reader->queries($statement->sql, $statement->schema);
            $cost = new QueryCost($this->tables, $rowShares, $statement->id);
            $now = array_sum(array_map(static fn (QueryReach $query): float => $cost->of($query)->cost, $queries));
            foreach ($queries as $query) {
                foreach ($this->chosen($query, $cost, $now + self::EXECUTION) as $one) {
                    $key = "{$one->table}:".implode(',', $one->columns);
                    $found[$key] = new ProposedIndex($one->table, $one->columns, ($found[$key]->served ?? []) + [
                        $statement->id => [
                            'rowsNow' => max(1.0, $examined[$statement->id] ?? $one->rowsNow),
                            'rowsThen' => max(1.0, $one->rowsThen),
                            'savedUs' => $statement->durationUs * $one->saved,
                            'sort' => $one->sorts,
                            'covers' => $one->covers,
                        ],
                    ]);
                }
            }
        }
        $merged = self::merged(array_values($found));
        usort($merged, static fn (ProposedIndex $a, ProposedIndex $b): int => $b->savedUs() <=> $a->savedUs());

        return $merged;
    }

    /**
     * The indexes a query is best served with: one after the other the one that saves most, two together where neither saves by itself,
     * and only those without which it would cost more. What they save is shared among them.
     *
     * @return list<ChosenIndex>
     */
    private function chosen(QueryReach $query, QueryCost $cost, float $wholeCost): array
    {
        $candidates = $this->candidates($query);
        $before = $cost->of($query)->cost;
        $chosen = [];
        for ($now = $before; count($chosen) < self::MOST_TOGETHER; $now = $cost->of($query, self::byTable($chosen))->cost) {
            $best = null;
            $least = $now * (1 - self::LEAST_GAIN);
            foreach ($this->sets($candidates, $chosen) as $set) {
                $with = $cost->of($query, self::byTable([...$chosen, ...$set]))->cost;
                // Of as good as equal ones the shorter: they are tried in that order.
                if ($best === null
                    ? $with < $least
                    : $with + self::EXECUTION < self::WORTH_LONGER * ($least + self::EXECUTION)) {
                    [$best, $least] = [$set, $with];
                }
            }
            if ($best === null) {
                break;
            }
            array_push($chosen, ...$best);
        }
        $then = $cost->of($query, self::byTable($chosen));
        $after = $then->cost;
        $losses = [];
        foreach ($chosen as $i => $one) {
            $others = $chosen;
            unset($others[$i]);
            $losses[$i] = $cost->of($query, self::byTable($others))->cost - $after;
        }
        $needed = array_filter($losses, static fn (float $loss): bool => $loss > self::LEAST_LOSS * ($after + $loss));
        $sum = array_sum($needed);
        $list = [];
        foreach ($needed as $i => $loss) {
            [$reach, $index] = $chosen[$i];
            $order = $reach->order !== [] ? $reach->order : $reach->grouped;
            $list[] = new ChosenIndex(
                $reach->table,
                $index->columns,
                max(0.0, ($before - $after) / $wholeCost) * $loss / $sum,
                $cost->of($query)->rows,
                $then->rows,
                $order !== [] && array_diff($order, $index->columns) === [],
                array_diff($reach->read, $index->columns, $this->tables[$reach->table]->primary()) === [],
            );
        }

        return $list;
    }

    /**
     * @param  list<array{IndexReach, Index}>  $candidates
     * @param  list<array{IndexReach, Index}>  $chosen
     * @return iterable<list<array{IndexReach, Index}>>
     */
    private function sets(array $candidates, array $chosen): iterable
    {
        $left = array_values(array_filter(
            $candidates,
            static fn (array $one): bool => array_filter($chosen, static fn (array $other): bool => $other[0] === $one[0]) === [],
        ));
        foreach ($left as $one) {
            yield [$one];
        }
        if ($chosen === [] && count($left) <= self::MOST_PAIRED) {
            foreach ($left as $i => $one) {
                foreach (array_slice($left, $i + 1) as $other) {
                    if ($one[0] !== $other[0]) {
                        yield [$one, $other];
                    }
                }
            }
        }
    }

    /**
     * @param  array<int, array{IndexReach, Index}>  $chosen
     * @return array<string, list<Index>>
     */
    private static function byTable(array $chosen): array
    {
        $by = [];
        foreach ($chosen as [$reach, $index]) {
            $by[$reach->table][] = $index;
        }

        return $by;
    }

    /**
     * @return list<array{IndexReach, Index}> shorter ones first
     */
    private function candidates(QueryReach $query): array
    {
        $candidates = [];
        foreach ($query->members as $reach) {
            $table = $this->tables[$reach->table];
            if ($table->rows < self::SMALL) {
                continue;
            }
            foreach ($this->columns($table, $reach) as $columns) {
                if (! $this->isNeedless($table, $columns)) {
                    $candidates[] = [$reach, new Index('', $columns, false)];
                }
            }
        }
        usort($candidates, static fn (array $a, array $b): int => count($a[1]->columns) <=> count($b[1]->columns));

        return $candidates;
    }

    /**
     * What is there already, or begins with a key that finds the row by itself.
     *
     * @param  non-empty-list<string>  $columns
     */
    private function isNeedless(IndexedTable $table, array $columns): bool
    {
        foreach ($table->indexes as $index) {
            if (! $index->whole) {
                continue;
            }
            $beginning = array_slice($columns, 0, count($index->columns));
            if ($index->beginsWith($columns) || ($index->unique && array_diff($index->columns, $beginning) === [])) {
                return true;
            }
        }

        return false;
    }

    /**
     * Indexes another one begins with, or nobody reads by. All of them may go: what one rests on stays.
     *
     * @param  int|null  $countedSeconds since when the server counts what it reads by; null where that is not known
     * @return list<array{table: IndexedTable, index: Index, why: string}>
     */
    public function needless(?int $countedSeconds): array
    {
        $isCounted = $countedSeconds !== null && $countedSeconds >= self::UNUSED_SECONDS;
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
                if ($longer === null && (! $isCounted || $index->uses !== 0 || $this->holds($table, $index, $others))) {
                    continue;
                }
                $found[] = [
                    'table' => $table,
                    'index' => $index,
                    'why' => $longer === null
                            ? 'nobody read by it in the '.intdiv($countedSeconds, 86_400).' days since the server began to count'
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
     * Constants come before the keys of joins, what is held to a span behind both, then what the rows are wanted in the order of; each also
     * with all that is read, so that the table itself need not be looked at.
     *
     * @return list<non-empty-list<string>>
     */
    private function columns(IndexedTable $table, IndexReach $reach): array
    {
        $fits = static fn (string $column): bool => ! ($table->columns[$column]['long'] ?? true);
        $constants = self::sharpest($table, $reach->constants());
        $joins = self::sharpest($table, array_map(strval(...), array_keys($reach->joins)));
        $ranges = self::sharpest($table, $reach->ranges);
        $order = $reach->order !== [] ? $reach->order : $reach->grouped;
        $order = array_filter($order, $fits) === $order ? $order : [];
        $beginnings = [$constants, [...$constants, ...$joins], $joins, [...$joins, ...$constants]];
        $all = [];
        foreach ($beginnings as $beginning) {
            $all[] = $beginning;
            foreach ($ranges as $range) {
                $all[] = [...$beginning, $range];
            }
            if ($order !== []) {
                $all[] = [...$beginning, ...$order];
            }
        }
        $lists = [];
        foreach ($all as $columns) {
            $columns = array_slice(array_values(array_unique($columns)), 0, self::MOST_COLUMNS);
            if ($columns === []) {
                continue;
            }
            $whole = array_values(array_unique([...$columns, ...array_diff($reach->read, $table->primary())]));
            $lists[implode(',', $columns)] = $columns;
            if (count($whole) <= self::MOST_COLUMNS && array_filter($whole, $fits) === $whole) {
                $lists[implode(',', $whole)] = $whole;
            }
        }

        return array_values($lists);
    }

    /**
     * Those an index may have, the ones that tell most apart first: shorter indexes begin with them too.
     *
     * @param  list<string>  $columns
     * @return list<string>
     */
    private static function sharpest(IndexedTable $table, array $columns): array
    {
        $columns = array_values(array_filter(
            $columns,
            static fn (string $column): bool => ! ($table->columns[$column]['long'] ?? true),
        ));
        usort($columns, static fn (string $a, string $b): int => [$table->distinct($b), $a] <=> [$table->distinct($a), $b]);

        return $columns;
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
