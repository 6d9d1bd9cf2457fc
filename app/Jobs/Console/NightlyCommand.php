<?php

declare(strict_types=1);

namespace App\Jobs\Console;

use App\Jobs\Application\PracticeJobs;
use App\Jobs\Application\RunPracticeJob;
use App\Jobs\Models\JobSeries;
use App\Platform\Support\Clock;
use Illuminate\Console\Command;

final class NightlyCommand extends Command
{
    protected $signature = 'jobs:nightly';

    protected $description = 'Starts the parallel jobs of practice clusters whose hour has come';

    public function handle(PracticeJobs $jobs): int
    {
        /** @var iterable<JobSeries> $nightly */
        $nightly = JobSeries::query()->with('cluster')->whereNotNull('plan')->whereNotNull('runs_at')->get();
        foreach ($nightly as $series) {
            [$hour, $minute] = array_map(intval(...), explode(':', (string) $series->runs_at));
            $due = (new \DateTimeImmutable('@'.Clock::seconds()))->setTime($hour, $minute)->getTimestamp() * 1_000_000;
            $last = (int) $series->runs()->max('started_us');
            if ($due <= Clock::microseconds() && $last < $due) {
                RunPracticeJob::dispatch($jobs->begin($series, $series->next_workers ?? 1, $due, 'the nightly plan')->id, 0.0);
            }
        }

        return self::SUCCESS;
    }
}
