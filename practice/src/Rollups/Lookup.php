<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Rollups;

/**
 * A dimension with a unique key, kept in the memory of every node as key => values.
 */
final readonly class Lookup
{
    /**
     * @param  list<string>  $columns the key among them
     */
    public function __construct(
        public string $schema,
        public string $name,
        public string $sql,
        public string $key,
        public array $columns,
        /** schema.table */
        public string $table,
        public string $tableToken,
        /** Version of the table the map was made of. */
        public int $version,
        public int $rows,
        /** Bytes of keys and values in the memory of one node, of stored rows. */
        public int $bytes,
        public int $createdUs,
        public int $refreshedUs,
    ) {
    }

    public function path(): string
    {
        return "{$this->schema}.{$this->name}";
    }
}
