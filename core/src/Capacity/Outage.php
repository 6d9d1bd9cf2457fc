<?php

declare(strict_types=1);

namespace Fulcrion\Core\Capacity;

/**
 * A time in which nothing that was tried on a cluster succeeded.
 */
final readonly class Outage
{
    /** Failed statements that are more than chance, where no probe failed. */
    private const LEAST_FAILED = 8;

    /** Part of the statements of an interval that failed, from which on it is looked at. */
    private const SHARE = 0.25;

    /** The same of the interval before and after: more than fails everywhere. */
    private const EDGE = 0.05;

    /**
     * @param  int  $from Unix second; it began within the interval that begins here
     * @param  int  $to it ended within the interval that ends here
     * @param  float  $seconds it lasted, by the parts of each interval whose statements failed
     * @param  int  $failed statements
     * @param  int  $probes runs of the probe that failed
     */
    public function __construct(
        public int $from,
        public int $to,
        public float $seconds,
        public int $failed,
        public int $probes,
    ) {
    }

    /**
     * Finds outages in what was tried by the interval. What fails for a reason of its own fails beside others that do not; here a quarter
     * of an interval failed at least, and in the middle of longer ones everything.
     *
     * @param  array<int, array{executions: int, failed: int}>  $statements by the first second of their interval
     * @param  array<int, bool>  $probes whether a run succeeded, by the Unix second it began
     * @return list<self> ascending
     */
    public static function find(array $statements, array $probes, int $interval): array
    {
        $tried = [];
        foreach ($statements as $at => $one) {
            if ($one['executions'] > 0) {
                $tried[$at] = [$one['executions'], $one['failed'], 0, 0];
            }
        }
        foreach ($probes as $second => $isAnswered) {
            $at = $second - $second % $interval;
            $tried[$at] ??= [0, 0, 0, 0];
            $tried[$at][$isAnswered ? 2 : 3]++;
        }
        ksort($tried);
        $outages = $open = [];
        $before = $last = null;
        foreach ($tried as $at => $one) {
            $isFollowing = $last !== null && $at - $last <= $interval;
            if (self::isFailing($one) && ($open === [] || $isFollowing)) {
                $before ??= $open === [] && $isFollowing ? $last : null;
                $open[$at] = $one;
            } else {
                $outages[] = self::ended($open, $interval, $tried, $before, $isFollowing ? $at : null);
                [$before, $open] = [null, self::isFailing($one) ? [$at => $one] : []];
            }
            $last = $at;
        }
        $outages[] = self::ended($open, $interval, $tried, $before, null);

        return array_values(array_filter($outages, static fn (?self $one): bool => $one !== null));
    }

    /**
     * @param  array{int, int, int, int}  $one executions, failed ones, probes answered, probes failed
     */
    private static function isFailing(array $one): bool
    {
        return $one[0] > 0 ? $one[1] >= self::SHARE * $one[0] : $one[3] > 0 && $one[2] === 0;
    }

    /**
     * @param  array<int, array{int, int, int, int}>  $open by the interval
     * @param  array<int, array{int, int, int, int}>  $tried all of them
     * @param  int|null  $before the interval just before it, where something was tried then
     * @param  int|null  $after the one just after it
     */
    private static function ended(array $open, int $interval, array $tried, ?int $before, ?int $after): ?self
    {
        $failed = array_sum(array_column($open, 1));
        $probes = array_sum(array_column($open, 3));
        if ($open === [] || ($failed < self::LEAST_FAILED && $probes === 0) || ($failed === 0 && $probes < 2)) {
            return null;
        }
        $inner = array_slice($open, 1, -1);
        foreach ($inner as $one) {
            // In the middle of it nothing succeeds.
            if ($one[1] < $one[0] || $one[2] > 0) {
                return null;
            }
        }
        // It may begin late in an interval and end early in one.
        foreach ([$before, $after] as $edge) {
            if ($edge !== null && $tried[$edge][1] >= self::EDGE * $tried[$edge][0] && $tried[$edge][1] > 0) {
                $open[$edge] = $tried[$edge];
                $failed += $tried[$edge][1];
                $probes += $tried[$edge][3];
            }
        }
        $places = array_keys($open);
        $seconds = array_sum(array_map(
            static fn (array $one): float => $interval * ($one[0] > 0 ? $one[1] / $one[0] : 1.0),
            $open,
        ));

        return new self(min($places), max($places) + $interval, $seconds, $failed, $probes);
    }
}
