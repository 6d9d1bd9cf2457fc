<?php

declare(strict_types=1);

namespace App\Jobs\Application;

use App\Estate\Models\Cluster;
use App\Jobs\Models\JobRun;
use App\Jobs\Models\JobSeries;
use Fulcrion\Core\Text\Quantity;
use Illuminate\Support\Collection;

/**
 * Jobs by their last run; first where a better number of workers saves most money, and what is late or wrong before that.
 */
final readonly class JobList
{
    public const SORTS = [
        'saves' => 'Would save',
        'name' => 'Job',
        'took' => 'Took',
        'cost' => 'Cost',
        'idle' => 'Idle',
        'last' => 'Last run',
    ];

    /**
     * @param  list<array{series: JobSeries, run: JobRun, running: JobRun|null, troubles: list<array{string, string, bool}>}>  $rows
     * @param  Collection<int, Cluster>  $clusters
     * @param  Collection<int, JobRun>  $records being read or refused
     */
    private function __construct(
        public array $rows,
        public Collection $clusters,
        public Collection $records,
        public string $sort,
        public string $cluster,
    ) {
    }

    /**
     * @param  array<array-key, mixed>  $query
     */
    public static function of(array $query): self
    {
        /** @var Collection<int, Cluster> $clusters */
        $clusters = Cluster::productionFirst()->get();
        $slug = is_string($query['cluster'] ?? null) ? $query['cluster'] : '';
        $sort = isset(self::SORTS[$query['sort'] ?? '']) ? $query['sort'] : 'saves';
        $rows = [];
        $wanted = $clusters->firstWhere('slug', $slug)?->id;
        foreach (JobSeries::query()->with('cluster')->get() as $series) {
            if ($wanted !== null && $series->cluster_id !== $wanted) {
                continue;
            }
            $run = $series->last();
            /** @var JobRun|null $running */
            $running = $series->runs()->where('state', 'running')->orderByDesc('id')->first();
            $run ??= $running;
            if ($run !== null) {
                $run->setRelation('series', $series);
                $rows[] = [
                    'series' => $series,
                    'run' => $run,
                    'running' => $running,
                    'troubles' => $run->state === 'running' ? [] : JobFindings::troubles($run, $series),
                ];
            }
        }
        usort(
            $rows,
            static fn (array $a, array $b): int => match ($sort) {
                'name' => $a['series']->name <=> $b['series']->name,
                'took' => $b['run']->elapsedUs() <=> $a['run']->elapsedUs(),
                'cost' => $b['run']->cost() <=> $a['run']->cost(),
                'idle' => $b['run']->idle_share * $b['run']->cost() <=> $a['run']->idle_share * $a['run']->cost(),
                'last' => $b['run']->started_us <=> $a['run']->started_us,
                default => [self::saves($b['run']), $b['run']->cost()] <=> [self::saves($a['run']), $a['run']->cost()],
            },
        );

        /** @var Collection<int, JobRun> $records */
        $records = JobRun::query()
            ->with('cluster')
            ->whereIn('state', ['reading', 'refused', 'stopped'])
            ->orderByDesc('id')
            ->limit(20)
            ->get();

        return new self($rows, $clusters, $records, $sort, $slug);
    }

    public static function saves(JobRun $run): float
    {
        return max(0.0, (float) $run->best_saves);
    }

    public function sentence(): string
    {
        if ($this->rows === []) {
            return 'No run of a parallel job is known yet: bring one recorded run, and the curve of all numbers of workers is computed '
                .'from it';
        }
        $bad = count(array_filter($this->rows, static fn (array $row): bool => $row['troubles'] !== []));
        [$saves, $cost, $currency, $priced] = [0.0, 0.0, '', true];
        foreach ($this->rows as $row) {
            $priced = $priced && $row['run']->price !== null;
            $saves += self::saves($row['run']);
            $cost += $row['run']->cost();
            $currency = $row['run']->currency;
        }
        $of = count($this->rows);
        $unit = new JobRun(['price' => $priced ? 1.0 : null, 'currency' => $currency]);

        return ($bad === 0
            ? ($of === 1
                ? 'The one job runs as it should'
                : "All {$of} jobs run as they should")
            : ($bad === 1
                ? "1 of {$of} jobs needs attention"
                : "{$bad} of {$of} jobs need attention")).
            ($saves > 0.01
                ? '; better numbers of workers would have saved '.
                    JobFindings::money($saves, $unit).
                    ' of the '.
                    JobFindings::money($cost, $unit).
                    ' their last runs cost'.
                    ($cost > 0 ? ', '.Quantity::percent($saves / $cost) : '')
                : '');
    }
}
