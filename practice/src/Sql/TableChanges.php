<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Sql;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnStatistics;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Parquet\Packing;
use Fulcrion\Core\Parquet\ParquetReader;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Core\Sql\Names\TableNames;
use Fulcrion\Core\Sql\Printer;
use Fulcrion\Core\Storage\Clustering;
use Fulcrion\Core\Storage\Distribution;
use Fulcrion\Core\Storage\Partitioning;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Core\Text\Quantity;
use Fulcrion\Practice\Engine;
use Fulcrion\Practice\Expression\Expr;
use Fulcrion\Practice\Lineage\Provenance;
use Fulcrion\Practice\Lineage\TableOrigins;
use Fulcrion\Practice\Logical\Field;
use Fulcrion\Practice\Logical\RelationNode;
use Fulcrion\Practice\Logical\Scan;
use Fulcrion\Practice\Physical\Batch;
use Fulcrion\Practice\Physical\ChunkCache;
use Fulcrion\Practice\Physical\ChunkPruner;
use Fulcrion\Practice\Physical\Kernel;
use Fulcrion\Practice\Physical\Limits;
use Fulcrion\Practice\Physical\Run;
use Fulcrion\Practice\Rollups\LookupKeeper;
use Fulcrion\Practice\Rollups\Rollup;
use Fulcrion\Practice\Rollups\RollupKeeper;
use Fulcrion\Practice\Storage\FileSource;
use Fulcrion\Practice\Storage\Manifest;
use Fulcrion\Practice\Storage\TableMoved;
use Fulcrion\Practice\Storage\TableStatistics;
use Fulcrion\Practice\Storage\TableStore;
use Fulcrion\Practice\Storage\TableWriter;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Practice\WarehouseError;
use InvalidArgumentException;

/**
 * Statements that change the warehouse.
 */
