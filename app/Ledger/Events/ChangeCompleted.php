<?php

declare(strict_types=1);

namespace App\Ledger\Events;

use App\Ledger\Models\Change;

/**
 * A change was applied or undone: what was found of its object may not be true any more.
 */
final readonly class ChangeCompleted
{
    public function __construct(public Change $change)
    {
    }
}
