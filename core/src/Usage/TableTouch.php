<?php

declare(strict_types=1);

namespace Fulcrion\Core\Usage;

/**
 * That a statement used a table, and when last.
 */
final readonly class TableTouch
{
    /**
     * @param  string  $table schema.table
     * @param  string  $statement fingerprint
     * @param  int  $lastAt start of the last day it ran, in Unix seconds
     */
    public function __construct(
        public string $table,
        public string $statement,
        public bool $reads,
        public bool $writes,
        public int $lastAt,
    ) {
    }
}
