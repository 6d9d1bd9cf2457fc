<?php

declare(strict_types=1);

namespace App\Jobs\Console;

use App\Estate\Models\Cluster;
use App\Jobs\Application\JobAnalysis;
use App\Jobs\Application\JobFindings;
use App\Jobs\Models\JobSeries;
use Illuminate\Console\Command;
use Illuminate\Support\Facades\DB;

final class JudgeJobsCommand extends Command
{
    /** Runs of a job of which the tasks are kept. */
    private const KEPT = 8;

    protected $signature = 'jobs:judge';

    protected $description = 'Judges the last runs of parallel jobs, keeps the findings in step, drops tasks of old runs';

    public function handle(JobAnalysis $analyses, JobFindings $findings): int
    {
        foreach (JobSeries::query()->get() as $series) {
            $last = $series->last();
            if ($last !== null) {
                $analyses->analyse($last);
            }
            foreach (
                $series
                    ->runs()
                    ->whereIn('state', ['done', 'failed'])
                    ->where('kept', true)
                    ->orderByDesc('started_us')
                    ->skip(self::KEPT)
                    ->take(100)
                    ->pluck('id') as $id
            ) {
                DB::table('job_chunks')->where('run_id', $id)->delete();
                DB::table('job_runs')
                    ->where('id', $id)
                    ->update(['kept' => false]);
            }
        }
        /** @var iterable<Cluster> $clusters */
        $clusters = Cluster::query()
            ->whereIn('id', JobSeries::query()->distinct()->pluck('cluster_id'))
            ->get();
        foreach ($clusters as $cluster) {
            $findings->report($cluster);
        }

        return self::SUCCESS;
    }
}
