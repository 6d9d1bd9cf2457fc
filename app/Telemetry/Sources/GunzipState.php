<?php

declare(strict_types=1);

namespace App\Telemetry\Sources;

/**
 * What became of a gzip file while it was read.
 */
final class GunzipState
{
    /** Why it ended before its end; null where it did not. */
    public ?string $trouble = null;
}
