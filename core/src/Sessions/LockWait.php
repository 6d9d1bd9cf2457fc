<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sessions;

/**
 * That one session waits for a lock another one holds, or asked for before.
 */
final readonly class LockWait
{
    public function __construct(
        /** Number of the session at its server. */
        public int $waiting,
        public int $blocking,
        /** schema.table; empty where it is not known. */
        public string $table,
        /** What is locked of it: rows by an index, or its definition. */
        public string $what,
        public int $waitedUs,
    ) {
    }
}
