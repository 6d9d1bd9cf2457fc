<?php

declare(strict_types=1);

namespace Fulcrion\Core\Telemetry;

/**
 * Optional facts of an execution as bits, so that "nothing was read" and "nobody counted" stay apart.
 */
final class Fact
{
    public const LOCK = 1;

    public const CPU = 2;

    public const QUEUED = 4;

    public const ROWS_RETURNED = 8;

    public const ROWS_EXAMINED = 16;

    public const ROWS_AFFECTED = 32;

    public const BYTES_SCANNED = 64;

    public const BYTES_SPILLED = 128;

    public const TMP_MEMORY = 256;

    public const TMP_DISK = 512;

    public const SORT_PASSES = 1024;

    public const FULL_SCAN = 2048;

    public const INDEX = 4096;

    public const WARNINGS = 8192;

    /** Single durations are known, so quantiles can be told. */
    public const DURATIONS = 16384;
}
