<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Rollups;

use Fulcrion\Core\Catalog\TypeKind;
use Fulcrion\Core\Parquet\ParquetReader;
use Fulcrion\Core\Sql\Ast;
use Fulcrion\Practice\Storage\FileSource;
use Fulcrion\Practice\Storage\Manifest;
use Fulcrion\Practice\Storage\TableStore;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Practice\WarehouseError;

/**
 * Makes lookups and brings them up to their tables.
 */
final readonly class LookupKeeper
{
    /** Share of a node's memory all lookups together may take. */
    public const SHARE = 0.1;

    /** Bytes an entry takes beside its key and values. */
    private const ENTRY = 16;

    public function __construct(private Warehouse $warehouse, private int $nowUs)
    {
    }

    /** Stored bytes of a node that lookups may take. */
    public static function budget(Warehouse $warehouse): int
    {
        return (int) ((self::SHARE * $warehouse->profile->memoryBytes) / $warehouse->profile->rowFactor);
    }

    public function create(string $schema, string $name, Ast\Query $query, string $sql, string $key, TableStore $table): Lookup
    {
        $columns = self::columns($query, $table);
        if (! in_array($key, $columns, true)) {
            throw new WarehouseError(
                "The key {$key} has to be among the columns of the lookup: ".implode(', ', $columns).'.',
                $query->at,
            );
        }
        [$lookup, $values] = $this->computed(
            new Lookup(
                $schema,
                $name,
                $sql,
                $key,
                $columns,
                "{$table->schema}.{$table->name}",
                basename($table->directory),
                0,
                0,
                0,
                $this->nowUs,
                0,
            ),
            $table,
            $table->manifest(),
        );
        $others = array_sum(
            array_map(
                static fn (Lookup $other): int => $other->path() === $lookup->path() ? 0 : $other->bytes,
                $this->warehouse->rollupBook()->lookups(),
            ),
        );
        if ($others + $lookup->bytes > self::budget($this->warehouse)) {
            throw new WarehouseError(
                "The lookup takes {$lookup->bytes} stored bytes in the memory of every node, and only ".
                    max(0, self::budget($this->warehouse) - $others).
                    ' of '.
                    self::budget($this->warehouse).
                    ' are free. Take fewer columns, or drop another lookup.',
                $query->at,
            );
        }
        $this->keep($lookup, $values);

        return $lookup;
    }

    /**
     * The map as of a version of its table, made anew where it is of another one.
     *
     * @return array<string, list<int|float|string|bool|null>>|string values by column; or why there are none
     */
    public function map(Lookup $lookup, TableStore $table, Manifest $wanted): array|string
    {
        $current = $table->manifest();
        if ($wanted->version !== $current->version) {
            return "it is of the current version of {$lookup->table}, and the statement asks for an older one";
        }
        if ($lookup->version !== $current->version || $lookup->tableToken !== basename($table->directory)) {
            try {
                $lookup = $this->made($lookup, $table, $current);
            } catch (WarehouseError $error) {
                return lcfirst(rtrim($error->getMessage(), '.'));
            }
        }
        $map = $this->warehouse->rollupBook()->map($lookup);
        if ($map === null) {
            $this->made($lookup, $table, $current);
            $map = $this->warehouse->rollupBook()->map($lookup);
        }

        return $map ?? 'its file is damaged; refresh it';
    }

    /**
     * @throws WarehouseError where the key is not unique
     */
    public function made(Lookup $lookup, TableStore $table, Manifest $manifest): Lookup
    {
        [$made, $values] = $this->computed($lookup, $table, $manifest);
        $this->keep($made, $values);

        return $made;
    }

    /**
     * @param  array<string, list<int|float|string|bool|null>>  $values
     */
    private function keep(Lookup $lookup, array $values): void
    {
        $this->warehouse->rollupBook()->keepMap($lookup, $values);
        $this->warehouse->rollupBook()->keep($lookup);
    }

    /**
     * @return array{Lookup, array<string, list<int|float|string|bool|null>>}
     */
    private function computed(Lookup $lookup, TableStore $table, Manifest $manifest): array
    {
        $columns = array_fill_keys($lookup->columns, []);
        foreach ($manifest->chunks as $chunk) {
            $reader = ParquetReader::open(new FileSource($table->file($chunk)));
            foreach ($lookup->columns as $name) {
                foreach ($reader->readAll($name) as $value) {
                    $columns[$name][] = $value;
                }
            }
        }
        $type =
            $manifest->definition->column($lookup->key)->type ??
            throw new WarehouseError("{$lookup->table} has no column {$lookup->key} any more.");
        if ($type->is(TypeKind::Double, TypeKind::Boolean)) {
            throw new WarehouseError("A lookup cannot have a key of type {$type}.");
        }
        $times = [];
        foreach ($columns[$lookup->key] as $value) {
            if ($value === null) {
                throw new WarehouseError(
                    "The key {$lookup->key} of {$lookup->table} is NULL in a row, so it is not unique. Fill it in, or choose another key.",
                );
            }
            /** @var int|string $value */
            $times[$value] = ($times[$value] ?? 0) + 1;
        }
        $again = array_filter($times, static fn (int $count): bool => $count > 1);
        if ($again !== []) {
            arsort($again);
            $shown = array_slice($again, 0, 5, true);
            $words = implode(
                ', ',
                array_map(
                    static fn (int $count, int|string $value): string => $type->show(
                        is_int($value) && $type->is(TypeKind::Text) ? (string) $value : $value,
                    )." ({$count} times)",
                    $shown,
                    array_keys($shown),
                ),
            );
            $what = "The key {$lookup->key} of {$lookup->table} is not unique";
            throw new WarehouseError(
                "{$what}. A lookup needs one row a key.",
                null,
                "{$what}: {$words}".
                    (count($again) > 5 ? ' and '.(count($again) - 5).' more values' : '').
                    '. A lookup needs one row a key.',
            );
        }
        $bytes = self::ENTRY * count($times);
        foreach ($columns as $values) {
            foreach ($values as $value) {
                $bytes += is_string($value) ? strlen($value) + 4 : 8;
            }
        }
        $made = new Lookup(
            $lookup->schema,
            $lookup->name,
            $lookup->sql,
            $lookup->key,
            $lookup->columns,
            $lookup->table,
            basename($table->directory),
            $manifest->version,
            count($times),
            $bytes,
            $lookup->createdUs,
            $this->nowUs,
        );

        return [$made, $columns];
    }

    /**
     * @return list<string>
     */
    private static function columns(Ast\Query $query, TableStore $table): array
    {
        $select = $query->body;
        if (
            ! ($select instanceof Ast\Select) ||
            ! ($select->from instanceof Ast\TableName) ||
            $select->where !== null ||
            $select->groupBy !== [] ||
            $select->distinct ||
            $query->orderBy !== [] ||
            $query->limit !== null ||
            $query->with !== []
        ) {
            throw new WarehouseError('A lookup is SELECT columns FROM table, with nothing else.', $query->at);
        }
        $definition = $table->manifest()->definition;
        $columns = [];
        foreach ($select->items as $item) {
            if ($item->value instanceof Ast\Star) {
                array_push($columns, ...array_map(static fn ($column): string => $column->name, $definition->columns));

                continue;
            }
            $name = $item->value instanceof Ast\ColumnName ? strtolower($item->value->parts[count($item->value->parts) - 1]) : '';
            if ($definition->column($name) === null) {
                throw new WarehouseError('A lookup takes plain columns of its table.', $item->at);
            }
            $columns[] = $name;
        }

        return array_values(array_unique($columns));
    }

    /** The table of a lookup's SELECT, as it is written. */
    public static function tableOf(Ast\Query $query): Ast\TableName
    {
        $from = $query->body instanceof Ast\Select ? $query->body->from : null;

        return $from instanceof Ast\TableName
            ? $from
            : throw new WarehouseError('A lookup is SELECT columns FROM table, with nothing else.', $query->at);
    }
}
