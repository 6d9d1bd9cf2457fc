<?php

declare(strict_types=1);

namespace App\Platform\Support;

use Illuminate\Support\Carbon;

/**
 * The application's one clock. FULCRION_NOW freezes it.
 */
final class Clock
{
    public static function now(): Carbon
    {
        return Carbon::now();
    }

    public static function seconds(): int
    {
        return Carbon::now()->getTimestamp();
    }

    public static function microseconds(): int
    {
        return (int) Carbon::now()->getPreciseTimestamp(6);
    }
}
