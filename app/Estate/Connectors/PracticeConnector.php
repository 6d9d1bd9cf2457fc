<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use App\Estate\Catalog\CatalogObject;
use App\Estate\Models\Cluster;
use App\Estate\Rollups\LookupState;
use App\Estate\Rollups\RollupState;
use App\Platform\Support\Clock;
use App\Platform\Support\SealedCache;
use Closure;
use Fulcrion\Core\Access\Catalog\ColumnOrigin;
use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Health\NodeSet;
use Fulcrion\Core\Limits\RunMeter;
use Fulcrion\Core\Limits\StatementEstimate;
use Fulcrion\Core\Parquet\ParquetError;
use Fulcrion\Core\Plans\Plan;
use Fulcrion\Core\Plans\PlanStep;
use Fulcrion\Core\Plans\PlanVeil;
use Fulcrion\Core\Proofs\Answer;
use Fulcrion\Core\Proofs\Measured;
use Fulcrion\Core\Proofs\RowsDigest;
use Fulcrion\Core\Settings\NodeSettings;
use Fulcrion\Core\Sql\Ast\CreateView;
use Fulcrion\Core\Sql\Parser;
use Fulcrion\Core\Sql\Printer;
use Fulcrion\Core\Sql\Reading;
use Fulcrion\Core\Sql\SyntaxError;
use Fulcrion\Core\Storage\ClusterRates;
use Fulcrion\Core\Storage\ColumnSpread;
use Fulcrion\Core\Storage\Sample;
use Fulcrion\Core\Storage\TableLayout;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Practice\Engine;
use Fulcrion\Practice\Outcome;
use Fulcrion\Practice\Physical\ChunkCache;
use Fulcrion\Practice\Physical\Limits;
use Fulcrion\Practice\Physical\StoppedRun;
use Fulcrion\Practice\Rollups\Freshness;
use Fulcrion\Practice\Rollups\Lookup;
use Fulcrion\Practice\Rollups\LookupKeeper;
use Fulcrion\Practice\Sql\FunctionLibrary;
use Fulcrion\Practice\Sql\QueryBinder;
use Fulcrion\Practice\Sql\Session;
use Fulcrion\Practice\Storage\LayoutReader;
use Fulcrion\Practice\Storage\NodeBook;
use Fulcrion\Practice\Storage\SpaceReader;
use Fulcrion\Practice\Storage\StoredFacts;
use Fulcrion\Practice\Storage\TableCopy;
use Fulcrion\Practice\Storage\TableStore;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Practice\Switches;
use Fulcrion\Practice\WarehouseError;

/**
 * A practice cluster of this installation.
 */
final class PracticeConnector implements CatalogSource, LayoutSource, NodeSource, QueryRunner, RewriteSource, RollupSource, TableKeeper
{
    private const SECONDS = 60;

    public const ROWS = 10_000;

    /** Of the 512 MB a web process has, so that a run ends with a word and not with the process. */
    private const MEMORY = 400_000_000;

    /** Rows of a result that are compared in a proof. */
    private const PROOF_ROWS = 300_000;

    /** How often a write is run for its time. */
    private const WRITES = 9;

    /** A column with this many distinct values a row tells rows apart. */
    private const KEY_SHARE = 0.9;

    private const CHANGE_SECONDS = 3600;

    /** A statement without one of the planner's rewrites may take very long. */
    private const REWRITE_SECONDS = 20;

    private ?Engine $engine = null;

    public function __construct(private readonly Cluster $cluster)
    {
    }

    public function changes(): bool
    {
        return true;
    }

    public function functions(): array
    {
        return FunctionLibrary::names();
    }

    public function objects(bool $withFacts = true): array
    {
        $warehouse = $this->engine()->warehouse;
        $objects = [];
        foreach ($warehouse->every() as $table) {
            $objects[] = $this->table($warehouse, $table, $withFacts);
        }

        return [...$objects, ...$this->views($warehouse, $objects)];
    }

