<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

/**
 * A session of a live server.
 */
final readonly class ServerSession
{
    /**
     * @param  int  $id number of the session at its server
     */
    public function __construct(
        public int $id,
        public string $user,
        public string $clientHost,
        public string $database,
        public string $state,
        /** Whether it runs nothing at this moment. */
        public bool $idle,
        /** How long it has been at its statement, or idle. */
        public int $sinceUs,
        /** What it runs or, where it is idle, ran last; with its values. Empty where that is not known. */
        public string $sql,
        /** How long its transaction is open; null where it has none. */
        public ?int $transactionUs,
        public int $rowsLocked,
        public int $rowsChanged,
    ) {
    }
}
