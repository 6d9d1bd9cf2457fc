<?php

declare(strict_types=1);

namespace Fulcrion\Core\Sessions;

/**
 * One of the transactions of a deadlock.
 */
final readonly class DeadlockSide
{
    public function __construct(
        /** Number of the session at its server. */
        public int $session,
        public string $user,
        /** With its values; empty where the report does not tell. */
        public string $sql,
        /** schema.table it waited for; empty where the report does not tell. */
        public string $table,
        public string $index,
        /** As the server names it, such as X or S. */
        public string $mode,
        public int $rowLocks,
        /** Whether it was the one that was rolled back. */
        public bool $victim,
    ) {
    }
}
