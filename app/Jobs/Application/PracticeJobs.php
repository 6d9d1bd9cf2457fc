<?php

declare(strict_types=1);

namespace App\Jobs\Application;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Pricing\MoneyRates;
use App\Jobs\Models\JobRun;
use App\Jobs\Models\JobSeries;
use App\Platform\Support\Clock;
use Fulcrion\Core\Scheduling\JobModel;
use Fulcrion\Core\Scheduling\Stage;
use Fulcrion\Core\Scheduling\TaskState;
use Fulcrion\Core\Scheduling\TaskTable;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Support\Str;

/**
 * Lets a practice cluster run a job and takes its record.
 */
final readonly class PracticeJobs
{
    private const WEEK_US = 604_800_000_000;

    public function __construct(
        private Clusters $clusters,
        private JobRunStore $store,
        private JobAnalysis $analyses,
        private MoneyRates $rates,
    ) {
    }

    /** Makes the run known, so that it can be watched. */
    public function begin(JobSeries $series, int $workers, int $startUs, string $by): JobRun
    {
        $last = $series->last();
        // What the price book says now goes before what a worker cost the run before.
        $rates = $this->rates->of($series->cluster);
        $booked = $rates?->workerHour;

        return JobRun::query()->create([
            'cluster_id' => $series->cluster_id,
            'series_id' => $series->id,
            'external_id' => $series->name.'-'.Str::lower((string) Str::ulid()),
            'name' => $series->name,
            'owner' => $last->owner ?? 'loaders',
            'state' => 'running',
            'submitted_us' => $startUs,
            'started_us' => $startUs,
            'deadline_us' => self::deadline($series, $startUs),
            'workers' => $workers,
            'price' => $booked === null ? $last?->price : $booked->toFloat(),
            'currency' => $booked === null || $rates === null ? $last->currency ?? $this->rates->currency() : $rates->currency,
            'modelled' => true,
            'progress' => 'waiting for a worker of ours',
            'asked_us' => Clock::microseconds(),
            'asked_by' => $by,
            'heartbeat_us' => Clock::microseconds(),
        ]);
    }

    /**
     * @param  float  $growth of what is to be read against the plan
     * @param  JobModel|null  $before of the run before, where it is at hand
     * @return JobModel|null of this run
     */
    public function run(
        JobRun $run,
        int $seed,
        ?float $growth = null,
        ?JobModel $before = null,
        float $watchSeconds = 0.0,
        bool $judge = true,
    ): ?JobModel {
        $series = $run->series;
        $runs = $series === null ? null : $this->clusters->as(Actor::system(SystemActor::Jobs, 'a nightly job'))->jobs($run->cluster);
        if ($series === null || $runs === null || $series->plan === null) {
            return null;
        }
        $first = (int) $series->runs()->min('started_us');
        $growth ??= (1 + $series->growth) ** (($run->started_us - $first) / self::WEEK_US);
        $done = $runs->run($series->plan, $run->workers, $seed, $run->started_us, $growth);
        $run->fill([
            'script' => $done['script'],
            'stages' => array_map(static fn (Stage $stage): array => $stage->toArray(), $done['stages']),
            'worker_names' => $done['workers'],
            'tasks' => $done['table']->count(),
        ]);
        if ($watchSeconds > 0) {
            $this->watched($run, $done['table'], $done['endedUs'], $watchSeconds);
        }
        $this->store->putAll($run->id, $done['table']);
        $run->fill([
            'state' => $done['failed'] ? 'failed' : 'done',
            'ended_us' => $done['endedUs'],
            'progress' => '',
            'done_share' => 1,
            'analysis' => null,
        ])->save();
        $recorded = $this->store->load($run);
        $work = array_sum($recorded->durationsUs);
        $run->update([
            'input_bytes' => $recorded->inputBytes(),
            'work_us' => $work,
            'idle_share' => max(0.0, 1 - $work / max(1, $run->workers * $recorded->elapsedUs())),
        ]);
        $last = $before === null ? $series->before($run) : null;
        $before ??= $last === null ? null : new JobModel($this->store->load($last));
        $this->analyses->predict($run, $before);
        if ($judge) {
            $this->analyses->analyse($run, $recorded);
        }

        return new JobModel($recorded);
    }

    /** Lets the record grow as if it came in while the job runs: all of its time in some seconds. */
    private function watched(JobRun $run, TaskTable $table, int $endUs, float $seconds): void
    {
        $began = hrtime(true);
        $length = $endUs - $run->started_us;
        while (($share = (hrtime(true) - $began) / 1e9 / $seconds) < 1) {
            $nowUs = $run->started_us + (int) ($share * $length);
            $then = self::until($table, $nowUs);
            $this->store->putAll($run->id, $then);
            $done = count(array_filter($then->ended, static fn (int $ended): bool => $ended >= 0));
            $run->fill([
                'progress' => Quantity::count($done).
                    ' of '.
                    Quantity::count($table->count()).
                    ' tasks done; modelled time, '.
                    Quantity::count(round($length / 1e6 / $seconds)).
                    ' times as fast as a clock',
                'done_share' => $share,
                'heartbeat_us' => Clock::microseconds(),
                'analysis' => null,
            ])->save();
            usleep(400_000);
        }
    }

    /** The record as it was at a moment. */
    private static function until(TaskTable $table, int $nowUs): TaskTable
    {
        $then = clone $table;
        $states = array_flip(array_column(TaskState::cases(), 'value'));
        $begun = $ended = $worker = $state = $queued = $waiting = [];
        foreach ($table->started as $task => $started) {
            $waits = $started > $nowUs || $started < 0;
            $runs = ! $waits && $table->ended[$task] > $nowUs;
            $waiting[] = $waits;
            $begun[] = $waits ? -1 : $started;
            $ended[] = $waits || $runs ? -1 : $table->ended[$task];
            $worker[] = $waits ? -1 : $table->worker[$task];
            $state[] = $waits ? $states['waiting'] : ($runs ? $states['running'] : $table->state[$task]);
            $queued[] = $waits && $table->queued[$task] > $nowUs ? -1 : $table->queued[$task];
        }
        [$then->started, $then->ended, $then->worker, $then->state, $then->queued] = [$begun, $ended, $worker, $state, $queued];
        $then->figures = array_map(
            static fn (array $values): array => array_map(
                static fn (int $value, bool $waits): int => $waits ? -1 : $value,
                $values,
                $waiting,
            ),
            $table->figures,
        );

        return $then;
    }

    public static function deadline(JobSeries $series, int $startUs): int
    {
        if ($series->deadline === null) {
            return -1;
        }
        [$hour, $minute] = array_map(intval(...), explode(':', $series->deadline));
        $start = new \DateTimeImmutable('@'.intdiv($startUs, 1_000_000));
        $at = $start->setTime($hour, $minute);

        return ($at <= $start ? $at->modify('+1 day') : $at)->getTimestamp() * 1_000_000;
    }
}
