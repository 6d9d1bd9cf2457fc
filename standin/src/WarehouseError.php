<?php

declare(strict_types=1);

namespace Fulcrion\StandIn;

use RuntimeException;

/**
 * A statement the warehouse cannot run: what is wrong, and where in its text when that is known.
 */
class WarehouseError extends RuntimeException
{
    public function __construct(string $message, public readonly ?int $offset = null)
    {
        parent::__construct($message);
    }
}
