<?php

declare(strict_types=1);

namespace App\Ledger\Changes;

use App\Platform\Runs\Foreseen;
use RuntimeException;

/**
 * An act a change does not allow now, in words for people.
 */
final class Refused extends RuntimeException implements Foreseen
{
    public function isStop(): bool
    {
        return false;
    }
}
