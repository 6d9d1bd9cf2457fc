<?php

declare(strict_types=1);

namespace Fulcrion\Tools\Demo;

use App\Estate\Models\Cluster;
use App\Jobs\Application\PracticeJobs;
use App\Jobs\Models\JobSeries;
use Closure;
use Illuminate\Support\Facades\DB;

/**
 * The nights of the last four weeks, run one by one on the practice cluster.
 */
final readonly class JobHistory
{
    private const DAYS = 28;

    /** Nights of which the tasks are kept. */
    public const KEPT = 6;

    public function __construct(private PracticeJobs $jobs)
    {
    }

    /**
     * @param  (Closure(string): void)|null  $tell
     */
    public function load(Cluster $cluster, int $nowUs, ?Closure $tell = null, int $nights = self::DAYS): void
    {
        // The last night is one that is over.
        $midnight = (new \DateTimeImmutable('@'.(intdiv($nowUs, 1_000_000) - 6 * 3600)))->setTime(0, 0);
        foreach (NightlyJobs::all() as $number => $job) {
            $series = JobSeries::query()
                ->create([
                    'cluster_id' => $cluster->id,
                    'name' => $job['name'],
                    'aim' => $job['aim'],
                    'deadline' => $job['deadline'],
                    'next_workers' => $job['workers'],
                    'runs_at' => $job['at'],
                    'growth' => $job['weekly'],
                    'plan' => NightlyJobs::plan($job['name'], self::DAYS)->toArray(),
                ])
                ->refresh();
            $before = null;
            [$hour, $minute] = array_map(intval(...), explode(':', $job['at']));
            $random = new \Random\Randomizer(new \Random\Engine\Mt19937(100 + $number));
            for ($day = self::DAYS - $nights + 1; $day <= self::DAYS; $day++) {
                $start =
                    $midnight
                        ->modify('-'.(self::DAYS - $day).' days')
                        ->setTime($hour, $minute)
                        ->getTimestamp() * 1_000_000;
                if ($tell !== null && $day % 7 === 0) {
                    $tell("{$job['name']}, night {$day}");
                }
                $series->setAttribute('plan', NightlyJobs::plan($job['name'], $day)->toArray());
                $run = $this->jobs->begin($series, $job['workers'], $start, 'the nightly plan');
                $run->update([
                    'price' => $job['price'],
                    'currency' => 'EUR',
                    'owner' => 'loaders',
                    'asked_us' => $start,
                    'heartbeat_us' => $start,
                ]);
                $run->setRelation('series', $series);
                $growth = (1 + $job['weekly']) ** ($day / 7) * (1 + $random->getInt(-200, 200) / 10_000);
                $before = $this->jobs->run($run, 1000 * $number + $day, $growth, $before, 0.0, $day === self::DAYS);
                if ($day <= self::DAYS - self::KEPT) {
                    DB::table('job_chunks')->where('run_id', $run->id)->delete();
                    $run->update(['kept' => false]);
                }
            }
        }
    }
}
