<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statements;

use Fulcrion\Core\Telemetry\Execution;

/**
 * Folds a stream of executions into tallies of five minutes, and those into hours and days.
 */
final class LoadAggregator
{
    public const BUCKET_SECONDS = 300;

    private const BUCKET_US = self::BUCKET_SECONDS * 1_000_000;

    /** @var array<int, array<string, array<string, LoadAggregate>>> bucket start in Unix seconds => statement => origin => tally */
    private array $tallies = [];

    public function add(Execution $execution, string $statement, string $origin): void
    {
        $start = $execution->startedAtUs;
        $duration = $execution->durationUs;
        $offset = $start % self::BUCKET_US;
        $bucket = intdiv($start - $offset, 1_000_000);
        $tally = $this->tallies[$bucket][$statement][$origin] ??= new LoadAggregate();
        $tally->add($execution);
        $lock = $execution->times->lockUs ?? 0;
        $queued = $execution->times->queuedUs ?? 0;
        $cpu = $execution->times->cpuUs ?? 0;
        if ($offset + $duration <= self::BUCKET_US) {
            $tally->passTime($duration, $lock, $queued, $cpu);

            return;
        }
        // Shares of every bucket it crosses; taking differences of rounded running totals keeps each sum exact.
        $passed = 0;
        $before = [0, 0, 0];
        while ($passed < $duration) {
            $until = min($duration, $passed + self::BUCKET_US - $offset);
            $share = $until / $duration;
            $now =
                $until === $duration ? [$lock, $queued, $cpu] : [(int) ($lock * $share), (int) ($queued * $share), (int) ($cpu * $share)];
            ($this->tallies[$bucket][$statement][$origin] ??= new LoadAggregate())->passTime(
                $until - $passed,
                $now[0] - $before[0],
                $now[1] - $before[1],
                $now[2] - $before[2],
            );
            $passed = $until;
            $before = $now;
            $offset = 0;
            $bucket += self::BUCKET_SECONDS;
        }
    }

    /**
     * @return array<int, array<string, array<string, LoadAggregate>>> bucket start in Unix seconds => statement => origin => tally
     */
    public function buckets(): array
    {
        return $this->tallies;
    }

    /**
     * @param  array<int, array<string, array<string, LoadAggregate>>>  $buckets
     * @return array<int, array<string, array<string, LoadAggregate>>> the same by longer intervals
     */
    public static function coarsen(array $buckets, int $seconds): array
    {
        $out = [];
        foreach ($buckets as $start => $statements) {
            $at = $start - ($start % $seconds);
            foreach ($statements as $statement => $origins) {
                foreach ($origins as $origin => $tally) {
                    if (isset($out[$at][$statement][$origin])) {
                        $out[$at][$statement][$origin]->merge($tally);
                    } else {
                        $out[$at][$statement][$origin] = clone $tally;
                    }
                }
            }
        }

        return $out;
    }
}
