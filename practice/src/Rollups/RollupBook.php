<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Rollups;

use Fulcrion\Practice\Storage\Paths;
use Fulcrion\Practice\Storage\TableStore;
use Fulcrion\Practice\WarehouseError;

/**
 * The rollups and lookups of a cluster, on disk. A record is replaced by rename, so a reader sees a whole one.
 */
final class RollupBook
{
    /** @var array<string, array{string, Rollup|Lookup}> path => stamp, record */
    private array $read = [];

    /** @var array<string, TableStore> by token */
    private array $stores = [];

    /** @var array<string, array{string, array<string, list<int|float|string|bool|null>>}> path => stamp, columns */
    private array $maps = [];

    public function __construct(private readonly string $root)
    {
    }

    /**
     * @return list<Rollup>
     */
    public function rollups(): array
    {
        return array_values(array_filter($this->all('rollup'), static fn (Rollup|Lookup $one): bool => $one instanceof Rollup));
    }

    /**
     * @return list<Lookup>
     */
    public function lookups(): array
    {
        return array_values(array_filter($this->all('lookup'), static fn (Rollup|Lookup $one): bool => $one instanceof Lookup));
    }

    public function rollup(string $schema, string $name): ?Rollup
    {
        $one = $this->open($this->path('rollup', $schema, $name));

        return $one instanceof Rollup ? $one : null;
    }

    public function lookup(string $schema, string $name): ?Lookup
    {
        $one = $this->open($this->path('lookup', $schema, $name));

        return $one instanceof Lookup ? $one : null;
    }

    public function rows(Rollup $rollup): TableStore
    {
        return $this->stores[$rollup->token] ??= new TableStore("{$this->root}/data/{$rollup->token}", $rollup->schema, $rollup->name);
    }

    public function keep(Rollup|Lookup $one): void
    {
        is_dir("{$this->root}/prepared") || @mkdir("{$this->root}/prepared", 0700);
        self::write(
            $this->path($one instanceof Rollup ? 'rollup' : 'lookup', $one->schema, $one->name),
            json_encode($one instanceof Rollup ? $one->toArray() : get_object_vars($one), JSON_THROW_ON_ERROR),
        );
    }

    public function forget(Rollup|Lookup $one): void
    {
        $path = $this->path($one instanceof Rollup ? 'rollup' : 'lookup', $one->schema, $one->name);
        @unlink($path);
        @unlink("{$path}.used");
        if ($one instanceof Rollup) {
            $this->rows($one)->remove();
        } else {
            @unlink("{$path}.map");
        }
    }

    /**
     * @param  array<string, list<int|float|string|bool|null>>  $columns by name, one value a row
     */
    public function keepMap(Lookup $lookup, array $columns): void
    {
        is_dir("{$this->root}/prepared") || @mkdir("{$this->root}/prepared", 0700);
        self::write(
            $this->path('lookup', $lookup->schema, $lookup->name).'.map',
            json_encode(
                ['version' => $lookup->version, 'token' => $lookup->tableToken, 'columns' => $columns],
                JSON_THROW_ON_ERROR | JSON_PRESERVE_ZERO_FRACTION | JSON_INVALID_UTF8_SUBSTITUTE,
            ),
        );
    }

    /**
     * @return array<string, list<int|float|string|bool|null>>|null null when the map on disk is of another version
     */
    public function map(Lookup $lookup): ?array
    {
        $path = $this->path('lookup', $lookup->schema, $lookup->name).'.map';
        $stamp = "{$lookup->tableToken}.{$lookup->version}";
        if (($this->maps[$path][0] ?? '') !== $stamp) {
            $values = json_decode((string) @file_get_contents($path), true, 8);
            if (! is_array($values) || "{$values['token']}.{$values['version']}" !== $stamp) {
                return null;
            }
            $this->maps[$path] = [$stamp, $values['columns']];
        }

        return $this->maps[$path][1];
    }

    /** Notes that a statement was answered with it. */
    public function used(Rollup|Lookup $one, int $nowUs, float $savedUs, float $savedBytes): void
    {
        $this->count($one, $nowUs, ['uses' => 1, 'savedUs' => $savedUs, 'savedBytes' => $savedBytes, 'keptUs' => 0.0]);
    }

    /** Notes what bringing it up to its tables took. */
    public function kept(Rollup|Lookup $one, int $nowUs, float $keptUs): void
    {
        $this->count($one, $nowUs, ['uses' => 0, 'savedUs' => 0.0, 'savedBytes' => 0.0, 'keptUs' => $keptUs]);
    }

    /**
     * @param  array{uses: int, savedUs: float, savedBytes: float, keptUs: float}  $more
     */
    private function count(Rollup|Lookup $one, int $nowUs, array $more): void
    {
        $path = $this->path($one instanceof Rollup ? 'rollup' : 'lookup', $one->schema, $one->name).'.used';
        $file = @fopen($path, 'c+');
        if ($file === false || ! flock($file, LOCK_EX)) {
            return;
        }
        $days = (array) json_decode((string) stream_get_contents($file), true);
        $day = gmdate('Y-m-d', intdiv($nowUs, 1_000_000));
        foreach ($more as $name => $value) {
            $days[$day][$name] = ($days[$day][$name] ?? 0) + $value;
        }
        ksort($days);
        rewind($file);
        ftruncate($file, 0);
        fwrite($file, json_encode(array_slice($days, -90), JSON_THROW_ON_ERROR));
        fclose($file);
    }

    /**
     * @return array<string, array{uses: int, savedUs: float, savedBytes: float, keptUs: float}> by day, oldest first
     */
    public function uses(Rollup|Lookup $one): array
    {
        return json_decode(
            (string) @file_get_contents($this->path($one instanceof Rollup ? 'rollup' : 'lookup', $one->schema, $one->name).'.used'),
            true,
        ) ?? [];
    }

    public function destroy(): void
    {
        foreach ([...$this->rollups(), ...$this->lookups()] as $one) {
            $this->forget($one);
        }
        @rmdir("{$this->root}/prepared");
    }

    /**
     * @return list<Rollup|Lookup>
     */
    private function all(string $kind): array
    {
        return array_values(array_filter(array_map($this->open(...), Paths::matching("{$this->root}/prepared/{$kind}-*.json"))));
    }

    private function open(string $path): Rollup|Lookup|null
    {
        clearstatcache(true, $path);
        $stamp = is_file($path) ? filemtime($path).'.'.filesize($path).'.'.fileinode($path) : '';
        if ($stamp === '') {
            return null;
        }
        if (($this->read[$path][0] ?? '') !== $stamp) {
            /** @var array<string, mixed> $values */
            $values = json_decode((string) file_get_contents($path), true, 16, JSON_THROW_ON_ERROR);
            $this->read[$path] = [$stamp, isset($values['fact']) ? Rollup::fromArray($values) : new Lookup(...$values)];
        }

        return $this->read[$path][1];
    }

    private function path(string $kind, string $schema, string $name): string
    {
        return "{$this->root}/prepared/{$kind}-".
            str_replace('.', '%2E', rawurlencode($schema)).
            '.'.
            str_replace('.', '%2E', rawurlencode($name)).
            '.json';
    }

    private static function write(string $path, string $bytes): void
    {
        $partial = $path.'.'.bin2hex(random_bytes(4)).'.part';
        if (@file_put_contents($partial, $bytes) !== strlen($bytes) || ! rename($partial, $path)) {
            @unlink($partial);
            throw new WarehouseError('What is known of a rollup or lookup cannot be written; the disk may be full.');
        }
    }
}