    /**
     * What columns a view has follows from its text and from the columns of all it may read.
     *
     * @param  list<CatalogObject>  $tables
     * @return list<CatalogObject>
     */
    private function views(Warehouse $warehouse, array $tables): array
    {
        $texts = [];
        foreach ($warehouse->schemas() as $schema) {
            foreach ($warehouse->views($schema) as $name) {
                $texts[] = [$schema, $name, (string) $warehouse->view($schema, $name)];
            }
        }
        $columns = array_map(static fn (CatalogObject $table): array => [$table->schema, $table->name, $table->columns], $tables);

        return $texts === []
            ? []
            : SealedCache::remember(
                "views {$this->cluster->slug}",
                [$texts, $columns],
                [CatalogObject::class],
                fn (): array => array_map(fn (array $view): CatalogObject => $this->view($warehouse, $view[0], $view[1]), $texts),
            );
    }

    public function run(
        string $sql,
        string $schema,
        string $user,
        Closure $cancelled,
        bool $careful = false,
        ?RunMeter $meter = null,
    ): QueryResult {
        $outcome = $this->guarded(
            $sql,
            fn (): Outcome => $this->engine()->run($sql, $this->session($schema, $user, $careful), $this->limits($cancelled, $meter)),
        );

        return new QueryResult(
            $outcome->columns,
            $outcome->rows,
            $outcome->cut,
            $outcome->rowsAffected,
            $outcome->message,
            $outcome->plan,
            $outcome->elapsedUs,
        );
    }

    public function plan(
        string $sql,
        string $schema,
        string $user,
        bool $run,
        Closure $cancelled,
        bool $careful = false,
        ?RunMeter $meter = null,
    ): Plan {
        $plan = $this->guarded(
            $sql,
            fn (): ?Plan => $run
                ? $this->engine()->actual($sql, $this->session($schema, $user, $careful), $this->limits($cancelled, $meter))
                : $this->engine()->explain($sql, $this->session($schema, $user, $careful)),
        );

        return $plan ??
            throw new SourceError(
                'This statement has no plan: it reads nothing. Explain a query, or the query of an INSERT or CREATE TABLE AS.',
            );
    }

    public function estimate(string $sql, string $schema, string $user, bool $careful = false): ?StatementEstimate
    {
        return $this->guarded(
            $sql,
            fn (): ?StatementEstimate => $this->engine()->estimate($sql, $this->session($schema, $user, $careful)),
        );
    }

    public function stamp(string $schema, string $table): ?string
    {
        return $this->engine()->warehouse->table($schema, $table)?->stamp();
    }

    public function layouts(): array
    {
        return LayoutReader::all($this->engine()->warehouse, Clock::microseconds());
    }

    public function outlines(): array
    {
        return LayoutReader::outlines($this->engine()->warehouse);
    }

    public function layout(string $table): ?TableLayout
    {
        [$schema, $name] = self::parts($table);
        $warehouse = $this->engine()->warehouse;
        $store = $warehouse->table($schema, $name);

        return $store === null ? null : LayoutReader::of($warehouse, $store, Clock::microseconds(), true);
    }

    public function nodes(): NodeSet
    {
        return $this->guarded('', fn (): NodeSet => NodeBook::read($this->engine()->warehouse));
    }

    public function stored(): array
    {
        return $this->guarded('', fn (): array => SpaceReader::parts($this->engine()->warehouse, Clock::seconds()));
    }

    public function storageBytes(): ?float
    {
        $bytes = $this->guarded('', fn (): ?int => NodeBook::storageBytes($this->engine()->warehouse));

        return $bytes === null ? null : (float) $bytes;
    }

    public function settings(): array
    {
        return $this->guarded('', fn (): array => NodeBook::settings($this->engine()->warehouse));
    }

    public function canSet(string $name): bool
    {
        return NodeSettings::has($name);
    }

    public function trySetting(string $host, string $name): string
    {
        $now = $this->settings()[$host][$name] ?? throw new SourceError("There is no setting {$name} of {$host}.");
        $this->set($host, $name, $now);

        return $now;
    }

    public function set(string $host, string $name, string $value): void
    {
        $this->guarded('', function () use ($host, $name, $value): void {
            NodeBook::set($this->engine()->warehouse, $host, $name, $value);
        });
    }

    public function rates(): ClusterRates
    {
        return LayoutReader::rates($this->engine()->warehouse->profile);
    }

    public function sample(string $table, int $rows): Sample
    {
        return $this->guarded('', fn (): Sample => LayoutReader::sample($this->store($table), $rows));
    }

    public function places(string $table, int $most): array
    {
        return $this->guarded('', fn (): array => LayoutReader::places($this->store($table), $most));
    }

