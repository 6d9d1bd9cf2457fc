<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Storage;

use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Practice\Rollups\RollupBook;
use Fulcrion\Practice\WarehouseError;

/**
 * A cluster on disk: its nodes, schemas, tables and views.
 */
final class Warehouse
{
    private const RENAMING = 'renaming.json';

    /** @var array<string, TableStore> by directory */
    private array $tables = [];

    private ?RollupBook $rollupBook = null;

    private function __construct(
        public readonly string $root,
        public readonly string $name,
        public readonly int $nodes,
        public readonly HardwareProfile $profile,
    ) {
    }

    public static function create(string $root, string $name, int $nodes, HardwareProfile $profile): self
    {
        if ($nodes < 1) {
            throw new WarehouseError('A cluster needs at least one node.');
        }
        if (
            (! is_dir("{$root}/schemas") && ! @mkdir("{$root}/schemas", 0700, true)) ||
            (! is_dir("{$root}/data") && ! @mkdir("{$root}/data", 0700, true))
        ) {
            throw new WarehouseError("The directory of the cluster {$name} cannot be made.");
        }
        file_put_contents(
            "{$root}/cluster.json",
            json_encode(['name' => $name, 'nodes' => $nodes, 'profile' => $profile->toArray()], JSON_THROW_ON_ERROR | JSON_PRETTY_PRINT),
        );

        return new self($root, $name, $nodes, $profile);
    }

    public static function open(string $root): self
    {
        $json = @file_get_contents("{$root}/cluster.json");
        if ($json === false) {
            throw new WarehouseError('The practice cluster has no files here; it is built by the demo data.');
        }
        $values = json_decode($json, true, 8, JSON_THROW_ON_ERROR);

        $warehouse = new self($root, $values['name'], $values['nodes'], HardwareProfile::fromArray($values['profile']));
        $warehouse->finishRenaming();

        return $warehouse;
    }

    /**
     * @return list<string>
     */
    public function schemas(): array
    {
        return array_map(rawurldecode(...), array_map(basename(...), Paths::matching("{$this->root}/schemas/*", GLOB_ONLYDIR)));
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
        $prepared = array_filter(
            [...$this->rollupBook()->rollups(), ...$this->rollupBook()->lookups()],
            static fn ($one): bool => $one->schema === $schema,
        );
        if ($this->tables($schema) !== [] || $this->views($schema) !== [] || $prepared !== []) {
            throw new WarehouseError("The schema {$schema} is not empty; drop its tables, views, rollups and lookups first.");
        }
        @rmdir($this->schemaPath($schema));
    }

    /**
     * @return list<string>
     */
    public function tables(string $schema): array
    {
        $names = [];
        foreach (Paths::matching($this->schemaPath($schema).'/*/current') as $path) {
            $names[] = rawurldecode(basename(dirname($path)));
        }

        return $names;
    }

    /**
     * @return list<string>
     */
    public function views(string $schema): array
    {
        return array_map(
            static fn (string $path): string => rawurldecode(basename($path, '.sql')),
            Paths::matching($this->schemaPath($schema).'/*.sql'),
        );
    }

    public function table(string $schema, string $name): ?TableStore
    {
        // A name is a link to the directory of the table, so renaming never moves files somebody is reading.
        $path = $this->tablePath($schema, $name);
        $directory = is_link($path) ? "{$this->root}/data/".basename((string) readlink($path)) : $path;
        $store = $this->tables["{$directory}|{$name}"] ??= new TableStore($directory, $schema, $name, $path);

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

        $token = bin2hex(random_bytes(6));
        $directory = "{$this->root}/data/{$token}";
        $store = TableStore::create($directory, $schema, $name, $definition, $nowUs, $this->tablePath($schema, $name));
        if (! @symlink("../../data/{$token}", $this->tablePath($schema, $name))) {
            $store->remove();
            throw new WarehouseError("The name {$schema}.{$name} cannot be written; the disk may be full.");
        }

        return $this->tables["{$directory}|{$name}"] = $store;
    }

