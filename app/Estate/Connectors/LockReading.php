<?php

declare(strict_types=1);

namespace App\Estate\Connectors;

use Fulcrion\Core\Sessions\LockWait;

/**
 * Sessions that wait for locks, and those they wait for.
 */
final readonly class LockReading
{
    /**
     * @param  array<int, ServerSession>  $sessions by their number
     * @param  list<LockWait>  $waits
     * @param  list<Missing>  $gaps what the server does not tell
     */
    public function __construct(public array $sessions, public array $waits, public array $gaps)
    {
    }
}
