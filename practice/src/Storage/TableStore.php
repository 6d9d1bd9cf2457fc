<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Storage;

use Fulcrion\Core\Catalog\Column;
use Fulcrion\Core\Catalog\ColumnStatistics;
use Fulcrion\Core\Catalog\ZoneMap;
use Fulcrion\Core\Parquet\ParquetReader;
use Fulcrion\Core\Parquet\StringSource;
use Fulcrion\Core\Storage\Chunk;
use Fulcrion\Core\Storage\TableDefinition;
use Fulcrion\Practice\Lineage\TableOrigins;
use Fulcrion\Practice\WarehouseError;

/**
 * One table on disk: chunk files, one manifest a version, and a pointer to the current one. The pointer is swapped by
 * rename, so a reader sees a whole version and a killed writer leaves the old one.
 */
final class TableStore
{
    private ?Manifest $manifest = null;

    private string $seen = '';

    private ?TableStatistics $statistics = null;

    private string $statisticsSeen = '';

    public function __construct(
        public readonly string $directory,
        public readonly string $schema,
        public readonly string $name,
        private readonly string $link = '',
    ) {
    }

    public static function create(
        string $directory,
        string $schema,
        string $name,
        TableDefinition $definition,
        int $nowUs,
        string $link = '',
    ): self {
        if (! is_dir($directory) && ! @mkdir($directory, 0700, true)) {
            throw new WarehouseError("The directory of the table {$schema}.{$name} cannot be made.");
        }
        $store = new self($directory, $schema, $name, $link);
        $store->publish(new Manifest(1, $nowUs, $definition, [], 0));

        return $store;
    }

    public function exists(): bool
    {
        return is_file("{$this->directory}/current");
    }

    /** Number of the version that is read when nobody asks for another; 0 when the table is gone. */
    public function current(): int
    {
        return (int) @file_get_contents("{$this->directory}/current");
    }

    public function manifest(): Manifest
    {
        $current = @file_get_contents("{$this->directory}/current");
        if ($current === false) {
            throw new WarehouseError("There is no table {$this->schema}.{$this->name}.");
        }
        if ($this->manifest === null || $current !== $this->seen) {
            $this->manifest = $this->version((int) $current);
            $this->seen = $current;
        }

        return $this->manifest;
    }

    /** What catalogs tell of the current version, kept beside it so that they need not read all chunks for it. */
    public function facts(int $nodes): StoredFacts
    {
        $current = $this->current();
        $path = "{$this->directory}/facts-{$nodes}.json";
        $json = @file_get_contents($path);
        $facts = $json === false ? null : StoredFacts::fromJson($json);
        if ($facts === null || $facts->version !== $current) {
            $facts = StoredFacts::of($this->manifest(), $nodes);
            $part = "{$path}.".bin2hex(random_bytes(4));
            // Who may only read goes without.
            if (@file_put_contents($part, $facts->toJson()) !== false) {
                rename($part, $path);
            }
        }

        return $facts;
    }

    /** What is another one as soon as anything of the table is. */
    public function stamp(): string
    {
        return basename($this->directory).' '.@file_get_contents("{$this->directory}/current");
    }

    public function version(int $version): Manifest
    {
        $json = @file_get_contents($this->path($version));
        if ($json === false) {
            throw new WarehouseError("Version {$version} of {$this->schema}.{$this->name} is not kept any more.");
        }

        return Manifest::fromJson($json);
    }

    /**
     * @return list<int> versions that can still be read, oldest first
     */
    public function versions(): array
    {
        $paths = Paths::matching("{$this->directory}/v*.json");
        $versions = array_map(static fn (string $path): int => (int) substr(basename($path), 1), $paths);
        sort($versions);
        $current = $this->current();

        // A killed writer may have left a manifest nobody points to.
        return array_values(array_filter($versions, static fn (int $version): bool => $version <= $current));
    }

    /**
     * Runs a change while no other writer may; the change gets the current manifest.
     *
     * @template T
     *
     * @param  callable(Manifest): T  $change
     * @return T
     */
    public function exclusively(callable $change): mixed
    {
        $lock = fopen("{$this->directory}/lock", 'c');
        if ($lock === false || ! flock($lock, LOCK_EX)) {
            throw new WarehouseError("The table {$this->schema}.{$this->name} cannot be locked for writing.");
        }
        try {
            // Whoever waited here may have waited for the name to go to another table.
            if (is_link($this->link) && basename((string) readlink($this->link)) !== basename($this->directory)) {
                throw new TableMoved("The table {$this->schema}.{$this->name} was replaced while this waited to write.");
            }

            return $change($this->manifest());
        } finally {
            fclose($lock);
        }
    }

