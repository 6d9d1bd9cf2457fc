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
        $runs = [];
        $last = null;
        foreach (array_filter($tried, self::isFailing(...)) as $at => $one) {
            if ($last === null || $at - $last > $interval) {
                $runs[] = [];
            }
            $runs[count($runs) - 1][$at] = $one;
            $last = $at;
        }

        return array_values(array_filter(
            array_map(static fn (array $run): ?self => self::ofRun($run, $interval, $tried), $runs),
            static fn (?self $one): bool => $one !== null,
        ));
    }

    /**
     * @param  array{int, int, int, int}  $one executions, failed ones, probes answered, probes failed
     */
    private static function isFailing(array $one): bool
    {
        return $one[0] > 0 ? $one[1] >= self::SHARE * $one[0] : $one[3] > 0 && $one[2] === 0;
    }

    /**
     * @param  non-empty-array<int, array{int, int, int, int}>  $run by the interval, one after the other
     * @param  array<int, array{int, int, int, int}>  $tried all of them
     * @return self|null null where it is chance, or not all failed
     */
    private static function ofRun(array $run, int $interval, array $tried): ?self
    {
        $failed = array_sum(array_column($run, 1));
        $probes = array_sum(array_column($run, 3));
        if (($failed < self::LEAST_FAILED && $probes === 0) || ($failed === 0 && $probes < 2)) {
            return null;
        }
        foreach (array_slice($run, 1, -1) as $one) {
            // In the middle of it nothing succeeds.
            if ($one[1] < $one[0] || $one[2] > 0) {
                return null;
            }
        }
        // It may begin late in an interval and end early in one.
        foreach ([array_key_first($run) - $interval, array_key_last($run) + $interval] as $edge) {
            $beside = $tried[$edge] ?? null;
            if ($beside !== null && $beside[1] >= self::EDGE * $beside[0] && $beside[1] > 0) {
                $run[$edge] = $beside;
                $failed += $beside[1];
                $probes += $beside[3];
            }
        }
        $places = array_keys($run);
        $seconds = array_sum(array_map(
            static fn (array $one): float => $interval * ($one[0] > 0 ? $one[1] / $one[0] : 1.0),
            $run,
        ));

        return new self(min($places), max($places) + $interval, $seconds, $failed, $probes);
    }
}