    /**
     * Gives tables other names, all at once: what is to happen is written down first, and whoever opens the cluster
     * after a crash finishes it. A name that is taken over is swapped in one step, so readers always find it.
     *
     * @param  list<array{string, string, string}>  $renames schema, name, new name; in order, so names can be swapped
     */
    public function renameTables(array $renames): void
    {
        $this->finishRenaming();
        $after = [];
        foreach ($renames as [$schema, $name]) {
            $this->adopt($this->tablePath($schema, $name));
            $table = $this->table($schema, $name);
            // Whatever is said of the table by its name goes with it.
            $table?->descend($table->origins()->renamed($table));
        }
        foreach ($renames as [$schema, $name, $to]) {
            [$from, $target] = [$this->tablePath($schema, $name), $this->tablePath($schema, $to)];
            $content = array_key_exists($from, $after) ? $after[$from] : (is_link($from) ? (string) readlink($from) : null);
            if ($content === null) {
                throw new WarehouseError("There is no table {$schema}.{$name}.");
            }
            if (
                (array_key_exists($target, $after) ? $after[$target] : (is_link($target) ? '' : null)) !== null ||
                $this->view($schema, $to) !== null
            ) {
                throw new WarehouseError("There is already a table or view {$schema}.{$to}.");
            }
            $after[$from] = null;
            $after[$target] = $content;
        }
        $journal = "{$this->root}/".self::RENAMING;
        $relative = [];
        foreach ($after as $path => $content) {
            $relative[substr($path, strlen($this->root) + 1)] = $content;
        }
        $json = json_encode($relative, JSON_THROW_ON_ERROR);
        if (@file_put_contents("{$journal}.part", $json) !== strlen($json) || ! @rename("{$journal}.part", $journal)) {
            throw new WarehouseError('The names could not be written; the disk may be full. All tables have the names they had.');
        }
        $this->finishRenaming();
    }

    /** Tables of clusters made by earlier releases lie under their name; they get a directory and a link like others. */
    private function adopt(string $path): void
    {
        if (is_dir($path) && ! is_link($path)) {
            $token = bin2hex(random_bytes(6));
            is_dir("{$this->root}/data") || @mkdir("{$this->root}/data", 0700);
            rename($path, "{$this->root}/data/{$token}");
            symlink("../../data/{$token}", $path);
        }
    }

    private function finishRenaming(): void
    {
        $journal = "{$this->root}/".self::RENAMING;
        $json = @file_get_contents($journal);
        if ($json === false) {
            return;
        }
        $after = array_map(static fn (?string $content): ?string => $content, (array) json_decode($json, true, 4, JSON_THROW_ON_ERROR));
        // New names first: a table is never without one.
        foreach (array_filter($after, is_string(...)) as $path => $content) {
            @unlink("{$this->root}/{$path}.link");
            symlink((string) $content, "{$this->root}/{$path}.link");
            rename("{$this->root}/{$path}.link", "{$this->root}/{$path}");
        }
        foreach (array_keys(array_filter($after, static fn (?string $content): bool => $content === null)) as $path) {
            @unlink("{$this->root}/{$path}");
        }
        @unlink($journal);
        $this->tables = [];
    }

    /**
     * Statements whose filters on a table are said as spans of its columns before they run.
     *
     * @return array<string, array<string, string>> fingerprint => column => name of its type
     */
    public function rewritings(): array
    {
        $json = @file_get_contents("{$this->root}/rewritings.json");

        return $json === false ? [] : (array) json_decode($json, true, 8, JSON_THROW_ON_ERROR);
    }

    /**
     * @param  array<string, string>|null  $types null to rewrite it no more
     */
    public function rewrite(string $fingerprint, ?array $types): void
    {
        $lock = fopen("{$this->root}/rewritings.lock", 'c');
        if ($lock === false || ! flock($lock, LOCK_EX)) {
            throw new WarehouseError('The rewritings cannot be locked for writing.');
        }
        $all = $this->rewritings();
        if ($types === null) {
            unset($all[$fingerprint]);
        } else {
            $all[$fingerprint] = $types;
        }
        file_put_contents("{$this->root}/rewritings.json.part", json_encode($all, JSON_THROW_ON_ERROR));
        rename("{$this->root}/rewritings.json.part", "{$this->root}/rewritings.json");
        fclose($lock);
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

    /** Its rollups and lookups. */
    public function rollupBook(): RollupBook
    {
        return $this->rollupBook ??= new RollupBook($this->root);
    }

    /** Where files to be copied in lie. */
    public function inbox(): string
    {
        $path = "{$this->root}/inbox";
        is_dir($path) || @mkdir($path, 0700);

        return $path;
    }

    /** The key of this cluster's keyed hashes, made when it is first needed. */
    public function hashKey(): string
    {
        $path = "{$this->root}/hash.key";
        $key = @file_get_contents($path);
        if ($key === false || $key === '') {
            $file = @fopen($path, 'xb');
            if ($file !== false) {
                chmod($path, 0600);
                fwrite($file, bin2hex(random_bytes(32)));
                fclose($file);
            }
            $key = (string) file_get_contents($path);
        }

        return $key;
    }

    /**
     * @return iterable<TableStore> every table of every schema
     */
    public function every(): iterable
    {
        foreach ($this->schemas() as $schema) {
            foreach ($this->tables($schema) as $name) {
                $table = $this->table($schema, $name);
                if ($table !== null) {
                    yield $table;
                }
            }
        }
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
        foreach (Paths::matching("{$this->root}/inbox/*") as $path) {
            @unlink($path);
        }
        @rmdir("{$this->root}/inbox");
        $this->rollupBook()->destroy();
        @rmdir("{$this->root}/data");
        foreach (['rewritings.json', 'rewritings.lock', 'hash.key', self::RENAMING] as $file) {
            @unlink("{$this->root}/{$file}");
        }
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