    public function publish(Manifest $manifest): void
    {
        $this->replace($this->path($manifest->version), $manifest->toJson());
        $this->replace("{$this->directory}/current", (string) $manifest->version);
        $this->manifest = $manifest;
        $this->seen = (string) $manifest->version;
    }

    /**
     * @param  list<list<int|float|string|bool|null>>  $values one list a column
     */
    public function writeChunk(TableDefinition $definition, int $version, int $number, int $node, string $partition, array $values): Chunk
    {
        $bytes = $definition->packing->writer()->write($definition->columns, $values);
        $file = "c{$version}-{$number}.parquet";
        $this->replace("{$this->directory}/{$file}", $bytes);
        $reader = ParquetReader::open(new StringSource($bytes));
        $rows = count($values[0]);
        $zones = [];
        foreach ($definition->columns as $column) {
            $statistics = $reader->statistics(0, $column->name);
            $zones[] = new ZoneMap(
                $statistics->min,
                $statistics->max,
                $statistics->nullCount ?? 0,
                $rows,
                $reader->bytes(0, $column->name),
            );
        }

        return new Chunk($file, $node, $partition, $rows, strlen($bytes), $zones);
    }

    public function file(Chunk $chunk): string
    {
        return "{$this->directory}/{$chunk->file}";
    }

    /** Whether somebody asked that old versions of it stay until somebody expires them. */
    public function keepsVersions(): bool
    {
        return file_exists("{$this->directory}/keeps-versions");
    }

    public function keepVersions(): void
    {
        touch("{$this->directory}/keeps-versions");
    }

    /**
     * Forgets versions written before a moment, all but the current one and the latest ones to keep, and the files only
     * they need.
     *
     * @param  int  $keep versions to keep in any case, the current one among them
     */
    public function expire(int $beforeUs, int $keep = 1): int
    {
        return $this->exclusively(function (Manifest $current) use ($beforeUs, $keep): int {
            $needed = $gone = [];
            $versions = $this->versions();
            foreach ($versions as $i => $version) {
                $manifest = $version === $current->version ? $current : $this->version($version);
                $stays = $version === $current->version || $manifest->writtenUs > $beforeUs || count($versions) - $i <= $keep;
                if (! $stays) {
                    unlink($this->path($version));
                }
                foreach ($manifest->chunks as $chunk) {
                    if ($stays) {
                        $needed[$chunk->file] = true;
                    } else {
                        $gone[$chunk->file] = true;
                    }
                }
            }
            foreach (array_keys(array_diff_key($gone, $needed)) as $file) {
                @unlink("{$this->directory}/{$file}");
            }

            return count(array_diff_key($gone, $needed));
        });
    }

    /**
     * The files a version consists of, read from its manifest without making chunks of it: there may be hundreds of
     * versions of thousands of chunks.
     *
     * @param  int  $nodes a file that lies on every node takes its bytes so many times
     * @return array{writtenUs: int, files: array<string, int>} name => bytes
     */
    public function outline(int $version, int $nodes = 1): array
    {
        $json = (string) @file_get_contents($this->path($version));
        preg_match('~"writtenUs":(\d+)~', $json, $written);
        preg_match_all('~\["(c\d+-\d+\.parquet)",(-?\d+),"(?:[^"\\\\]|\\\\.)*",\d+,(\d+),~', $json, $files);
        $bytes = array_map(
            static fn (string $node, string $size): int => (int) $size * ((int) $node === Chunk::EVERY_NODE ? $nodes : 1),
            $files[2],
            $files[3],
        );

        return ['writtenUs' => (int) ($written[1] ?? 0), 'files' => array_combine($files[1], $bytes)];
    }

    /**
     * Files no version needs, left by writers that died. Young ones may belong to one at work.
     *
     * @return array<string, int> path => bytes
     */
    public function orphans(int $beforeS): array
    {
        $needed = [];
        foreach ($this->versions() as $version) {
            $needed += $this->outline($version)['files'];
        }
        $orphans = [];
        foreach (Paths::matching("{$this->directory}/*.{parquet,part}", GLOB_BRACE) as $path) {
            if (! isset($needed[basename($path)]) && (int) @filemtime($path) < $beforeS) {
                $orphans[$path] = (int) @filesize($path);
            }
        }

        return $orphans;
    }

