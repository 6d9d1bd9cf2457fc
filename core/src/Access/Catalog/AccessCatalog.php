<?php

declare(strict_types=1);

namespace Fulcrion\Core\Access\Catalog;

use Fulcrion\Core\Access\Policy\ObjectPath;
use Fulcrion\Core\Catalog\HelperName;

/**
 * All tables and views of an estate that anybody may be told of: what changes keep and build for themselves is left out.
 */
final readonly class AccessCatalog
{
    /** @var array<string, TableEntry> by path */
    public array $tables;

    /** @var array<string, true> paths of clusters and schemas */
    private array $nodes;

    /**
     * @param  list<TableEntry>  $tables
     * @param  list<string>  $places clusters and schemas that may hold no table
     */
    public function __construct(array $tables, array $places = [])
    {
        $byPath = [];
        $nodes = [ObjectPath::ESTATE => true];
        foreach ($tables as $table) {
            $parts = ObjectPath::parts($table->path);
            if (HelperName::is($parts[1] ?? '', $parts[2] ?? '')) {
                continue;
            }
            $byPath[$table->path] = $table;
            $schema = (string) ObjectPath::parent($table->path);
            $nodes[$schema] = true;
            $nodes[(string) ObjectPath::parent($schema)] = true;
        }
        foreach ($places as $place) {
            $nodes[$place] = true;
        }
        $this->tables = $byPath;
        $this->nodes = $nodes;
    }

    public function table(string $path): ?TableEntry
    {
        return $this->tables[$path] ?? null;
    }

    public function has(string $path): bool
    {
        if (isset($this->nodes[$path]) || isset($this->tables[$path])) {
            return true;
        }
        $parts = ObjectPath::parts($path);
        $table = count($parts) === 4 ? $this->table((string) ObjectPath::parent($path)) : null;

        return $table !== null && isset($table->columns[$parts[3]]);
    }

    /**
     * @return list<TableEntry> at or below an object, or the one it is a column of
     */
    public function below(string $path): array
    {
        if (isset($this->tables[$path])) {
            return [$this->tables[$path]];
        }
        if (count(ObjectPath::parts($path)) === 4) {
            $table = $this->table((string) ObjectPath::parent($path));

            return $table === null ? [] : [$table];
        }

        return array_values(array_filter($this->tables, static fn (TableEntry $table): bool => ObjectPath::within($table->path, $path)));
    }

    public function columns(): int
    {
        return array_sum(array_map(static fn (TableEntry $table): int => count($table->columns), $this->tables));
    }

    /**
     * @return list<string> clusters and schemas
     */
    public function places(): array
    {
        return array_map(strval(...), array_keys($this->nodes));
    }
}
