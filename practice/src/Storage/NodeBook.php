<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Storage;

use Fulcrion\Core\Health\NodeCondition;
use Fulcrion\Core\Health\NodeSet;
use Fulcrion\Core\Health\NodeShape;
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
        $json = @file_get_contents("{$warehouse->root}/".self::FILE);
        $kept = $json === false ? [] : json_decode($json, true, 8);
        if (! is_array($kept)) {
            throw new WarehouseError('What is kept of the nodes of this cluster cannot be read: nodes.json is no JSON.');
        }
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
     * @param  string  $prefix of their names, before a hyphen and their number
     * @param  list<NodeCondition>  $conditions
     */
    public static function write(Warehouse $warehouse, string $prefix, array $conditions): void
    {
        file_put_contents("{$warehouse->root}/".self::FILE, json_encode([
            'prefix' => $prefix,
            'conditions' => array_map(get_object_vars(...), $conditions),
        ], JSON_THROW_ON_ERROR | JSON_PRETTY_PRINT));
    }
}
