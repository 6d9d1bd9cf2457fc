<?php

declare(strict_types=1);

namespace Fulcrion\Core\Statements;

use Fulcrion\Core\Telemetry\Execution;
use Fulcrion\Core\Telemetry\Status;

/**
 * Sums over executions of one statement from one origin in one interval. Adding and merging commute.
 *
 * Executions count where they began; time in flight, locked, queued and on the processor counts where it passed.
 */
final class LoadAggregate
{
    /** The sums, in the order in which stores keep them. */
    public const SUMS = [
        'executions',
        'duration_us',
        'load_us',
        'lock_us',
        'queued_us',
        'cpu_us',
        'rows_returned',
        'rows_examined',
        'rows_affected',
        'bytes_scanned',
        'bytes_spilled',
        'tmp_memory',
        'tmp_disk',
        'sort_passes',
        'multi_pass',
        'full_scans',
        'no_index',
        'errors',
        'cancelled',
        'timed_out',
        'warnings',
    ];

    /** @var array<string, int> */
    public array $sums;

    public int $minUs = PHP_INT_MAX;

    public int $maxUs = 0;

    /** Bits of Fact that any of the executions had. */
    public int $facts = 0;

    /** @var array<int, int> bins of a LatencySketch */
    public array $bins = [];

    public function __construct()
    {
        $this->sums = array_fill_keys(self::SUMS, 0);
    }

    public function add(Execution $execution): void
    {
        $sums = &$this->sums;
        $duration = $execution->durationUs;
        $work = $execution->work;
        $sums['executions']++;
        $sums['duration_us'] += $duration;
        $sums['rows_returned'] += $work->rowsReturned ?? 0;
        $sums['rows_examined'] += $work->rowsExamined ?? 0;
        $sums['rows_affected'] += $work->rowsAffected ?? 0;
        $sums['bytes_scanned'] += $work->bytesScanned ?? 0;
        $sums['bytes_spilled'] += $work->bytesSpilled ?? 0;
        $sums['tmp_memory'] += $work->tmpTablesMemory ?? 0;
        $sums['tmp_disk'] += $work->tmpTablesDisk ?? 0;
        $passes = $work->sortMergePasses ?? 0;
        $sums['sort_passes'] += $passes;
        $sums['multi_pass'] += $passes > 0 ? 1 : 0;
        $sums['full_scans'] += $work->fullScan === true ? 1 : 0;
        $sums['no_index'] += $work->indexUsed === false ? 1 : 0;
        $sums['warnings'] += $execution->outcome->warningCount ?? 0;
        if ($execution->outcome->status !== Status::Ok) {
            $sums[
                match ($execution->outcome->status) {
                    Status::Error => 'errors',
                    Status::Cancelled => 'cancelled',
                    Status::TimedOut => 'timed_out',
                }
            ]++;
        }
        if ($duration < $this->minUs) {
            $this->minUs = $duration;
        }
        if ($duration > $this->maxUs) {
            $this->maxUs = $duration;
        }
        $this->facts |= $execution->facts();
        $bin = LatencySketch::bin($duration);
        $this->bins[$bin] = ($this->bins[$bin] ?? 0) + 1;
    }

    public function passTime(int $loadUs, int $lockUs, int $queuedUs, int $cpuUs): void
    {
        $this->sums['load_us'] += $loadUs;
        $this->sums['lock_us'] += $lockUs;
        $this->sums['queued_us'] += $queuedUs;
        $this->sums['cpu_us'] += $cpuUs;
    }

    public function merge(self $other): void
    {
        foreach ($other->sums as $name => $sum) {
            $this->sums[$name] += $sum;
        }
        $this->minUs = min($this->minUs, $other->minUs);
        $this->maxUs = max($this->maxUs, $other->maxUs);
        $this->facts |= $other->facts;
        foreach ($other->bins as $bin => $count) {
            $this->bins[$bin] = ($this->bins[$bin] ?? 0) + $count;
        }
    }
}
