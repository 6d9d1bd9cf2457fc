<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statements;

/**
 * What grew between two readings of a server, spread over the half minutes between them.
 */
final class FineLoad
{
    public const SECONDS = 30;

    /** What lies so far apart was not read in between: nobody knows when in that time it was. */
    public const LONGEST_SECONDS = 120;

    public const SUMS = ['executions', 'duration_us', 'load_us', 'lock_us', 'queued_us', 'cpu_us'];

    /**
     * @param  array<string, int>  $sums what grew
     * @param  int  $from the reading before, in Unix seconds
     * @param  int  $to this reading
     * @return array<int, array<string, int>> start of a half minute => its part; all parts together are what grew, and there are none where
     *     the readings lie too far apart
     */
    public static function spread(array $sums, int $from, int $to): array
    {
        $seconds = $to - $from;
        if ($seconds > self::LONGEST_SECONDS || $seconds < 0) {
            return [];
        }
        if ($seconds === 0) {
            return [$to - $to % self::SECONDS => $sums];
        }
        $parts = [];
        // Differences of rounded running totals keep each sum exact.
        $before = array_fill_keys(array_keys($sums), 0);
        for ($at = $from - $from % self::SECONDS; $at < $to; $at += self::SECONDS) {
            $until = min($to, $at + self::SECONDS);
            foreach ($sums as $name => $sum) {
                $now = $until === $to ? $sum : (int) ($sum * ($until - $from) / $seconds);
                $parts[$at][$name] = $now - $before[$name];
                $before[$name] = $now;
            }
        }

        return $parts;
    }
}
