<?php

declare(strict_types=1);

namespace App\Jobs\Application;

use App\Estate\Models\Cluster;
use App\Jobs\Models\JobRun;
use App\Jobs\Models\JobSeries;
use App\Platform\Support\Clock;
use Fulcrion\Core\Scheduling\JobModel;
use Illuminate\Support\Str;

/**
 * A record that comes in from outside: read, put to its series, judged, held against what was predicted.
 */
final readonly class RecordedJobs
{
    public function __construct(private JobRunStore $store, private JobAnalysis $analyses, private Proving $proving)
    {
    }

    public function begin(Cluster $cluster, string $fileName, ?string $path, string $by): JobRun
    {
        return JobRun::query()
            ->create([
                'cluster_id' => $cluster->id,
                'external_id' => 'reading-'.Str::ulid(),
                'name' => $fileName,
                'state' => 'reading',
                'file_name' => mb_strcut(mb_scrub($fileName), 0, 255),
                'path' => $path,
                'progress' => JobRun::QUEUED,
                'asked_us' => Clock::microseconds(),
                'asked_by' => $by,
                'heartbeat_us' => Clock::microseconds(),
            ])
            ->refresh();
    }

    /**
     * @param  array<string, mixed>  $given fields of the head the file does not have
     */
    public function read(JobRun $run, string $path, array $given): void
    {
        (new JobIntake($this->store))->read(
            $run,
            $path,
            array_filter($given, static fn (mixed $value): bool => $value !== null && $value !== ''),
        );
        $run->refresh();
        if (! $run->isRun()) {
            return;
        }
        $series = JobSeries::query()->firstOrCreate(
            ['cluster_id' => $run->cluster_id, 'name' => $run->name],
            ['aim' => $run->deadline_us >= 0 ? 'deadline' : 'knee'],
        );
        $run->update([
            'series_id' => $series->id,
            'deadline_us' => $run->deadline_us >= 0 || $run->started_us < 0
                    ? $run->deadline_us
                    : PracticeJobs::deadline($series->refresh(), $run->started_us),
        ]);
        $run->update(['progress' => JobRun::JUDGED, 'heartbeat_us' => Clock::microseconds()]);
        JudgeJobRun::dispatch($run->id);
    }

    /** Needs all tasks at once, so it is apart from reading. */
    public function judge(JobRun $run): void
    {
        $series = $run->series;
        $recorded = $this->store->load($run);
        if ($run->workers === 0) {
            $run->update(['workers' => $recorded->workers()]);
        }
        if ($run->state !== 'running' && ($run->started_us !== $recorded->startUs || $run->ended_us !== $recorded->endUs)) {
            $run->update(['started_us' => $recorded->startUs, 'ended_us' => $recorded->endUs]);
            $recorded = $this->store->load($run);
        }
        $this->analyses->analyse($run, $recorded);
        $run->update(['progress' => '']);
        if ($run->state === 'done' && $series !== null) {
            $last = $series->before($run);
            $this->analyses->predict($run, $last === null ? null : new JobModel($this->store->load($last)));
            $this->proving->prove($run);
        }
    }
}
