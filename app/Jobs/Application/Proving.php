<?php

declare(strict_types=1);

namespace App\Jobs\Application;

use App\Jobs\Models\JobRun;
use App\Ledger\Changes\ChangeState;
use App\Ledger\Ledger;
use App\Ledger\Models\Change;
use App\Ledger\Models\ProofRecord;
use App\Platform\Support\Clock;
use App\Platform\Support\Money;
use Fulcrion\Core\Scheduling\JobModel;
use Fulcrion\Core\Scheduling\RecordedRun;
use Fulcrion\Core\Scheduling\RunFacts;
use Fulcrion\Core\Scheduling\RuntimeDistribution;
use Fulcrion\Core\Scheduling\ScalingCurve;
use Fulcrion\Core\Scheduling\StageChange;
use Fulcrion\Core\Text\Quantity;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Holds a decision about workers against the run that came after it.
 */
final readonly class Proving
{
    public function __construct(private JobRunStore $store, private Ledger $ledger)
    {
    }

    /**
     * What is expected of a number of workers, from a recorded run.
     *
     * @return array{run: int, runsWorkers: int, runsUs: int, runsIdle: float, workers: int, timeUs: int, lowUs: float, highUs: float,
     *     idle: float, draws: int, price: float|null, currency: string, deadlineUs: int}
     */
    public function expected(JobRun $run, int $workers, ?JobModel $model = null): array
    {
        $model ??= new JobModel($this->store->load($run));
        $curve = ScalingCurve::of($model, 3);
        $point = $curve->exact($workers);
        $distribution = RuntimeDistribution::of($model, $curve, new Randomizer(new Mt19937(1)), 30, 4);
        $time = $model->timeUs($workers);

        return [
            'run' => $run->id,
            'runsWorkers' => $model->run->workers(),
            'runsUs' => $model->run->elapsedUs(),
            'runsIdle' => $run->idle_share,
            'workers' => $workers,
            'timeUs' => $time,
            'lowUs' => $time * $distribution->factor($workers, 0.05),
            'highUs' => $time * $distribution->factor($workers, 0.95),
            'idle' => $point->idleShare,
            'draws' => 30,
            'price' => $run->price,
            'currency' => $run->currency,
            'deadlineUs' => $run->deadline_us < 0 ? -1 : $run->deadline_us - $run->started_us,
        ];
    }

    /**
     * @param  array<string, mixed>  $job
     */
    public function rehearse(Change $change, array $job, string $by): void
    {
        $workers = (int) $job['workers'];
        $time = (float) $job['timeUs'];
        $deadline = (int) $job['deadlineUs'];
        $inTime = $deadline < 0 || $time <= $deadline;
        ProofRecord::query()->create([
            'change_id' => $change->id,
            'kind' => 'rehearsal',
            'body' => 'job',
            'made_us' => Clock::microseconds(),
            'made_by' => $by,
            'factor' => max(1, (int) $job['runsUs']) / max(1.0, $time),
            'holds' => true,
            'conditions' => [
                'how' => "the recorded run {$job['run']} scheduled again with {$workers} workers; the range holds 90% "
                    ."of {$job['draws']} draws of task times",
                'time' => 'modelled',
            ],
            'sentence' => 'With '.
                Quantity::count($workers).
                ' workers it would take '.
                Quantity::duration($time).
                ' instead of '.
                Quantity::duration((int) $job['runsUs']).
                ' with '.
                Quantity::count((int) $job['runsWorkers']).
                ', and cost '.
                self::money(($workers * $time) / 3.6e9, $job).
                ' instead of '.
                self::money(((int) $job['runsWorkers'] * (int) $job['runsUs']) / 3.6e9, $job).
                ($inTime ? '' : '; that is late'),
            'measured' => json_encode(['job' => $job, 'actual' => null, 'stages' => []], JSON_THROW_ON_ERROR),
        ]);
    }

    /** Where the run is the one a decision was made for, its proof is made. */
    public function prove(JobRun $run): void
    {
        $change = $run->series?->pinned_change_id === null ? null : Change::query()->find($run->series->pinned_change_id);
        $job = $change?->expected['job'] ?? null;
        if (
            ! ($change instanceof Change) ||
            ! is_array($job) ||
            $run->state === 'running' ||
            $change->state !== ChangeState::Applied ||
            $run->workers !== (int) $job['workers'] ||
            $change->latestProof('applied') !== null
        ) {
            return;
        }
        $before = JobRun::query()->find($job['run']);
        $after = $this->store->load($run);
        $stages = $before instanceof JobRun && $before->kept ? self::stages($this->store->load($before), $after) : [];
        $actual = $run->elapsedUs();
        $off = (float) $job['timeUs'] / max(1, $actual) - 1;
        $within = $actual >= (float) $job['lowUs'] && $actual <= (float) $job['highUs'];
        $cost = $run->workerHours();
        $was = ((int) $job['runsWorkers'] * (int) $job['runsUs']) / 3.6e9;
        $proof = ProofRecord::query()->create([
            'change_id' => $change->id,
            'kind' => 'applied',
            'body' => 'job',
            'made_us' => Clock::microseconds(),
            'made_by' => 'the next run',
            'factor' => max(1, (int) $job['runsUs']) / max(1, $actual),
            // A model that is a tenth off has not foretold anything.
            'holds' => $run->state === 'done' && ($within || abs($off) <= 0.1),
            'conditions' => [
                'before' => "run {$job['run']}, {$job['runsWorkers']} workers",
                'after' => "run {$run->id}, {$run->workers} workers",
                'what was read' => $before instanceof JobRun && $before->input_bytes > 0
                        ? Quantity::change($before->input_bytes, $run->input_bytes, 'more', 'less')
                        : 'not known',
                'time' => $run->modelled ? 'modelled by the practice cluster, with luck of its own' : 'measured',
            ],
            'sentence' => $run->state === 'done'
                    ? 'Predicted '.
                        Quantity::duration((float) $job['timeUs']).
                        ', took '.
                        Quantity::duration($actual).
                        ' ('.
                        ($within ? 'within' : 'outside').
                        ' the stated range); it cost '.
                        self::money($cost, $job).
                        ' instead of '.
                        self::money($was, $job).
                        self::punctual((int) $job['deadlineUs'], (int) $job['runsUs'], $actual)
                    : 'The run failed, so nothing is proved',
            'measured' => json_encode(
                [
                    'job' => $job,
                    'actual' => [
                        'run' => $run->id,
                        'timeUs' => $actual,
                        'idle' => $run->idle_share,
                        'workers' => $run->workers,
                        'state' => $run->state,
                        'late' => $run->isLate(),
                    ],
                    'stages' => $stages,
                ],
                JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE,
            ),
        ]);
        $this->ledger->record(null, 'proved a decision', "change {$change->id}: {$change->title}", [
            'proof' => $proof->id,
            'off' => round($off, 4),
        ]);
    }

    /**
     * @return list<array{stage: string, before: array<string, int>|null, after: array<string, int>|null}>
     */
    private static function stages(RecordedRun $before, RecordedRun $after): array
    {
        return array_map(
            static fn (StageChange $change): array => ['stage' => $change->stage, 'before' => $change->before, 'after' => $change->after],
            StageChange::between(RunFacts::of($before), $before->stages, RunFacts::of($after), $after->stages),
        );
    }

    private static function punctual(int $deadlineUs, int $beforeUs, int $afterUs): string
    {
        return match (true) {
            $deadlineUs < 0 => '',
            $afterUs > $deadlineUs => ', and was late',
            $beforeUs > $deadlineUs => ', and was in time where it had been late',
            default => ', and was in time',
        };
    }

    /**
     * @param  array<string, mixed>  $job
     */
    public static function money(float $workerHours, array $job): string
    {
        return Money::of(
            $workerHours,
            is_float($job['price']) || is_int($job['price']) ? (float) $job['price'] : null,
            (string) $job['currency'],
        );
    }
}