final readonly class TableChanges
{
    public function __construct(private Engine $engine, private Warehouse $warehouse, private Session $session, private Limits $limits)
    {
    }

    /**
     * @return array{int, string} rows affected, what happened in words
     */
    public function apply(Ast\Statement $s, string $sql): array
    {
        for ($try = 1; ; $try++) {
            try {
                return $this->once($s, $sql);
            } catch (TableMoved $moved) {
                // The table was laid out anew meanwhile; its successor has the same name and columns.
                if ($try === 3) {
                    throw $moved;
                }
            }
        }
    }

    /**
     * @return array{int, string}
     */
    private function once(Ast\Statement $s, string $sql): array
    {
        return match (true) {
            $s instanceof Ast\CreateSchema => $this->createSchema($s),
            $s instanceof Ast\CreateTable => $this->createTable($s, $sql),
            $s instanceof Ast\CreateView => $this->createView($s),
            $s instanceof Ast\CreateRollup => $this->prepare($s),
            $s instanceof Ast\Refresh => $this->refresh($s),
            $s instanceof Ast\Insert => $this->insert($s, $sql),
            $s instanceof Ast\Copy => $this->copy($s),
            $s instanceof Ast\Update => $this->rewrite($s->table, $s->alias, $s->where, $s->assignments, $s->at),
            $s instanceof Ast\Delete => $this->rewrite($s->table, $s->alias, $s->where, null, $s->at),
            $s instanceof Ast\Drop => $this->drop($s),
            $s instanceof Ast\Rename => $this->rename($s),
            $s instanceof Ast\Analyze => $this->analyze($s),
            $s instanceof Ast\Maintain => (new TableMaintenance($this->warehouse, $this->session, $this->limits))->run(
                $s,
                $this->binder()->table($s->table, $s->at),
            ),
            $s instanceof Ast\Privileges => throw new WarehouseError(
                ($s->grants ? 'GRANT' : 'REVOKE').' can be read but not run here: the practice cluster keeps no privileges.',
                $s->at,
            ),
            default => throw new WarehouseError('This statement cannot be run here.', $s->at),
        };
    }

    private function binder(): QueryBinder
    {
        return new QueryBinder($this->warehouse, $this->session);
    }

    /**
     * @return array{int, string}
     */
    private function createSchema(Ast\CreateSchema $s): array
    {
        $name = strtolower($s->name);
        if ($this->warehouse->hasSchema($name)) {
            if (! $s->unlessThere) {
                throw new WarehouseError("There is already a schema {$name}.", $s->at);
            }

            return [0, "The schema {$name} is there already."];
        }
        $this->warehouse->createSchema($name);

        return [0, "Schema {$name} made."];
    }

    /**
     * @return array{int, string}
     */
    private function createTable(Ast\CreateTable $s, string $sql): array
    {
        [$schema, $name] = $this->binder()->name($s->name, $s->at);
        $there = $this->warehouse->table($schema, $name);
        if ($there !== null && $s->unlessThere) {
            return [0, "The table {$schema}.{$name} is there already."];
        }
        if ($there !== null && ! $s->orReplace) {
            throw new WarehouseError("There is already a table {$schema}.{$name}.", $s->at);
        }
        $relation = null;
        $columns = [];
        foreach ($s->columns as $column) {
            $columns[] = new Column(strtolower($column->name), $this->type($column->type), ! $column->notNull);
        }
        $binder = $this->binder();
        if ($s->source !== null) {
            $relation = $binder->query($s->source);
            if ($columns === []) {
                $columns = array_map(
                    static fn (Field $field): Column => new Column(strtolower($field->name), $field->type),
                    $relation->fields(),
                );
            }
            if (count($columns) !== count($relation->fields())) {
                throw new WarehouseError(
                    'The query has '.count($relation->fields()).' columns, the table '.count($columns).'.',
                    $s->at,
                );
            }
            $relation = $binder->castInto($relation, array_map(static fn (Column $column): ColumnType => $column->type, $columns));
        }
        $names = array_map(static fn (Column $column): string => $column->name, $columns);
        if (count(array_unique($names)) < count($names)) {
            throw new WarehouseError('Two columns have the same name; give one an alias.', $s->at);
        }
        $definition = $this->definition($columns, $s->layout);
        // A replaced table is written beside the old one, which goes only when the new one is whole.
        $target = $there === null ? $name : "{$name} being replaced";
        $store = $this->warehouse->createTable($schema, $target, $definition, $this->session->nowUs);
        $rows = 0;
        if ($relation !== null) {
            try {
                $rows = $this->append($store, $relation, $sql, $binder);
            } catch (\Throwable $error) {
                $store->remove();
                throw $error;
            }
        }
        if ($there !== null) {
            $this->warehouse->renameTables([[$schema, $name, "{$name} replaced"], [$schema, $target, $name]]);
            $this->warehouse->table($schema, "{$name} replaced")?->remove();
        }

        return [$rows, "Table {$schema}.{$name} made".($relation === null ? '.' : " with {$rows} rows.")];
    }

    private function type(Ast\TypeName $type): ColumnType
    {
        try {
            return ColumnType::named($type);
        } catch (InvalidArgumentException $exception) {
            throw new WarehouseError(ucfirst($exception->getMessage()).'.', $type->at);
        }
    }

    /**
     * @param  list<Column>  $columns
     */
    private function definition(array $columns, ?Ast\LayoutClauses $said): TableDefinition
    {
        if ($said === null) {
            return new TableDefinition($columns, Distribution::even());
        }
        $named = static fn (array $names): array => array_map(static function (string $name) use ($columns, $said): string {
            foreach ($columns as $column) {
                if (strcasecmp($column->name, $name) === 0) {
                    return $column->name;
                }
            }
            throw new WarehouseError(
                "A table is laid out by its own columns; it has no {$name} but ".
                    implode(', ', array_map(static fn (Column $column): string => $column->name, $columns)).
                    '.',
                $said->at,
            );
        }, $names);
        $partitioning = $said->cutColumn === null ? null : new Partitioning($named([$said->cutColumn])[0], $said->cutSpan);
        $definition = new TableDefinition(
            $columns,
            match ($said->placed) {
                Ast\LayoutClauses::BY => Distribution::hash(...$named($said->placedBy)),
                Ast\LayoutClauses::EVERYWHERE => Distribution::copy(),
                default => Distribution::even(),
            },
            $partitioning,
            array_values($named($said->sortedBy)),
            $said->chunkRows ?? TableDefinition::CHUNK_ROWS,
            [Ast\LayoutClauses::CURVE => Clustering::HILBERT, Ast\LayoutClauses::Z_CURVE => Clustering::Z_ORDER][$said->curve] ?? '',
        );
        $compression = $said->packed ?? Packing::USUAL;
        if (! isset(Packing::COMPRESSIONS[$compression])) {
            $known = array_map(
                static fn (string $word): string => (string) preg_replace('~(?<=[a-z])(?=\d)~', ' ', $word),
                array_keys(Packing::COMPRESSIONS),
            );
            throw new WarehouseError('PACKED takes one of '.implode(', ', $known).'.', $said->at);
        }

        return $said->encoded === [] && $said->packed === null
            ? $definition
            : $definition->packed(new Packing(TableMaintenance::encodings($said->encoded, $definition, $said->at), $compression));
    }

    /**
     * @param  QueryBinder  $binder that bound the relation
     */
    private function append(TableStore $store, RelationNode $relation, string $sql, QueryBinder $binder): int
    {
        $provenance = new Provenance($binder->viewColumns);
        $flows = $provenance->of($relation);

        return $store->exclusively(function (Manifest $base) use ($store, $relation, $sql, $provenance, $flows): int {
            $store->descend(
                TableOrigins::ofQuery(
                    $provenance,
                    $flows,
                    array_map(static fn (Column $column): string => $column->name, $base->definition->columns),
                ),
            );
            $writer = new TableWriter($store, $base, $this->warehouse->nodes);
            $fields = $relation->fields();
            $definition = $base->definition;
            $this->engine->stream($relation, $sql, $this->session, $this->limits, function (Batch $batch) use (
                $writer,
                $fields,
                $definition,
            ): bool {
                $values = array_map(static fn (Field $field): array => $batch->columns[$field->id], $fields);
                $this->refuseNulls($values, $definition);
                $writer->add($values);

                return true;
            });
            $writer->commit($this->session->nowUs);

            return $writer->rowCount();
        });
    }

    /**
     * @param  list<list<mixed>>  $values
     */
    private function refuseNulls(array $values, TableDefinition $definition): void
    {
        foreach ($definition->columns as $i => $column) {
            if (! $column->nullable && in_array(null, $values[$i], true)) {
                throw new WarehouseError("The column {$column->name} may not be NULL. Nothing was written.");
            }
        }
    }

    /**
     * @return array{int, string}
     */
    private function createView(Ast\CreateView $s): array
    {
        [$schema, $name] = $this->binder()->name($s->name, $s->at);
        if ($this->warehouse->table($schema, $name) !== null || ($this->warehouse->view($schema, $name) !== null && ! $s->orReplace)) {
            throw new WarehouseError("There is already a table or view {$schema}.{$name}.", $s->at);
        }
        $fields = $this->binder()->query($s->query)->fields();
        if ($s->columns !== [] && count($s->columns) !== count($fields)) {
            throw new WarehouseError(count($s->columns).' names for '.count($fields).' columns.', $s->at);
        }
        $qualified = new Ast\CreateView(
            $s->at,
            [$schema, $name],
            $s->columns,
            TableNames::qualified($s->query, $this->session->schema),
            $s->orReplace,
        );
        $this->warehouse->createView($schema, $name, (new Printer())->statement($qualified));

        return [0, "View {$schema}.{$name} made."];
    }

    /**
     * @return array{int, string}
     */
    private function prepare(Ast\CreateRollup $s): array
    {
        [$schema, $name] = $this->binder()->name($s->name, $s->at);
        if (! $this->warehouse->hasSchema($schema)) {
            throw new WarehouseError("There is no schema {$schema}.", $s->at);
        }
        $book = $this->warehouse->rollupBook();
        $there = $s->kind === Ast\CreateRollup::ROLLUP ? $book->rollup($schema, $name) : $book->lookup($schema, $name);
        $word = strtolower($s->kind);
        if ($there !== null && ! $s->orReplace) {
            throw new WarehouseError("There is already a {$word} {$schema}.{$name}.", $s->at);
        }
        $options = [];
        foreach ($s->options as $option) {
            $value = $option->values[0];
            $options[$option->name] =
                $value instanceof Ast\ColumnName
                    ? strtolower($value->parts[0])
                    : throw new WarehouseError("The option {$option->name} takes a word.", $option->at);
        }
        $sql = (new Printer())->statement($s->query);
        if ($s->kind === Ast\CreateRollup::LOOKUP) {
            $unknown = array_diff_key($options, ['key' => 1]);
            if ($unknown !== [] || ! isset($options['key'])) {
                throw new WarehouseError(
                    'A lookup takes the option key and no other: CREATE LOOKUP name WITH (key = column) AS SELECT columns FROM table.',
                    $s->at,
                );
            }
            $from = LookupKeeper::tableOf($s->query);
            $lookup = (new LookupKeeper($this->warehouse, $this->session->nowUs))->create(
                $schema,
                $name,
                $s->query,
                $sql,
                $options['key'],
                $this->binder()->table($from->parts, $from->at),
            );

            return [
                $lookup->rows,
                "Lookup {$schema}.{$name} made: {$lookup->rows} keys of {$lookup->table}, ".
                Quantity::bytes($lookup->bytes).
                ' in the memory of every node.',
            ];
        }
        $stale = $options['stale'] ?? Rollup::FOLD;
        if (array_diff_key($options, ['stale' => 1]) !== [] || ! in_array($stale, [Rollup::FOLD, Rollup::SKIP], true)) {
            throw new WarehouseError(
                'A rollup takes the option stale = fold or skip: whether it is used together with rows it does not know yet, or not at '
                    .'all.',
                $s->at,
            );
        }
        $rows = (new RollupKeeper($this->engine, $this->warehouse, $this->session, $this->limits))->create($schema, $name, $sql, $stale);
        if ($there instanceof Rollup) {
            $book->rows($there)->remove();
        }

        return [$rows, "Rollup {$schema}.{$name} made with {$rows} rows."];
    }

    /**
     * @return array{int, string}
     */
    private function refresh(Ast\Refresh $s): array
    {
        [$schema, $name] = $this->binder()->name($s->name, $s->at);
        $book = $this->warehouse->rollupBook();
        if ($s->kind === Ast\CreateRollup::ROLLUP) {
            $rollup = $book->rollup($schema, $name) ?? throw new WarehouseError("There is no rollup {$schema}.{$name}.", $s->at);

            return (new RollupKeeper($this->engine, $this->warehouse, $this->session, $this->limits))->refresh($rollup);
        }
        $lookup = $book->lookup($schema, $name) ?? throw new WarehouseError("There is no lookup {$schema}.{$name}.", $s->at);
        $table = $this->binder()->table(explode('.', $lookup->table), $s->at);
        $made = (new LookupKeeper($this->warehouse, $this->session->nowUs))->made($lookup, $table, $table->manifest());

        return [$made->rows, "Lookup {$schema}.{$name} holds {$made->rows} keys."];
    }

    /**
     * @return array{int, string}
     */
    private function insert(Ast\Insert $s, string $sql): array
    {
        $binder = $this->binder();
        $store = $binder->table($s->table, $s->at);
        $definition = $store->manifest()->definition;
        $relation = $binder->query($s->source);
        $targets =
            $s->columns === []
                ? $definition->columns
                : array_map(
                    fn (string $name): Column => $definition->column($name) ??
                        throw new WarehouseError("The table has no column {$name}.", $s->at),
                    $s->columns,
                );
        if (count($targets) !== count($relation->fields())) {
            throw new WarehouseError(count($relation->fields()).' values for '.count($targets).' columns.', $s->at);
        }
        $relation = $binder->castInto($relation, array_map(static fn (Column $column): ColumnType => $column->type, $targets));
        if ($s->columns !== []) {
            $relation = $binder->spread(
                $relation,
                array_map(static fn (Column $column): string => $column->name, $targets),
                $definition->columns,
            );
        }
        $rows = $this->append($store, $relation, $sql, $binder);

        return [$rows, $rows === 1 ? '1 row inserted.' : "{$rows} rows inserted."];
    }

    /**
     * @return array{int, string}
     */
    private function copy(Ast\Copy $s): array
    {
        $store = $this->binder()->table($s->table, $s->at);
        $format = null;
        $header = true;
        $delimiter = ',';
        foreach ($s->options as $option) {
            $value = $option->values[0];
            match ($option->name) {
                'format' => ($format =
                    $value instanceof Ast\TextLiteral
                        ? strtolower($value->value)
                        : ($value instanceof Ast\ColumnName
                            ? strtolower($value->parts[0])
                            : '')),
                'header' => ($header =
                    $value instanceof Ast\BooleanLiteral
                        ? $value->value
                        : throw new WarehouseError('The option header takes TRUE or FALSE.', $option->at)),
                'delimiter' => ($delimiter =
                    $value instanceof Ast\TextLiteral && strlen($value->value) === 1
                        ? $value->value
                        : throw new WarehouseError('The option delimiter takes one character.', $option->at)),
                default => throw new WarehouseError(
                    "There is no option {$option->name}; there are format, header and delimiter.",
                    $option->at,
                ),
            };
        }
        $format ??= str_ends_with(strtolower($s->path), '.parquet') ? 'parquet' : 'csv';
        $rows = $store->exclusively(function (Manifest $base) use ($store, $s, $format, $header, $delimiter): int {
            $definition = $base->definition;
            $targets =
                $s->columns === []
                    ? $definition->columns
                    : array_map(
                        fn (string $name): Column => $definition->column($name) ??
                            throw new WarehouseError("The table has no column {$name}.", $s->at),
                        $s->columns,
                    );
            $writer = new TableWriter($store, $base, $this->warehouse->nodes);
            $files = CopyFiles::of($this->warehouse, $s->path, $s->at);
            foreach (
                $format === 'parquet'
                    ? $files->parquet($targets)
                    : ($format === 'csv'
                        ? $files->csv($targets, $header, $delimiter)
                        : throw new WarehouseError("The format {$format} cannot be read; csv and parquet can.", $s->at)) as $batch
            ) {
                $values = [];
                $count = count($batch[0] ?? []);
                foreach ($definition->columns as $column) {
                    $at = array_search($column, $targets, true);
                    $values[] = $at === false ? array_fill(0, $count, null) : $batch[$at];
                }
                $this->refuseNulls($values, $definition);
                $writer->add($values);
            }
            $writer->commit($this->session->nowUs);

            return $writer->rowCount();
        });

        return [$rows, "{$rows} rows copied."];
    }

    /**
     * UPDATE and DELETE: chunks that hold an affected row are written anew, the others stay as they are.
     *
     * @param  list<string>  $table
     * @param  list<array{string, Ast\Expression}>|null  $assignments null to delete
     * @return array{int, string}
     */
    private function rewrite(array $table, ?string $alias, ?Ast\Expression $where, ?array $assignments, int $at): array
    {
        $binder = $this->binder();
        $store = $binder->table($table, $at);
        $changed = $store->exclusively(function () use ($binder, $store, $alias, $where, $assignments, $table): int {
            $scan = $binder->scan($store, $alias ?? $table[count($table) - 1]);
            $base = $scan->manifest;
            $definition = $base->definition;
            $expressions = new ExpressionBinder($binder, new BindingScope([[$scan->alias, $scan->fields()]]));
            $condition = $where === null ? null : $expressions->condition($where);
            $sets = [];
            foreach ($assignments ?? [] as [$name, $value]) {
                $column = $definition->column($name) ?? throw new WarehouseError("The table has no column {$name}.", $value->at);
                $sets[$definition->index($column->name)] = Coercion::to($expressions->bind($value), $column->type);
            }
            foreach ([...$condition === null ? [] : [$condition], ...$sets] as $e) {
                if ($e->hasSubquery()) {
                    throw new WarehouseError('A subquery cannot stand in UPDATE or DELETE here.');
                }
            }
            $numbers = [];
            foreach ($scan->columns as $number => $field) {
                $numbers[$field->id] = $number;
            }
            $store->keepOrigins($this->assigned($store, $scan, $condition, $sets));
            $none = static fn (): int => 0;
            $pruner = new ChunkPruner($condition?->conjuncts() ?? [], $numbers);
            $filter = Kernel::filter($condition?->conjuncts() ?? [], $numbers, $none);
            $compute = Kernel::project($sets, $numbers, $none);
            $writer = new TableWriter($store, $base, $this->warehouse->nodes);
            $cache = new ChunkCache(1_000_000);
            $run = new Run($this->warehouse->nodes, $this->warehouse->profile, $cache, $this->limits, []);
            $kept = [];
            $affected = 0;
            foreach ($base->chunks as $chunk) {
                $run->tick();
                if ($pruner->skips($chunk)) {
                    $kept[] = $chunk;

                    continue;
                }
                $columns = [];
                $bytes = 0;
                foreach ($scan->columns as $number => $field) {
                    $bytes += $chunk->zones[$number]->bytes;
                    $columns[$field->id] = $cache->column($store->file($chunk), $definition->columns[$number]->name);
                }
                $run->read($bytes);
                $hit = $filter($columns, $chunk->rows, [], $run);
                if ($hit === []) {
                    $kept[] = $chunk;

                    continue;
                }
                $affected += count($hit);
                $values = array_values($columns);
                if ($assignments === null) {
                    $rest = array_values(array_diff(range(0, $chunk->rows - 1), $hit));
                    $values = array_values((new Batch($chunk->rows, $columns))->take($rest)->columns);
                } else {
                    // Only for the rows that are changed: what would fail for others must not be told.
                    foreach ($compute((new Batch($chunk->rows, $columns))->take($hit)->columns, count($hit), [], $run) as $number => $new) {
                        $values[$number] = array_values(array_replace($values[$number], array_combine($hit, $new)));
                    }
                    $this->refuseNulls($values, $definition);
                }
                $writer->add($values);
            }
            // What has read too much writes nothing.
            $run->meter();
            if ($affected > 0) {
                $writer->commit($this->session->nowUs, $kept, $affected - ($assignments === null ? 0 : $writer->rowCount()));
            }

            return $affected;
        });

        return [$changed, ($changed === 1 ? '1 row ' : "{$changed} rows ").($assignments === null ? 'deleted.' : 'changed.')];
    }

    /**
     * What is known of a table after columns got values of others, or got them depending on others.
     *
     * @param  array<int, Expr>  $sets number of the column => value
     */
    private function assigned(TableStore $store, Scan $scan, ?Expr $condition, array $sets): TableOrigins
    {
        $provenance = new Provenance([]);
        $provenance->walk($scan);
        $table = "{$store->schema}.{$store->name}";
        $deciding = $condition === null ? [] : array_map(static fn (): bool => false, $provenance->ofExpression($condition));
        $columns = [];
        foreach ($sets as $number => $value) {
            $own = $scan->manifest->definition->columns[$number]->name;
            $columns[$own] = [];
            foreach ([...$deciding, ...$provenance->ofExpression($value)] as $column => $isCopy) {
                $from = substr($column, strlen($table) + 1);
                if ($from !== $own) {
                    $columns[$own][$from] = $isCopy;
                }
            }
        }

        return $store->origins()->within($table, $columns);
    }

    /**
     * @return array{int, string}
     */
    private function drop(Ast\Drop $s): array
    {
        if ($s->kind === 'SCHEMA') {
            $schema = strtolower($s->name[0]);
            if (! $this->warehouse->hasSchema($schema)) {
                return $this->missing($s, "schema {$schema}");
            }
            $this->warehouse->dropSchema($schema);

            return [0, "Schema {$schema} dropped."];
        }
        [$schema, $name] = $this->binder()->name($s->name, $s->at);
        if ($s->kind === 'VIEW') {
            if ($this->warehouse->view($schema, $name) === null) {
                return $this->missing($s, "view {$schema}.{$name}");
            }
            $this->warehouse->dropView($schema, $name);

            return [0, "View {$schema}.{$name} dropped."];
        }
        if ($s->kind === Ast\CreateRollup::ROLLUP || $s->kind === Ast\CreateRollup::LOOKUP) {
            $book = $this->warehouse->rollupBook();
            $one = $s->kind === Ast\CreateRollup::ROLLUP ? $book->rollup($schema, $name) : $book->lookup($schema, $name);
            $word = strtolower($s->kind);
            if ($one === null) {
                return $this->missing($s, "{$word} {$schema}.{$name}");
            }
            $book->forget($one);

            return [0, ucfirst($word)." {$schema}.{$name} dropped."];
        }
        $table = $this->warehouse->table($schema, $name);
        if ($table === null) {
            return $this->missing($s, "table {$schema}.{$name}");
        }
        $rows = $table->manifest()->rows();
        $table->remove();

        return [$rows, "Table {$schema}.{$name} dropped."];
    }

    /**
     * @return array{int, string}
     */
    private function missing(Ast\Drop $s, string $what): array
    {
        if (! $s->ifThere) {
            throw new WarehouseError("There is no {$what}.", $s->at);
        }

        return [0, "There is no {$what}; nothing to drop."];
    }

    /**
     * @return array{int, string}
     */
    private function rename(Ast\Rename $s): array
    {
        $renames = [];
        foreach ($s->pairs as [$table, $to]) {
            [$schema, $name] = $this->binder()->name($table, $s->at);
            $renames[] = [$schema, $name, strtolower($to)];
        }
        $this->warehouse->renameTables($renames);

        return [
            0,
            implode(
                ' ',
                array_map(
                    static fn (array $rename): string => "Table {$rename[0]}.{$rename[1]} is now {$rename[0]}.{$rename[2]}.",
                    $renames,
                ),
            ),
        ];
    }

    /**
     * @return array{int, string}
     */
    private function analyze(Ast\Analyze $s): array
    {
        $store = $this->binder()->table($s->table, $s->at);
        self::collect($store, array_map(strtolower(...), $s->columns), $this->session->nowUs);

        return [0, "Statistics of {$store->schema}.{$store->name} collected."];
    }

    /**
     * @param  list<string>  $columns none for all
     */
    public static function collect(TableStore $store, array $columns, int $nowUs): void
    {
        $manifest = $store->manifest();
        $known = $columns === [] ? [] : $store->statistics()->columns ?? [];
        foreach ($manifest->definition->columns as $column) {
            if ($columns !== [] && ! in_array($column->name, $columns, true)) {
                continue;
            }
            $values = [];
            foreach ($manifest->chunks as $chunk) {
                foreach (ParquetReader::open(new FileSource($store->file($chunk)))->readAll($column->name) as $value) {
                    $values[] = $value;
                }
            }
            $known[$column->name] = ColumnStatistics::of($values);
        }
        $store->keep(new TableStatistics($nowUs, $manifest->rows(), $manifest->rowsChanged, $known));
    }
}