    public function spread(string $table, string $column): ColumnSpread
    {
        return $this->guarded(
            '',
            fn (): ColumnSpread => LayoutReader::spread($this->store($table), $column, $this->engine()->warehouse->nodes),
        );
    }

    public function apply(string $sql, Closure $cancelled): string
    {
        return $this->guarded(
            $sql,
            fn (): string => $this->engine()->run($sql, $this->session('', 'ledger'), $this->patient($cancelled))->message,
        );
    }

    public function measure(string $sql, string $schema, Closure $cancelled, ?ReadAt $at = null): Measured
    {
        return $this->guarded($sql, function () use ($sql, $schema, $cancelled, $at): Measured {
            $at ??= new ReadAt(Clock::microseconds());
            // A cache of its own: nothing is in memory the first time, all of it the second.
            $engine = new Engine(
                $this->engine()->warehouse,
                new ChunkCache(6_000_000),
                new Switches($at->rollups ? [] : [Switches::ROLLUPS, Switches::LOOKUPS]),
            );
            $limits = self::proving($cancelled);
            $session = new Session($schema, 'ledger', $at->nowUs, false, $at->versions);
            $cold = $engine->run($sql, $session, $limits);
            $warm = $engine->run($sql, $session, $limits);
            if ($warm->plan === null) {
                throw new WarehouseError('This statement reads nothing.');
            }
            $whole = Reading::unlimited($sql);
            $compared = $whole === $sql ? $warm : $engine->run($whole, $session, $limits);
            $digest = new RowsDigest();
            foreach ($compared->rows as $row) {
                $digest->add($row);
            }

            $answer = Answer::of(array_column($compared->columns, 'name'), $compared->rows, PlanVeil::tables($warm->plan));

            return Measured::of(
                $warm->plan,
                $cold->elapsedUs,
                $warm->elapsedUs,
                count($warm->rows),
                $compared->cut ? null : $digest->text(),
                $answer,
            );
        });
    }

    public function write(array $sqls, string $schema, Closure $cancelled): array
    {
        return $this->guarded(implode("\n", $sqls), function () use ($sqls, $schema, $cancelled): array {
            $limits = self::proving($cancelled);
            [$engines, $times, $rows] = [[], [], []];
            // By turns, so that what else the machine does falls on all of them alike.
            for ($i = 0; $i < self::WRITES; $i++) {
                foreach ($sqls as $key => $sql) {
                    $engines[$key] ??= new Engine($this->engine()->warehouse, new ChunkCache(6_000_000), new Switches([]));
                    $outcome = $engines[$key]->run($sql, new Session($schema, 'ledger', Clock::microseconds()), $limits);
                    $times[$key][] = $outcome->elapsedUs;
                    $rows[$key] = $outcome->rowsAffected;
                }
            }

            return array_map(Measured::wrote(...), $times, $rows);
        });
    }

    public function holding(string $table, Closure $work): mixed
    {
        return $this->guarded('', fn (): mixed => $this->store($table)->exclusively(static fn (): mixed => $work()));
    }

    public function has(string $table): bool
    {
        [$schema, $name] = self::parts($table);

        return $this->engine()->warehouse->table($schema, $name) !== null;
    }

    public function version(string $table): int
    {
        return $this->guarded('', fn (): int => $this->store($table)->manifest()->version);
    }

    public function identity(string $table): string
    {
        return $this->guarded('', fn (): string => $this->store($table)->directory);
    }

    public function versions(): array
    {
        $versions = [];
        foreach ($this->engine()->warehouse->every() as $table) {
            $versions[$table->directory] = $table->current();
        }

        return $versions;
    }

    public function writes(string $table, int $from): array
    {
        return $this->guarded('', function () use ($table, $from): array {
            $store = $this->store($table);
            $writes = [];
            foreach ($store->versions() as $version) {
                if ($version >= $from) {
                    $writes[$version] = $store->version($version)->rowsChanged;
                }
            }

            return $writes;
        });
    }

    public function checksum(string $table): string
    {
        return $this->guarded('', fn (): string => $this->store($table)->checksum());
    }

