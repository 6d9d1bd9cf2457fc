<?php

declare(strict_types=1);

namespace App\Telemetry\Sources;

use RuntimeException;

/**
 * A file that cannot be read to its end. What came before the damage was right.
 */
final class DamagedFile extends RuntimeException
{
}
