<?php

declare(strict_types=1);

namespace App\Statements\Application;

use Fulcrion\Core\Telemetry\Fact;

/**
 * One statement over one window. Figures the source did not give are null.
 */
final readonly class StatementRow
{
    /**
     * @param  array<string, int>  $sums by the names of Tally::SUMS, min_us and max_us
     */
    public function __construct(
        public int $id,
        public string $fingerprint,
        public string $kind,
        public string $text,
        public array $sums,
        public int $facts,
        public int $firstUs,
        /** First seen in the window, on a cluster that was watched before it. */
        public bool $isNew,
        public Percentiles $percentiles,
        public LoadBefore $before,
        public float $measure,
    ) {
    }

    public function knows(int $fact): bool
    {
        return ($this->facts & $fact) !== 0;
    }

    public function meanUs(): ?float
    {
        return $this->sums['executions'] > 0 ? $this->sums['duration_us'] / $this->sums['executions'] : null;
    }

    public function ratio(): ?float
    {
        return $this->knows(Fact::ROWS_EXAMINED) && $this->knows(Fact::ROWS_RETURNED) && $this->sums['rows_returned'] > 0
            ? $this->sums['rows_examined'] / $this->sums['rows_returned']
            : null;
    }

    public function known(string $sum, int $fact): ?int
    {
        return $this->knows($fact) ? $this->sums[$sum] : null;
    }

    public function failures(): int
    {
        return $this->sums['errors'] + $this->sums['cancelled'] + $this->sums['timed_out'];
    }

    /** How many times as slow as in the window before, when that can be said. */
    public function slowdown(): ?float
    {
        $mean = $this->meanUs();

        return $mean !== null &&
            $this->before->meanUs !== null &&
            $this->before->meanUs > 0 &&
            $this->before->executions >= 3 &&
            $this->sums['executions'] >= 3
            ? $mean / $this->before->meanUs
            : null;
    }

    /**
     * @return array<string, int|float|string|null> for tables taken away
     */
    public function export(): array
    {
        return [
            'fingerprint' => $this->fingerprint,
            'kind' => $this->kind,
            'statement' => $this->text,
            'executions' => $this->sums['executions'],
            'time_in_window_us' => $this->sums['load_us'],
            'mean_us' => $this->meanUs() === null ? null : round($this->meanUs(), 1),
            'min_us' => $this->sums['executions'] > 0 ? $this->sums['min_us'] : null,
            'p50_us' => $this->percentiles->p50Us,
            'p95_us' => $this->percentiles->p95Us,
            'p99_us' => $this->percentiles->p99Us,
            'durations_known' => $this->percentiles->measured,
            'max_us' => $this->sums['executions'] > 0 ? $this->sums['max_us'] : null,
            'rows_examined' => $this->known('rows_examined', Fact::ROWS_EXAMINED),
            'rows_returned' => $this->known('rows_returned', Fact::ROWS_RETURNED),
            'rows_affected' => $this->known('rows_affected', Fact::ROWS_AFFECTED),
            'bytes_scanned' => $this->known('bytes_scanned', Fact::BYTES_SCANNED),
            'bytes_spilled' => $this->known('bytes_spilled', Fact::BYTES_SPILLED),
            'lock_us' => $this->known('lock_us', Fact::LOCK),
            'queued_us' => $this->known('queued_us', Fact::QUEUED),
            'cpu_us' => $this->known('cpu_us', Fact::CPU),
            'full_scans' => $this->known('full_scans', Fact::FULL_SCAN),
            'runs_without_index' => $this->known('no_index', Fact::INDEX),
            'tmp_tables_on_disk' => $this->known('tmp_disk', Fact::TMP_DISK),
            'sort_merge_passes' => $this->known('sort_passes', Fact::SORT_PASSES),
            'errors' => $this->sums['errors'],
            'cancelled' => $this->sums['cancelled'],
            'timed_out' => $this->sums['timed_out'],
            'warnings' => $this->known('warnings', Fact::WARNINGS),
        ];
    }
}
