<?php

declare(strict_types=1);

namespace Fulcrion\Core\Storage;

use Fulcrion\Core\Catalog\ZoneMap;

/**
 * One immutable file of a table.
 */
final readonly class Chunk
{
    /** Node of a chunk that lies on every node. */
    public const EVERY_NODE = -1;

    /**
     * @param  list<ZoneMap>  $zones one a column of the table, in its order
     */
    public function __construct(
        public string $file,
        public int $node,
        public string $partition,
        public int $rows,
        public int $bytes,
        public array $zones,
    ) {
    }
}
