<?php

declare(strict_types=1);

namespace App\Metrics\Store;

/**
 * What a series is summed up by.
 */
enum Span: int
{
    case Minute = 60;
    case Hour = 3_600;
    case Day = 86_400;

    /** The longest that is no longer than a step in seconds; null where points are meant. */
    public static function within(int $step): ?self
    {
        return match (true) {
            $step >= self::Day->value => self::Day,
            $step >= self::Hour->value => self::Hour,
            $step >= self::Minute->value => self::Minute,
            default => null,
        };
    }
}