    /**
     * A digest of the rows, whatever their order, chunks and nodes: the sum of the rows' hashes and their number.
     */
    public function checksum(): string
    {
        [$low, $high, $rows] = [0, 0, 0];
        foreach ($this->manifest()->chunks as $chunk) {
            $reader = ParquetReader::open(new FileSource($this->file($chunk)));
            $columns = array_map(
                static fn (Column $column): array => $reader->readAll($column->name),
                $this->manifest()->definition->columns,
            );
            for ($i = 0; $i < $chunk->rows; $i++) {
                $row = '';
                foreach ($columns as $values) {
                    $value = $values[$i];
                    $row .=
                        $value === null
                            ? "\0n"
                            : (is_float($value)
                                    ? 'f'.pack('E', $value)
                                    : gettype($value)[0].(is_bool($value) ? (int) $value : $value))."\0";
                }
                /** @var array{a: int, b: int} $parts */
                $parts = unpack('Na/Nb', hash('xxh3', $row, true));
                $low = ($low + $parts['a']) & 0xFFFFFFFF;
                $high = ($high + $parts['b']) & 0xFFFFFFFF;
                $rows++;
            }
        }

        return sprintf('%08x%08x-%d', $low, $high, $rows);
    }

    /** Tables whose rows flowed into this one. */
    public function origins(): TableOrigins
    {
        $json = @file_get_contents("{$this->directory}/origins.json");

        return $json === false ? TableOrigins::none() : TableOrigins::read((array) json_decode($json, true, 8, JSON_THROW_ON_ERROR));
    }

    /** Notes where rows that are to be added come from, before they are written: none is ever there without it. */
    public function descend(TableOrigins $from): void
    {
        $this->keepOrigins($this->origins()->and($from));
    }

    public function keepOrigins(TableOrigins $origins): void
    {
        if (! $origins->same($this->origins())) {
            $this->replace(
                "{$this->directory}/origins.json",
                json_encode($origins->list(), JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE),
            );
        }
    }

    public function statistics(): ?TableStatistics
    {
        $path = "{$this->directory}/statistics.json";
        clearstatcache(true, $path);
        $stamp = is_file($path) ? filemtime($path).'.'.filesize($path) : '';
        if ($stamp === '') {
            return null;
        }
        if ($stamp !== $this->statisticsSeen) {
            $values = json_decode((string) file_get_contents($path), true, 16, JSON_THROW_ON_ERROR);
            $this->statistics = new TableStatistics(
                $values['collectedUs'],
                $values['rows'],
                $values['rowsChanged'],
                array_map(ColumnStatistics::fromArray(...), $values['columns']),
            );
            $this->statisticsSeen = $stamp;
        }

        return $this->statistics;
    }

    public function keep(TableStatistics $statistics): void
    {
        $this->replace(
            "{$this->directory}/statistics.json",
            json_encode(
                [
                    'collectedUs' => $statistics->collectedUs,
                    'rows' => $statistics->rows,
                    'rowsChanged' => $statistics->rowsChanged,
                    'columns' => array_map(static fn (ColumnStatistics $column): array => $column->toArray(), $statistics->columns),
                ],
                JSON_THROW_ON_ERROR | JSON_PRESERVE_ZERO_FRACTION | JSON_INVALID_UTF8_SUBSTITUTE,
            ),
        );
        $this->statisticsSeen = '';
    }

    public function remove(): void
    {
        // The pointer goes first: without it the table is gone, whatever else is left.
        @unlink("{$this->directory}/current");
        foreach (Paths::matching("{$this->directory}/*") as $path) {
            @unlink($path);
        }
        @rmdir($this->directory);
        if (is_link($this->link) && ! file_exists($this->link)) {
            @unlink($this->link);
        }
    }

    private function path(int $version): string
    {
        return sprintf('%s/v%08d.json', $this->directory, $version);
    }

    private function replace(string $path, string $bytes): void
    {
        $partial = "{$path}.part";
        if (@file_put_contents($partial, $bytes) !== strlen($bytes) || ! rename($partial, $path)) {
            @unlink($partial);
            throw new WarehouseError("Writing to {$this->schema}.{$this->name} failed; the disk may be full. The table is as it was.");
        }
    }
}
