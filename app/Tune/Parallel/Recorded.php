<?php

declare(strict_types=1);

namespace App\Tune\Parallel;

use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Tune\Models\JobRun;
use App\Tune\Models\JobSeries;
use Fulcrion\Core\Jobs\JobModel;
use Illuminate\Support\Str;

/**
 * A record that comes in from outside: read, put to its series, held against what was predicted, judged.
 */
final readonly class Recorded
{
    public function __construct(private RunStore $store, private Opinions $opinions, private Proving $proving)
    {
    }

    public function begin(Cluster $cluster, string $fileName, ?string $path, string $by): JobRun
    {
        return JobRun::query()->create([
            'cluster_id' => $cluster->id, 'external_id' => 'reading-'.Str::ulid(), 'name' => $fileName, 'state' => 'reading', 'file_name' => mb_strcut(mb_scrub($fileName), 0, 255), 'path' => $path, 'progress' => 'waiting for a worker', 'asked_us' => Clock::microseconds(), 'asked_by' => $by, 'beat_us' => Clock::microseconds(),
        ])->refresh();
    }

    /**
     * @param  array<string, mixed>  $given fields of the head the file does not have
     */
    public function read(JobRun $run, string $path, array $given): void
    {
        (new Intake($this->store))->read($run, $path, array_filter($given, static fn (mixed $value): bool => $value !== null && $value !== ''));
        $run->refresh();
        if (! $run->isRun()) {
            return;
        }
        $series = JobSeries::query()->firstOrCreate(['cluster_id' => $run->cluster_id, 'name' => $run->name], ['aim' => $run->deadline_us >= 0 ? 'deadline' : 'knee']);
        $run->update(['series_id' => $series->id, 'deadline_us' => $run->deadline_us >= 0 || $run->started_us < 0 ? $run->deadline_us : PracticeJobs::deadline($series->refresh(), $run->started_us)]);
        $run->setRelation('series', $series);
        $recorded = $this->store->load($run);
        if ($run->workers === 0) {
            $run->update(['workers' => $recorded->workers()]);
        }
        $this->opinions->opinion($run, $recorded);
        if ($run->state === 'done') {
            $last = $series->before($run);
            $this->opinions->predict($run, $last === null ? null : new JobModel($this->store->load($last)));
            $this->proving->prove($run);
        }
    }
}
