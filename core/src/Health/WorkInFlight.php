<?php

declare(strict_types=1);

namespace Fulcrion\Core\Health;

/**
 * Spreads what executions read over the time they were in flight. Intervals tell bytes and durations where an execution began, but time in
 * flight where it passed; each interval gets of the bytes that are still to come what its time in flight is of the time that is. What is
 * given out is what was told, to the byte.
 */
final class WorkInFlight
{
    /** Sums of intervals are whole microseconds, so that a few may be missing in the end. */
    private const ROUNDING_US = 5;

    /** @var array<string, array{float, float, float}> microseconds, bytes and bytes spilled still to come, by statement and origin */
    private array $left = [];

    /**
     * One interval; they come in the order of time, without any left out.
     *
     * @param  list<LoadRow>  $rows
     * @return list<Work>
     */
    public function next(array $rows): array
    {
        $works = [];
        foreach ($rows as $row) {
            [$us, $bytes, $spilled] = $this->left[$row->key()] ?? [0.0, 0.0, 0.0];
            $us += $row->durationUs;
            $bytes += $row->bytesRead;
            $spilled += $row->bytesSpilled;
            $left = $us - $row->loadUs;
            $share = $left <= self::ROUNDING_US ? 1.0 : $row->loadUs / $us;
            $works[] = new Work($row->statement, max(0.0, (float) ($row->loadUs - $row->queuedUs)), (float) $row->cpuUs, $share * $bytes,
                $share * $spilled);
            if ($share === 1.0) {
                unset($this->left[$row->key()]);
            } else {
                $this->left[$row->key()] = [$left, $bytes * (1 - $share), $spilled * (1 - $share)];
            }
        }

        return $works;
    }
}