    public function borrow(TableKeeper $from, string $table, string $as, float $share, Closure $cancelled): int
    {
        if (! ($from instanceof self)) {
            throw new SourceError('Only tables of practice clusters can be copied to another.');
        }

        return $this->guarded(
            '',
            fn (): int => (new TableCopy($this->engine()->warehouse))->copy(
                $from->store($table),
                $from->engine()->warehouse,
                self::parts($as),
                $share,
                Clock::microseconds(),
                static function () use ($cancelled): void {
                    if ($cancelled()) {
                        throw new SourceError('Stopped by hand.', null, true);
                    }
                },
            ),
        );
    }

    public function makeSchema(string $schema): void
    {
        $this->engine()->warehouse->createSchema($schema);
    }

    public function dropSchema(string $schema): void
    {
        $warehouse = $this->engine()->warehouse;
        foreach ([...$warehouse->rollupBook()->rollups(), ...$warehouse->rollupBook()->lookups()] as $one) {
            if ($one->schema === $schema) {
                $warehouse->rollupBook()->forget($one);
            }
        }
        foreach ($warehouse->tables($schema) as $name) {
            $warehouse->table($schema, $name)?->remove();
        }
        if ($warehouse->hasSchema($schema)) {
            $warehouse->dropSchema($schema);
        }
    }

    public function rollups(): array
    {
        $warehouse = $this->engine()->warehouse;
        $book = $warehouse->rollupBook();
        $states = [];
        foreach ($book->rollups() as $rollup) {
            [$schema, $name] = self::parts($rollup->fact);
            $table = $warehouse->table($schema, $name);
            $broken = match (true) {
                $table === null => "{$rollup->fact} is not there any more",
                basename($table->directory) !== $rollup->factToken => "{$rollup->fact} has a new layout since it was refreshed",
                default => '',
            };
            $missing = $table === null ? [] : Freshness::of($rollup, $table->manifest())[1];
            $manifest = $book->rows($rollup)->manifest();
            $states[] = new RollupState(
                $rollup->path(),
                $rollup->fact,
                $rollup->sql,
                $rollup->stale,
                $manifest->rows(),
                (float) $manifest->bytes($warehouse->nodes) * $warehouse->profile->rowFactor,
                $rollup->createdUs,
                $rollup->refreshedUs,
                count($missing),
                array_sum(array_map(static fn ($chunk): int => $chunk->rows, $missing)),
                $broken,
                $book->uses($rollup),
            );
        }

        return $states;
    }

    public function lookups(): array
    {
        $warehouse = $this->engine()->warehouse;

        return array_map(static function (Lookup $lookup) use ($warehouse): LookupState {
            [$schema, $name] = self::parts($lookup->table);
            $table = $warehouse->table($schema, $name);

            return new LookupState(
                $lookup->path(),
                $lookup->table,
                $lookup->sql,
                $lookup->key,
                $lookup->columns,
                $lookup->rows,
                (float) $lookup->bytes * $warehouse->profile->rowFactor,
                $lookup->createdUs,
                $lookup->refreshedUs,
                $table === null || $table->manifest()->version !== $lookup->version || basename($table->directory) !== $lookup->tableToken,
                $warehouse->rollupBook()->uses($lookup),
            );
        }, $warehouse->rollupBook()->lookups());
    }

    public function lookupBudget(): float
    {
        $warehouse = $this->engine()->warehouse;

        return (float) LookupKeeper::budget($warehouse) * $warehouse->profile->rowFactor;
    }

    public function rewrites(string $sql, string $schema): array
    {
        return $this->guarded($sql, function () use ($sql, $schema): array {
            $whole = self::steps($this->engine()->explain($sql, $this->session($schema, '')));
            $found = [];
            foreach (Switches::ALL as $name => [$title, $words]) {
                $plan = $this->engine()->with(new Switches([$name]))->explain($sql, $this->session($schema, ''));
                if (self::steps($plan) !== $whole) {
                    $found[$name] = ['title' => $title, 'words' => $words, 'estimatedRows' => self::expected($plan)];
                }
            }

            return $found;
        });
    }

    public function estimatedRows(string $sql, string $schema): float
    {
        return $this->guarded($sql, fn (): float => self::expected($this->engine()->explain($sql, $this->session($schema, ''))));
    }

