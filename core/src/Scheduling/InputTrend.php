<?php

declare(strict_types=1);

namespace Fulcrion\Core\Scheduling;

/**
 * How much a recurring job will have to read: a straight line through what it read, by least squares, with the scatter
 * around it.
 */
final readonly class InputTrend
{
    private function __construct(
        public float $nextBytes,
        /** Standard deviation of a single run around the line, with what the line itself may be off. */
        public float $deviation,
        /** Growth in a week, as a share. */
        public float $weekly,
        public int $runs,
    ) {
    }

    /**
     * @param  list<array{int, int}>  $runs moment in microseconds and bytes, of runs that were done
     */
    public static function of(array $runs, int $atUs): ?self
    {
        $count = count($runs);
        if ($count === 0) {
            return null;
        }
        $week = 7 * 86_400e6;
        $x = array_map(static fn (array $run): float => ($run[0] - $atUs) / $week, $runs);
        $y = array_map(static fn (array $run): float => (float) $run[1], $runs);
        [$meanX, $meanY] = [array_sum($x) / $count, array_sum($y) / $count];
        $xx = $xy = 0.0;
        foreach ($x as $i => $one) {
            $xx += ($one - $meanX) ** 2;
            $xy += ($one - $meanX) * ($y[$i] - $meanY);
        }
        // Two runs are no trend.
        $slope = $count >= 3 && $xx > 0 ? $xy / $xx : 0.0;
        $next = max(0.0, $meanY - $slope * $meanX);
        $rest = 0.0;
        foreach ($x as $i => $one) {
            $rest += ($y[$i] - $meanY - $slope * ($one - $meanX)) ** 2;
        }
        $deviation = $count >= 4 ? sqrt(($rest / ($count - 2)) * (1 + 1 / $count + ($xx > 0 ? $meanX ** 2 / $xx : 0))) : 0.0;

        return new self($next, $deviation, $next > 0 ? $slope / $next : 0.0, $count);
    }
}
