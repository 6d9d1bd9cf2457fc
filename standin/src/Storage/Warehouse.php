<?php

declare(strict_types=1);

namespace Fulcrion\StandIn\Storage;

use Fulcrion\StandIn\WarehouseError;

/**
 * A cluster on disk: its nodes, schemas, tables and views.
 */
final class Warehouse
{
    /** @var array<string, TableStore> */
    private array $tables = [];

    private function __construct(public readonly string $root, public readonly string $name, public readonly int $nodes, public readonly HardwareProfile $profile)
    {
    }

    public static function create(string $root, string $name, int $nodes, HardwareProfile $profile): self
    {
        if ($nodes < 1) {
            throw new WarehouseError('A cluster needs at least one node.');
        }
        if (! is_dir("{$root}/schemas") && ! @mkdir("{$root}/schemas", 0700, true)) {
            throw new WarehouseError("The directory of the cluster {$name} cannot be made.");
        }
        file_put_contents("{$root}/cluster.json", json_encode(['name' => $name, 'nodes' => $nodes, 'profile' => $profile->toArray()], JSON_THROW_ON_ERROR | JSON_PRETTY_PRINT));

        return new self($root, $name, $nodes, $profile);
    }

    public static function open(string $root): self
    {
        $json = @file_get_contents("{$root}/cluster.json");
        if ($json === false) {
            throw new WarehouseError('The practice cluster has no files here; it is built by the demo data.');
        }
        $values = json_decode($json, true, 8, JSON_THROW_ON_ERROR);

        return new self($root, $values['name'], $values['nodes'], HardwareProfile::fromArray($values['profile']));
    }

    /**
     * @return list<string>
     */
    public function schemas(): array
    {
        return array_map(rawurldecode(...), array_map(basename(...), glob("{$this->root}/schemas/*", GLOB_ONLYDIR) ?: []));
    }

    public function hasSchema(string $schema): bool
    {
        return is_dir($this->schemaPath($schema));
    }

    public function createSchema(string $schema): void
    {
        @mkdir($this->schemaPath($schema), 0700, true);
    }

    public function dropSchema(string $schema): void
    {
        if ($this->tables($schema) !== [] || $this->views($schema) !== []) {
            throw new WarehouseError("The schema {$schema} is not empty; drop its tables and views first.");
        }
        @rmdir($this->schemaPath($schema));
    }

    /**
     * @return list<string>
     */
    public function tables(string $schema): array
    {
        $names = [];
        foreach (glob($this->schemaPath($schema).'/*/current') ?: [] as $path) {
            $names[] = rawurldecode(basename(dirname($path)));
        }

        return $names;
    }

    /**
     * @return list<string>
     */
    public function views(string $schema): array
    {
        return array_map(static fn (string $path): string => rawurldecode(basename($path, '.sql')), glob($this->schemaPath($schema).'/*.sql') ?: []);
    }

    public function table(string $schema, string $name): ?TableStore
    {
        $store = $this->tables["{$schema}.{$name}"] ??= new TableStore($this->tablePath($schema, $name), $schema, $name);

        return $store->exists() ? $store : null;
    }

    public function createTable(string $schema, string $name, TableDefinition $definition, int $nowUs): TableStore
    {
        if (! $this->hasSchema($schema)) {
            throw new WarehouseError("There is no schema {$schema}; its schemas are ".implode(', ', $this->schemas()).'.');
        }
        if ($this->table($schema, $name) !== null || $this->view($schema, $name) !== null) {
            throw new WarehouseError("There is already a table or view {$schema}.{$name}.");
        }

        return $this->tables["{$schema}.{$name}"] = TableStore::create($this->tablePath($schema, $name), $schema, $name, $definition, $nowUs);
    }

    public function renameTable(string $schema, string $name, string $to): void
    {
        if ($this->table($schema, $name) === null) {
            throw new WarehouseError("There is no table {$schema}.{$name}.");
        }
        if ($this->table($schema, $to) !== null || $this->view($schema, $to) !== null) {
            throw new WarehouseError("There is already a table or view {$schema}.{$to}.");
        }
        rename($this->tablePath($schema, $name), $this->tablePath($schema, $to));
        unset($this->tables["{$schema}.{$name}"], $this->tables["{$schema}.{$to}"]);
    }

    public function view(string $schema, string $name): ?string
    {
        $sql = @file_get_contents($this->viewPath($schema, $name));

        return $sql === false ? null : $sql;
    }

    public function createView(string $schema, string $name, string $sql): void
    {
        if (! $this->hasSchema($schema)) {
            throw new WarehouseError("There is no schema {$schema}.");
        }
        $path = $this->viewPath($schema, $name);
        file_put_contents("{$path}.part", $sql);
        rename("{$path}.part", $path);
    }

    public function dropView(string $schema, string $name): void
    {
        @unlink($this->viewPath($schema, $name));
    }

    /** Where files to be copied in lie. */
    public function inbox(): string
    {
        $path = "{$this->root}/inbox";
        is_dir($path) || @mkdir($path, 0700);

        return $path;
    }

    /** Everything of the cluster, gone. */
    public function destroy(): void
    {
        foreach ($this->schemas() as $schema) {
            foreach ($this->tables($schema) as $table) {
                $this->table($schema, $table)?->remove();
            }
            foreach ($this->views($schema) as $view) {
                $this->dropView($schema, $view);
            }
            @rmdir($this->schemaPath($schema));
        }
        foreach (glob("{$this->root}/inbox/*") ?: [] as $path) {
            @unlink($path);
        }
        @rmdir("{$this->root}/inbox");
        @rmdir("{$this->root}/schemas");
        @unlink("{$this->root}/cluster.json");
        @rmdir($this->root);
    }

    private function schemaPath(string $schema): string
    {
        return "{$this->root}/schemas/".self::file($schema);
    }

    private function tablePath(string $schema, string $name): string
    {
        return $this->schemaPath($schema).'/'.self::file($name);
    }

    private function viewPath(string $schema, string $name): string
    {
        return $this->schemaPath($schema).'/'.self::file($name).'.sql';
    }

    /** Names are data: dots and slashes must not walk out of the directory. */
    private static function file(string $name): string
    {
        return str_replace('.', '%2E', rawurlencode($name));
    }
}
