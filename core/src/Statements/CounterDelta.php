<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statements;

/**
 * Growth of monotone counters between two readings of a server that may restart, reset them or forget single rows.
 */
final class CounterDelta
{
    /**
     * @param  array<string, int>|null  $before null when this row was not there at the last reading
     * @param  array<string, int>  $now counters, one of them `count`
     * @param  bool  $firstReading whether nothing at all was read before: then history before the reading cannot be dated
     * @param  bool  $bornSince whether the row says of itself that it began after the last reading
     * @return array<string, int>|null what was added since, null when nothing was
     */
    public static function of(?array $before, array $now, bool $firstReading, bool $bornSince): ?array
    {
        if ($before === null || $bornSince) {
            $delta = $firstReading ? null : $now;
        } elseif (self::wasReset($before, $now)) {
            $delta = $now;
        } else {
            $delta = [];
            foreach ($now as $name => $value) {
                $delta[$name] = $value - ($before[$name] ?? 0);
            }
        }

        return $delta === null || $delta['count'] <= 0 ? null : $delta;
    }

    /**
     * @param  array<string, int>  $before
     * @param  array<string, int>  $now
     */
    private static function wasReset(array $before, array $now): bool
    {
        foreach ($now as $name => $value) {
            if ($value < ($before[$name] ?? 0)) {
                return true;
            }
        }

        return false;
    }
}
