<?php

declare(strict_types=1);

namespace App\Ledger\Changes;

use App\Ledger\Models\Change;

/**
 * Knows beforehand what rehearsing a change takes, and keeps it with the change: when it is proposed, and when somebody chose
 * otherwise.
 */
interface EstimatesRehearsal
{
    public function estimate(Change $change): void;
}