    public function measureWithout(string $sql, string $schema, ?string $rewrite, Closure $cancelled): Measured
    {
        return $this->guarded($sql, function () use ($sql, $schema, $rewrite, $cancelled): Measured {
            $engine = $this->engine()->with(new Switches($rewrite === null ? [] : [$rewrite]));
            $outcome = $engine->run(
                $sql,
                $this->session($schema, 'rewrites'),
                new Limits(self::REWRITE_SECONDS, self::PROOF_ROWS, $cancelled, static fn (): int => (int) hrtime(true), self::MEMORY),
            );
            if ($outcome->plan === null) {
                throw new WarehouseError('This statement reads nothing.');
            }
            $digest = new RowsDigest();
            foreach ($outcome->rows as $row) {
                $digest->add($row);
            }

            return Measured::of(
                $outcome->plan,
                $outcome->elapsedUs,
                $outcome->elapsedUs,
                count($outcome->rows),
                $outcome->cut ? null : $digest->text(),
            );
        });
    }

    /** What a plan does, without what it expects. */
    private static function steps(?Plan $plan): string
    {
        $steps = array_map(
            static fn (PlanStep $step): array => [
                $step->kind->value,
                $step->detail,
                $step->table?->name,
                $step->conditions,
                array_map(static fn (PlanStep $input): string => $input->detail, $step->inputs),
                $step->notes,
            ],
            $plan?->steps() ?? [],
        );

        return (string) json_encode($steps, JSON_PARTIAL_OUTPUT_ON_ERROR);
    }

    private static function expected(?Plan $plan): float
    {
        return array_sum(array_map(static fn (PlanStep $step): float => $step->rows->estimated ?? 0.0, $plan?->steps() ?? []));
    }

    /** Forgets versions of tables that were written before a moment and are not current. */
    public function expire(int $beforeUs): void
    {
        foreach ($this->engine()->warehouse->every() as $table) {
            if (! $table->keepsVersions()) {
                $table->expire($beforeUs);
            }
        }
    }

    /** Puts a file where COPY finds it. */
    public function receive(string $name, string $path): void
    {
        $inbox = $this->engine()->warehouse->inbox();
        if (! @copy($path, "{$inbox}/{$name}")) {
            throw new SourceError('The file could not be written to the inbox; the disk may be full.');
        }
    }

    public function discard(string $name): void
    {
        @unlink($this->engine()->warehouse->inbox().'/'.basename($name));
    }

    private function store(string $table): TableStore
    {
        [$schema, $name] = self::parts($table);

        return $this->engine()->warehouse->table($schema, $name) ??
            throw new WarehouseError("There is no table {$table} on {$this->cluster->name} any more.");
    }

    /**
     * @return array{string, string}
     */
    private static function parts(string $table): array
    {
        $parts = explode('.', $table, 2);

        return [$parts[0], $parts[1] ?? ''];
    }

    private function patient(Closure $cancelled): Limits
    {
        return new Limits(self::CHANGE_SECONDS, self::ROWS, $cancelled, static fn (): int => (int) hrtime(true), self::MEMORY);
    }

    private function engine(): Engine
    {
        try {
            return $this->engine ??= new Engine(Warehouse::open(PracticeClusters::root($this->cluster->slug)));
        } catch (WarehouseError $error) {
            throw new SourceError($error->getMessage());
        }
    }

    private function session(string $schema, string $user, bool $careful = false): Session
    {
        return new Session($schema, $user, Clock::microseconds(), $careful);
    }

    private function limits(Closure $cancelled, ?RunMeter $meter): Limits
    {
        return new Limits(self::SECONDS, self::ROWS, $cancelled, static fn (): int => (int) hrtime(true), self::MEMORY, $meter);
    }

    /**
     * @param  Closure(): bool  $cancelled
     */
    private static function proving(Closure $cancelled): Limits
    {
        return new Limits(self::SECONDS, self::PROOF_ROWS, $cancelled, static fn (): int => (int) hrtime(true), self::MEMORY);
    }

    /**
     * @template T
     *
     * @param  callable(): T  $work
     * @return T
     */
    private function guarded(string $sql, callable $work): mixed
    {
        try {
            return $work();
        } catch (SyntaxError $error) {
            throw new SourceError($error->getMessage(), $error->offset);
        } catch (StoppedRun $error) {
            throw new SourceError($error->getMessage(), null, true);
        } catch (WarehouseError $error) {
            $place = $error->offset === null ? '' : 'Line '.(substr_count(substr($sql, 0, $error->offset), "\n") + 1).': ';
            throw new SourceError(
                $place.$error->getMessage(),
                $error->offset,
                false,
                null,
                $error->sealed() === $error->getMessage() ? null : $place.$error->sealed(),
            );
        } catch (ParquetError $error) {
            throw new SourceError($error->getMessage());
        }
    }

