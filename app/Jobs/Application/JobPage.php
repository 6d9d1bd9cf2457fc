<?php

declare(strict_types=1);

namespace App\Jobs\Application;

use App\Jobs\Charts\CurveFigure;
use App\Jobs\Models\JobRun;
use App\Jobs\Models\JobSeries;
use App\Ledger\Models\Change;
use App\Platform\Figures\Figure;
use Fulcrion\Core\Scheduling\RecordedRun;
use Fulcrion\Core\Text\Quantity;

/**
 * All a page about one run shows.
 */
final readonly class JobPage
{
    /** Rows of tasks a page shows. */
    public const TASKS = 300;

    /**
     * @param  array<string, mixed>  $analysis
     * @param  list<array<string, mixed>>  $stages with what pushing there would save, best first
     */
    private function __construct(public JobRun $run, public array $analysis, public int $hand, public array $stages)
    {
    }

    /**
     * @param  array<array-key, mixed>  $query
     */
    public static function of(JobRun $run, array $query): self
    {
        $analysis = $run->analysis ?? [];
        $hand = is_numeric($query['workers'] ?? null)
            ? max(1, min(100_000, (int) $query['workers']))
            : $run->best_workers ?? max(1, $run->workers);
        $push = [];
        foreach ($analysis['push'] ?? [] as [$kind, $stage, , $savedUs, $workUs]) {
            $push[$stage][$kind] = ['savedUs' => $savedUs, 'workUs' => $workUs];
        }
        $stages = [];
        foreach ($analysis['facts']['stages'] ?? [] as $sum) {
            $own = $push[$sum['stage']] ?? [];
            $stages[] = $sum + [
                'name' => $run->stages[$sum['stage']]['name'] ?? '',
                'push' => $own,
                'most' => max([0, ...array_column($own, 'savedUs')]),
            ];
        }
        usort(
            $stages,
            static fn (array $a, array $b): int => [$b['push']['less']['savedUs'] ?? 0, $b['most'], $b['workUs']] <=> [
                $a['push']['less']['savedUs'] ?? 0,
                $a['most'],
                $a['workUs'],
            ],
        );

        return new self($run, $analysis, $hand, $stages);
    }

    public function hasCurve(): bool
    {
        return count($this->analysis['points'] ?? []) > 0;
    }

    /**
     * @return array<string, mixed>
     */
    public function facts(): array
    {
        return $this->analysis['facts'] ?? [];
    }

    public function sentence(): string
    {
        $run = $this->run;
        if ($run->state === 'running') {
            return "{$run->name} is running on ".
                Quantity::count($run->workers).
                ' workers: '.
                Quantity::count($this->facts()['done'] ?? 0).
                ' of '.
                Quantity::count($run->tasks).
                ' tasks are done';
        }
        $text =
            "{$run->name} ".
            ($run->state === 'failed' ? 'failed after ' : 'took ').
            Quantity::duration($run->elapsedUs()).
            ' on '.
            Quantity::count($run->workers).
            ' workers'.
            ($run->isLate() === true ? ' and was late by '.Quantity::duration($run->ended_us - $run->deadline_us) : '').
            '; '.
            Quantity::percent($run->idle_share).
            ' of the '.
            JobFindings::money($run->cost(), $run).
            ' it cost was idle';
        $best = $this->analysis['marks'][$this->aim()] ?? null;
        if ($best === null) {
            return $text.
                ($this->hasCurve() && $this->aim() === 'deadline'
                    ? '. No number of workers ends in time: its longest chain of tasks alone takes '.
                        Quantity::duration($this->facts()['spanUs'] ?? 0)
                    : ($this->hasCurve() && $this->aim() === 'budget'
                        ? '. No number of workers stays within the sum'
                        : ''));
        }
        $saves = (float) $run->best_saves;
        if (
            abs($best['workers'] - $run->workers) <= 0.05 * $run->workers ||
            (abs($saves) < 0.05 * $run->cost() && $run->isLate() !== true)
        ) {
            return "{$text}. That number fits: for “".JobSeries::AIMS[$this->aim()].'” none is better by much';
        }

        return "{$text}. ".
            Quantity::count($best['workers']).
            ' workers ('.
            JobSeries::AIMS[$this->aim()].
            ') would have taken '.
            Quantity::duration($best['timeUs']).
            ($saves >= 0 ? ' and saved '.JobFindings::money($saves, $run) : ' for '.JobFindings::money(-$saves, $run).' more');
    }

    public function aim(): string
    {
        return $this->run->series->aim ?? ($this->run->deadline_us >= 0 ? 'deadline' : 'knee');
    }

    public function figure(): ?Figure
    {
        return CurveFigure::draw($this->run, $this->run->series?->budget);
    }

    /**
     * Prices of the next saved minute, at numbers of workers on the front.
     *
     * @return array<int, float|null>
     */
    public function minutes(): array
    {
        return array_map(
            fn (?float $workerHours): ?float => $workerHours === null ? null : $workerHours * ($this->run->price ?? 1.0),
            $this->analysis['minutes'] ?? [],
        );
    }

    /**
     * @return array<string, mixed> what the scripts need
     */
    public function script(string $zone): array
    {
        return [
            'points' => array_map(static fn (array $p): array => [$p['workers'], $p['timeUs']], $this->analysis['points'] ?? []),
            'workUs' => ($this->facts()['workUs'] ?? 0) + ($this->facts()['overheadUs'] ?? 0) * ($this->facts()['tasks'] ?? 0),
            'price' => $this->run->price,
            'currency' => $this->run->currency,
            'startUs' => $this->run->started_us,
            'elapsedUs' => $this->run->elapsedUs(),
            'workers' => $this->run->workers,
            'deadlineUs' => $this->run->deadline_us,
            'ceiling' => $this->analysis['ceiling'] ?? 1,
            'hand' => $this->hand,
            'zone' => $zone,
            'distribution' => $this->run->forecast['distribution'] ?? null,
            'minutes' => (object) $this->minutes(),
        ];
    }

    public function pinned(): ?Change
    {
        return $this->run->series?->pinned_change_id === null ? null : Change::query()->find($this->run->series->pinned_change_id);
    }

    /**
     * @return list<JobRun> oldest first
     */
    public function nights(): array
    {
        /** @var list<JobRun> $runs */
        $runs =
            $this->run->series
                ?->runs()
                ->whereIn('state', ['done', 'failed'])
                ->orderByDesc('started_us')
                ->limit(35)
                ->get()
                ->all() ?? [];

        return array_reverse($runs);
    }

    /**
     * What was noticed in the record, and how it was taken.
     *
     * @return list<string>
     */
    public function noticed(): array
    {
        $facts = $this->facts();
        $noticed = $this->run->problems ?? [];
        if (($this->analysis['inferred'] ?? false) === true) {
            $noticed[] =
                'The record does not say what waits for what. It was inferred: a stage waits for those that had ended when its first '
                    .'task began.';
        }
        if (($facts['early'] ?? 0) > 0) {
            $noticed[] =
                Quantity::count($facts['early']).
                ' tasks began before what they wait for had ended, '.
                $facts['earliestTask'].
                ' by '.
                Quantity::duration($facts['earliestUs']).
                ': clocks of workers differ. Times of tasks are taken as they are, each from one clock.';
        }
        if (($facts['overlapping'] ?? 0) > 0) {
            $noticed[] =
                Quantity::count($facts['overlapping']).
                ' tasks ran beside another of the same worker, '.
                $facts['overlapTask'].
                ' first: a worker does more than one at a time, or clocks differ. Each running task counts as one worker at work.';
        }
        if (($facts['failed'] ?? 0) > 0) {
            $noticed[] =
                Quantity::count($facts['failed']).
                ' tasks failed'.
                (($facts['done'] ?? 0) === 0
                    ? ' and none was done, so no other number of workers can be reckoned with.'
                    : '; their time counts.');
        }
        if (($this->analysis['guessed'] ?? 0) > 0 && ($facts['done'] ?? 0) > 0) {
            $noticed[] =
                Quantity::count($this->analysis['guessed']).
                ' tasks did not run through; where they are scheduled they take the middle time of their stage.';
        }
        if ($this->run->price === null) {
            $noticed[] = 'No price of a worker is known, so cost is told in worker hours.';
        }
        if (($this->analysis['startUps'] ?? 0) === 0 && $this->hasCurve()) {
            $noticed[] = 'No worker was seen to start up while work waited for it, so none of the modelled runs has a start-up.';
        }

        return $noticed;
    }

    /**
     * @return list<array{id: string, worker: string, startUs: int, tookUs: int, waitUs: int, bytes: int, rows: int, attempts: int,
     *     state: string, spilled: int}>
     */
    public static function tasks(RecordedRun $run, int $stage, string $sort): array
    {
        $table = $run->table;
        $rows = [];
        foreach ($table->stage as $task => $of) {
            if ($of === $stage && $table->started[$task] >= 0) {
                $rows[] = [
                    'id' => $table->ids[$task],
                    'worker' => $run->workerNames[$table->worker[$task]] ?? '',
                    'startUs' => $table->started[$task] - $run->startUs,
                    'tookUs' => ($table->ended[$task] >= 0 ? $table->ended[$task] : $run->endUs) - $table->started[$task],
                    'waitUs' => max(0, $table->started[$task] - max($run->readyUs[$task], $table->queued[$task], $run->startUs)),
                    'bytes' => $table->figures['bytes_read'][$task],
                    'rows' => $table->figures['rows_read'][$task],
                    'attempts' => $table->attempts[$task],
                    'state' => $table->stateOf($task)->value,
                    'spilled' => $table->figures['bytes_spilled'][$task],
                ];
            }
        }
        $key =
            ['time' => 'tookUs', 'bytes' => 'bytes', 'wait' => 'waitUs', 'start' => 'startUs', 'attempts' => 'attempts'][$sort] ?? 'tookUs';
        usort($rows, static fn (array $a, array $b): int => $key === 'startUs' ? $a[$key] <=> $b[$key] : $b[$key] <=> $a[$key]);

        return $rows;
    }
}
