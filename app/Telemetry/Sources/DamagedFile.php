<?php

declare(strict_types=1);

namespace App\Telemetry\Sources;

use App\Platform\Runs\Foreseen;
use RuntimeException;

/**
 * A file that cannot be read to its end. What came before the damage was right.
 */
final class DamagedFile extends RuntimeException implements Foreseen
{
    public function isStop(): bool
    {
        return false;
    }
}