    private function table(Warehouse $warehouse, TableStore $table, bool $withFacts): CatalogObject
    {
        $facts = $table->facts($warehouse->nodes);
        $definition = $facts->definition;
        $statistics = $table->statistics();

        return new CatalogObject(
            $table->schema,
            $table->name,
            false,
            $facts->rows,
            $facts->bytes * $warehouse->profile->rowFactor,
            CatalogObject::columns($definition->columns),
            ! $withFacts
                ? []
                : [
                    'placed' => $definition->distribution->describe(),
                    'cut' => $definition->partitioning === null
                            ? 'into no partitions'
                            : "{$definition->partitioning->describe()}, {$facts->partitions} ".
                                ($facts->partitions === 1 ? 'partition' : 'partitions'),
                    'sorted by' => $definition->clustering()->describe(),
                    'chunks' => Quantity::count($facts->chunks),
                    'fullest node' => self::fullest($facts),
                    'statistics' => $statistics === null
                            ? 'never collected'
                            : Quantity::duration(max(0, Clock::microseconds() - $statistics->collectedUs)).
                                ' old, '.
                                Quantity::percent(($facts->rowsChanged - $statistics->rowsChanged) / max(1, $statistics->rows)).
                                ' changed since',
                    'versions' => (string) count($table->versions()),
                ],
            null,
            $this->origins($table),
            $this->keys($warehouse, $table),
            $warehouse->profile->rowFactor,
        );
    }

    /**
     * @return list<ColumnOrigin>
     */
    private function origins(TableStore $table): array
    {
        return array_map(
            fn (array $one): ColumnOrigin => new ColumnOrigin(
                ObjectPath::of([$one['cluster'] === '' ? $this->cluster->slug : $one['cluster'], ...explode('.', $one['path'], 2)]),
                $one['columns'],
                $one['conditions'],
                $one['row'],
                $one['former'],
            ),
            $table->origins()->list(),
        );
    }

    /**
     * Columns that tell rows apart: keys of lookups, and those whose statistics say so.
     *
     * @return list<string>
     */
    private function keys(Warehouse $warehouse, TableStore $table): array
    {
        $keys = [];
        foreach ($warehouse->rollupBook()->lookups() as $lookup) {
            if ($lookup->table === "{$table->schema}.{$table->name}") {
                $keys[$lookup->key] = true;
            }
        }
        $statistics = $table->statistics();
        foreach ($statistics->columns ?? [] as $name => $column) {
            if ($statistics !== null && $statistics->rows > 1 && $column->distinct >= self::KEY_SHARE * $statistics->rows) {
                $keys[$name] = true;
            }
        }

        return array_map(strval(...), array_keys($keys));
    }

    private static function fullest(StoredFacts $facts): string
    {
        $sum = array_sum($facts->rowsByNode);

        return $sum === 0 ? Quantity::NONE : Quantity::percent(max([0, ...$facts->rowsByNode]) / $sum).' of the rows';
    }

    private function view(Warehouse $warehouse, string $schema, string $name): CatalogObject
    {
        $sql = (string) $warehouse->view($schema, $name);
        try {
            $statement = (new Parser())->statement($sql);
            $query = $statement instanceof CreateView ? $statement->query : null;
            $fields = $query === null ? [] : (new QueryBinder($warehouse, $this->session($schema, '')))->query($query)->fields();
            $names = $statement instanceof CreateView ? $statement->columns : [];
            $columns = array_map(
                static fn ($field, int $i): array => [$names[$i] ?? $field->name, (string) $field->type, $field->nullable],
                $fields,
                array_keys($fields),
            );

            return new CatalogObject(
                $schema,
                $name,
                true,
                null,
                null,
                $columns,
                ['query' => $query === null ? $sql : (new Printer())->statement($query)],
                $sql,
            );
        } catch (WarehouseError|SyntaxError $error) {
            return new CatalogObject($schema, $name, true, null, null, [], ['broken' => $error->getMessage()], $sql);
        }
    }
}
