<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use Fulcrion\Core\Sessions\Deadlock;

/**
 * A server whose sessions can be looked at, and stopped by an account that may only that.
 */
interface SessionSource
{
    /** Who waits for whom at this moment. */
    public function waiting(): LockReading;

    /** The last deadlock the server knows of. */
    public function deadlock(): ?Deadlock;

    /** Whether there is an account that may stop sessions. */
    public function canStop(): bool;

    /**
     * Ends the statement a session runs, and nothing else of it.
     *
     * @throws SourceError where it cannot be done
     */
    public function cancel(int $session): void;

    /**
     * Ends a session; its transaction is rolled back.
     *
     * @throws SourceError where it cannot be done
     */
    public function end(int $session): void;
}
