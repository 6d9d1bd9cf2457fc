<?php

declare(strict_types=1);

namespace Fulcrion\Practice\Physical;

use Fulcrion\Practice\WarehouseError;

/**
 * A run that was stopped by a limit or by hand.
 */
final class StoppedRun extends WarehouseError
{
    public function __construct(string $message, public readonly bool $byHand)
    {
        parent::__construct($message);
    }
}
