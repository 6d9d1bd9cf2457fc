<?php

declare(strict_types=1);

namespace App\Jobs\Application;

use App\Estate\Models\Cluster;
use App\Jobs\Models\JobRun;
use App\Jobs\Models\JobSeries;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\Findings;
use App\Ledger\Findings\FindingSubject;
use App\Ledger\Findings\Reported;
use App\Ledger\Findings\Severity;
use App\Ledger\Findings\Weight;
use App\Ledger\Findings\WeightUnit;
use App\Platform\Support\MomentStyle;
use App\Platform\Support\Money;
use DateTimeZone;
use Fulcrion\Core\Scheduling\Regression;
use Fulcrion\Core\Text\Quantity;

/**
 * What is wrong with jobs that run again and again: a finding a job, the worst of it first.
 */
final readonly class JobFindings
{
    public const SOURCE = 'jobs';

    /** A better number has to save this share of the cost before anybody is bothered. */
    private const WORTH = 0.15;

    public function __construct(private Findings $findings)
    {
    }

    public function report(Cluster $cluster): void
    {
        $reported = [];
        foreach (JobSeries::query()->where('cluster_id', $cluster->id)->get() as $series) {
            $one = $this->of($series);
            if ($one !== null) {
                $reported[] = $one;
            }
        }
        $this->findings->reconcile($cluster, self::SOURCE, $reported);
    }

    private function of(JobSeries $series): ?Reported
    {
        $run = $series->last();
        if ($run === null) {
            return null;
        }
        $troubles = self::troubles($run, $series);
        if ($troubles === []) {
            return null;
        }
        $evidence = [
            new Evidence('run', "{$run->id}, ".gmdate('Y-m-d H:i', intdiv(max(0, $run->started_us), 1_000_000)).' UTC'),
            new Evidence('took', Quantity::duration($run->elapsedUs()).' with '.Quantity::count($run->workers).' workers'),
            new Evidence(
                'cost',
                Money::of($run->workerHours(), $run->price, $run->currency).', '.Quantity::percent($run->idle_share).' of it idle',
            ),
        ];
        if ($run->best_workers !== null) {
            $evidence[] = new Evidence(
                'fits better',
                Quantity::count($run->best_workers).' workers (modelled), which saves '.self::money((float) $run->best_saves, $run),
            );
        }
        foreach (array_slice($troubles, 1) as $trouble) {
            $evidence[] = new Evidence('and', $trouble[1]);
        }

        return new Reported(
            'parallel-job',
            FindingSubject::job($series->name),
            Severity::of($troubles[0][2]),
            "{$series->name}: {$troubles[0][1]}",
            $evidence,
            Weight::of(7 * $run->idle_share * $run->workers * $run->elapsedUs(), WeightUnit::WorkerTime),
            'workers',
        );
    }

    /**
     * @return list<array{string, string, bool}> kind, words, whether to act
     */
    public static function troubles(JobRun $run, ?JobSeries $series): array
    {
        $troubles = [];
        if ($run->state === 'failed') {
            $troubles[] = ['failed', 'the last run failed', true];
        }
        if ($run->isLate() === true) {
            $troubles[] = ['late', 'late by '.Quantity::duration($run->ended_us - $run->deadline_us), true];
        }
        $regression = $series === null ? null : self::regression($series, $run);
        if ($regression !== null) {
            $troubles[] = [
                'slower',
                'takes '.
                Quantity::digits($regression->factor).
                ' times the worker time for the same input since '.
                moment($regression->sinceUs, MomentStyle::Weekday, new DateTimeZone('UTC')),
                true,
            ];
        }
        foreach ($run->analysis['diagnoses'] ?? [] as $diagnosis) {
            if (
                in_array($diagnosis['rule'], ['skew', 'stragglers', 'tiny-tasks', 'spill', 'alone-at-the-end'], true) &&
                $diagnosis['act'] === true
            ) {
                $troubles[] = [$diagnosis['rule'], lcfirst($diagnosis['problem']), true];
            }
        }
        if ($run->best_saves !== null && $run->best_saves > self::WORTH * $run->cost() && ($run->best_workers ?? 0) < $run->workers) {
            $troubles[] = [
                'wasteful',
                Quantity::percent($run->best_saves / $run->cost()).
                ' of '.
                self::money($run->cost(), $run).
                ' a night would be saved with '.
                Quantity::count((int) $run->best_workers).
                ' workers',
                $run->best_saves > 0.4 * $run->cost(),
            ];
        }

        return $troubles;
    }

    public static function regression(JobSeries $series, JobRun $run): ?Regression
    {
        return Regression::of($series->history($run->started_us));
    }

    /** Money where a price is known, worker hours otherwise. */
    public static function money(float $sum, JobRun $run): string
    {
        return $run->price === null ? Quantity::digits(round($sum, 2)).' worker h' : Money::plain($sum, $run->currency);
    }
}
