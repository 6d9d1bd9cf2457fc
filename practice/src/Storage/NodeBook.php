<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Storage;

use Fulcrion\Core\Health\NodeCondition;
use Fulcrion\Core\Health\NodeSet;
use Fulcrion\Core\Health\NodeShape;
use Fulcrion\Core\Settings\NodeSettings;
use Fulcrion\Practice\WarehouseError;

/**
 * How the nodes of a practice cluster are called and what is wrong with some, kept beside its tables.
 */
final readonly class NodeBook
{
    private const FILE = 'nodes.json';

    /**
     * @throws WarehouseError where what is kept cannot be read
     */
    public static function read(Warehouse $warehouse): NodeSet
    {
        $kept = self::kept($warehouse);
        $prefix = is_string($kept['prefix'] ?? null) ? $kept['prefix'] : mb_strtolower($warehouse->name);
        $names = array_map(static fn (int $node): string => sprintf('%s-%02d', $prefix, $node), range(1, max(1, $warehouse->nodes)));
        $profile = $warehouse->profile;

        return new NodeSet(
            new NodeShape($profile->cores, $profile->diskBytesPerSecond, $profile->networkBytesPerSecond, $profile->memoryBytes),
            $names,
            array_map(static fn (array $one): NodeCondition => new NodeCondition(...$one), array_values($kept['conditions'] ?? [])),
        );
    }

    /**
     * @return array<string, array<string, string>> settings by host, by name
     *
     * @throws WarehouseError where what is kept cannot be read
     */
    public static function settings(Warehouse $warehouse): array
    {
        return NodeSettings::of(self::read($warehouse)->names, self::kept($warehouse)['settings'] ?? []);
    }

    /**
     * Sets a setting of one node.
     *
     * @throws WarehouseError where there is no such node or setting
     */
    public static function set(Warehouse $warehouse, string $host, string $name, string $value): void
    {
        if (! in_array($host, self::read($warehouse)->names, true) || ! NodeSettings::has($name)) {
            throw new WarehouseError("There is no setting {$name} of a node {$host} here.");
        }
        $kept = self::kept($warehouse);
        $kept['settings'][$host][$name] = $value;
        self::keep($warehouse, $kept);
    }

    /**
     * @param  string  $prefix of their names, before a hyphen and their number
     * @param  list<NodeCondition>  $conditions
     * @param  array<string, array<string, string>>  $settings those that are not as everywhere, by host
     */
    public static function write(Warehouse $warehouse, string $prefix, array $conditions, array $settings = []): void
    {
        self::keep($warehouse, [
            'prefix' => $prefix,
            'conditions' => array_map(get_object_vars(...), $conditions),
            'settings' => $settings,
        ]);
    }

    /**
     * How much the cluster can store in all.
     *
     * @return int|null bytes on the modelled scale; null where nobody said
     *
     * @throws WarehouseError where what is kept cannot be read
     */
    public static function storageBytes(Warehouse $warehouse): ?int
    {
        $bytes = self::kept($warehouse)['storage_bytes'] ?? null;

        return is_int($bytes) && $bytes > 0 ? $bytes : null;
    }

    /** @throws WarehouseError where what is kept cannot be read */
    public static function setStorageBytes(Warehouse $warehouse, int $bytes): void
    {
        self::keep($warehouse, ['storage_bytes' => $bytes] + self::kept($warehouse));
    }

    /**
     * @return array<string, mixed>
     */
    private static function kept(Warehouse $warehouse): array
    {
        $json = @file_get_contents("{$warehouse->root}/".self::FILE);
        $kept = $json === false ? [] : json_decode($json, true, 8);

        return is_array($kept) ? $kept
            : throw new WarehouseError('What is kept of the nodes of this cluster cannot be read: nodes.json is no JSON.');
    }

    /**
     * @param  array<string, mixed>  $kept
     */
    private static function keep(Warehouse $warehouse, array $kept): void
    {
        // Read while it is written it is the old one or the new one.
        $file = "{$warehouse->root}/".self::FILE;
        $part = $file.'.'.getmypid();
        file_put_contents($part, json_encode($kept, JSON_THROW_ON_ERROR | JSON_PRETTY_PRINT));
        rename($part, $file);
    }
}
