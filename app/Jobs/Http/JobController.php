<?php

declare(strict_types=1);

namespace App\Jobs\Http;

use App\Estate\Models\Cluster;
use App\Jobs\Application\JobAnalysis;
use App\Jobs\Application\JobList;
use App\Jobs\Application\JobPage;
use App\Jobs\Application\JobRunStore;
use App\Jobs\Application\JudgeJobRun;
use App\Jobs\Application\Marks;
use App\Jobs\Application\PracticeJobs;
use App\Jobs\Application\ReadJobRecord;
use App\Jobs\Application\RecordedJobs;
use App\Jobs\Application\RunPracticeJob;
use App\Jobs\Application\WorkersExecutor;
use App\Jobs\Http\Requests\JobAimRequest;
use App\Jobs\Http\Requests\JobAtWorkersRequest;
use App\Jobs\Http\Requests\JobElasticRequest;
use App\Jobs\Http\Requests\PinWorkersRequest;
use App\Jobs\Http\Requests\RunJobAgainRequest;
use App\Jobs\Http\Requests\SendJobRecordRequest;
use App\Jobs\Models\JobRun;
use App\Jobs\Models\JobSeries;
use App\Ledger\Changes\Refused;
use App\Ledger\Ledger;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\Export;
use App\Platform\Support\Uploads;
use Fulcrion\Core\Scheduling\Formats\JobDocument;
use Fulcrion\Core\Scheduling\Formats\TraceEvents;
use Fulcrion\Core\Scheduling\JobModel;
use Fulcrion\Core\Scheduling\RunFacts;
use Fulcrion\Core\Scheduling\StageChange;
use Fulcrion\Core\Scheduling\TaskOrder;
use Illuminate\Container\Attributes\CurrentUser;
use Illuminate\Contracts\View\View;
use Illuminate\Http\JsonResponse;
use Illuminate\Http\RedirectResponse;
use Illuminate\Http\Request;
use Illuminate\Http\Response;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Facades\Cache;
use Illuminate\Support\Str;
use Illuminate\Validation\ValidationException;
use Symfony\Component\HttpFoundation\StreamedResponse;

/**
 * Parallel jobs: the list, one run, and what is decided about the next.
 */
final readonly class JobController
{
    public const MOST_WORKERS = 100_000;

    public function __construct(private JobRunStore $store, private JobAnalysis $analyses)
    {
    }

    public function index(Request $request): View
    {
        return view('jobs.jobs', ['list' => JobList::of($request->query->all())]);
    }

    /** The last run of a job that goes by its name. */
    public function last(string $slug, string $name): RedirectResponse
    {
        $cluster = Cluster::query()->where('slug', $slug)->firstOrFail();
        $run = JobSeries::query()->where('cluster_id', $cluster->id)->where('name', $name)->firstOrFail()->last() ?? abort(404);

        return redirect(address('job.show', $run->id));
    }

    public function show(Request $request, JobRun $run): View
    {
        $run->load(['cluster', 'series']);
        if ($request->header('HX-Target') === 'job-progress') {
            return view('jobs.job-progress', ['run' => $run, 'waiting' => $request->boolean('waiting')]);
        }
        if (! $run->isRun() || $run->tasks === 0) {
            return view('jobs.job-record', ['run' => $run]);
        }
        if ($run->analysis === null && $run->kept && $run->tasks > JobRun::AT_ONCE && ! $run->isBeingJudged()) {
            $run->update(['progress' => JobRun::JUDGED, 'heartbeat_us' => Clock::microseconds()]);
            JudgeJobRun::dispatch($run->id);
            $run->refresh();
        }
        if ($run->isBeingJudged()) {
            return view('jobs.job-record', ['run' => $run]);
        }
        $this->analyses->analyse($run);

        return view('jobs.job', ['page' => JobPage::of($run, $request->query->all())]);
    }

    /** What takes some seconds to reckon: luck, changing numbers of workers, tonight. */
    public function forecast(JobRun $run): View
    {
        $run->load(['cluster', 'series']);
        if ($run->forecast === null && $run->tasks > JobRun::AT_ONCE) {
            // Asked again and again, it is begun once.
            if (Cache::add("forecast-{$run->id}", true, 300)) {
                JudgeJobRun::dispatch($run->id, true);
                $run->refresh();
            }
            if ($run->forecast === null) {
                return view('jobs.job-forecast-wait', ['run' => $run]);
            }
        }
        $this->analyses->analyse($run);
        $this->analyses->forecast($run);

        return view('jobs.job-forecast', ['page' => JobPage::of($run, [])]);
    }

    public function elastic(JobElasticRequest $request, JobRun $run): View
    {
        $data = $request->validated();
        abort_unless($run->isRun() && $run->kept, 404);
        $elastic = $this->analyses->elasticAsked(
            $run,
            array_map(floatval(...), array_filter($data, static fn (mixed $value): bool => $value !== null)),
        );
        abort_if($elastic === null, 404);

        return view('jobs.job-elastic', ['run' => $run, 'elastic' => $elastic]);
    }

    public function marks(JobRun $run): Response
    {
        abort_unless($run->isRun() && $run->kept, 404);

        return response(Marks::of($this->store->load($run), $run->analysis['facts']['path'] ?? []), 200, [
            'Content-Type' => 'application/octet-stream',
        ]);
    }

    /** How many workers were at work when, by the record. */
    public function used(JobRun $run): JsonResponse
    {
        abort_unless($run->isRun() && $run->kept, 404);
        $recorded = $this->store->load($run);

        $round = static fn (array $levels): array => array_map(static fn (float $level): float => round($level, 2), $levels);
        $width = $recorded->graph->width($recorded->durationsUs);
        $span = max(1, $recorded->graph->spanUs($recorded->durationsUs));

        return response()->json([
            'used' => $round($recorded->used()->parts(0, max(1, $recorded->elapsedUs()), 400)),
            'width' => $round($width->parts(0, $span, 400)),
            'spanUs' => $span,
        ]);
    }

    /** Scheduled again with a number of workers: exact, with how many are at work when. */
    public function at(JobAtWorkersRequest $request, JobRun $run): JsonResponse
    {
        abort_unless($run->isRun() && $run->kept, 404);
        $data = $request->validated();
        $model = new JobModel($this->store->load($run), TaskOrder::from($data['order'] ?? 'recorded'));
        $schedule = $model->schedule((int) $data['workers']);
        $until = max($schedule->makespanUs, $run->elapsedUs());

        return response()->json([
            'workers' => (int) $data['workers'],
            'timeUs' => $schedule->makespanUs,
            'idle' => max(0.0, 1 - array_sum($model->loadedUs()) / max(1, (int) $data['workers'] * $schedule->makespanUs)),
            'untilUs' => $until,
            'used' => array_map(
                static fn (float $level): float => round($level, 2),
                $schedule->used()->parts(0, $until, (int) ($data['parts'] ?? 400)),
            ),
        ]);
    }

    public function stage(Request $request, JobRun $run, int $stage): View
    {
        abort_unless($run->isRun() && $run->kept && isset($run->stages[$stage]), 404);
        $this->analyses->analyse($run);

        return view('jobs.job-stage', [
            'page' => JobPage::of($run->load(['cluster', 'series']), []),
            'stage' => $stage,
            'tasks' => JobPage::tasks($this->store->load($run), $stage, $request->query->getString('sort', 'time')),
        ]);
    }

    public function compare(Request $request, JobRun $run): View|RedirectResponse
    {
        $run->load(['cluster', 'series']);
        $with =
            $run->series
                ?->runs()
                ->where('id', '!=', $run->id)
                ->where('kept', true)
                ->whereIn('state', ['done', 'failed'])
                ->orderByDesc('started_us')
                ->get() ?? collect();
        $other =
            $with->firstWhere('id', (int) $request->query('with')) ??
            ($with->firstWhere(static fn (JobRun $one): bool => $one->started_us < $run->started_us) ?? $with->first());
        if (! ($other instanceof JobRun) || ! $run->kept) {
            return redirect(address('job.show', $run->id))->with('failed', 'There is no other run of this job whose tasks are kept.');
        }
        [$before, $after] = [$this->store->load($other), $this->store->load($run)];

        return view('jobs.job-compare', [
            'run' => $run,
            'other' => $other,
            'with' => $with,
            'changes' => StageChange::between(RunFacts::of($before), $before->stages, RunFacts::of($after), $after->stages),
        ]);
    }

    public function export(JobRun $run, string $format): StreamedResponse
    {
        abort_unless($run->isRun() && $run->kept, 404);
        $run->load('cluster');
        $recorded = $this->store->load($run);
        $name = Str::slug($run->name).'-'.gmdate('Ymd-Hi', intdiv(max(0, $run->started_us), 1_000_000));
        if ($format === 'csv') {
            return Export::table(
                'csv',
                $name,
                (static function () use ($recorded) {
                    $columns = array_fill_keys(
                        [
                            'id',
                            'stage',
                            'after',
                            'after_stages',
                            'queued_at',
                            'started_at',
                            'ended_at',
                            'worker',
                            'attempts',
                            'state',
                            ...\Fulcrion\Core\Scheduling\Task::FIGURES,
                        ],
                        null,
                    );
                    foreach (JobDocument::tasks($recorded) as $task) {
                        yield array_map(static fn (mixed $value): mixed => is_array($value) ? implode(' ', $value) : $value, [
                            ...$columns,
                            ...$task,
                        ]);
                    }
                })(),
            );
        }
        [$open, $items, $file] =
            $format === 'trace'
                ? ['{"displayTimeUnit":"ms","traceEvents":[', TraceEvents::of($recorded), "{$name}.trace.json"]
                : [
                    substr(
                        json_encode(
                            JobDocument::head($recorded),
                            JSON_THROW_ON_ERROR | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE,
                        ),
                        0,
                        -1,
                    ).',"tasks":[',
                    JobDocument::tasks($recorded),
                    "{$name}.json",
                ];

        return response()->streamDownload(
            static function () use ($open, $items): void {
                echo $open;
                foreach ($items as $i => $item) {
                    echo($i === 0 ? "\n" : ",\n").
                        json_encode(
                            $item,
                            JSON_THROW_ON_ERROR | JSON_UNESCAPED_SLASHES | JSON_UNESCAPED_UNICODE | JSON_INVALID_UTF8_SUBSTITUTE,
                        );
                }
                echo "\n]}\n";
            },
            $file,
            ['Content-Type' => 'application/json'],
        );
    }

    public function store(
        SendJobRecordRequest $request,
        #[CurrentUser] User $user,
        RecordedJobs $recorded,
        Ledger $ledger,
    ): RedirectResponse {
        $data = $request->validated();
        $file = $request->file('file');
        assert($file instanceof UploadedFile);
        if ($file->getSize() === 0) {
            throw ValidationException::withMessages(['file' => 'The file is empty. Nothing was taken.']);
        }
        $path = Uploads::path();
        $original = mb_strcut(mb_scrub($file->getClientOriginalName()), 0, 190);
        $file->move(dirname($path), basename($path));
        $cluster = Cluster::query()->where('slug', $data['cluster'])->firstOrFail();
        assert($cluster instanceof Cluster);
        $run = $recorded->begin($cluster, $original, $path, $user->name);
        $ledger->record($user, 'uploaded a job record', $original, ['cluster' => $cluster->slug, 'run' => $run->id]);
        ReadJobRecord::dispatch($run->id, [
            'name' => ($data['name'] ?? '') === '' ? pathinfo($original, PATHINFO_FILENAME) : $data['name'],
            'workers' => isset($data['workers']) ? (int) $data['workers'] : null,
            'worker_price' => isset($data['worker_price']) ? (float) $data['worker_price'] : null,
        ]);

        return redirect(address('job.show', $run->id));
    }

    public function stop(JobRun $run): RedirectResponse
    {
        if ($run->state === 'reading') {
            $run->askToStop();
        }

        return redirect(address('job.show', $run->id));
    }

    /** Forgets a record that was refused, or a run that is of no use. */
    public function forget(#[CurrentUser] User $user, JobRun $run, Ledger $ledger): RedirectResponse
    {
        if ($run->isReading() || $run->state === 'running') {
            return redirect(address('job.show', $run->id))->with('failed', 'It is being worked on. Stop it first.');
        }
        $this->store->forget($run->id);
        $ledger->record($user, 'forgot a job run', "{$run->name}, run {$run->id}");
        $run->delete();

        return redirect(address('job.index'))->with('done', "Run {$run->id} of {$run->name} is forgotten.");
    }

    public function aim(JobAimRequest $request, #[CurrentUser] User $user, JobRun $run): RedirectResponse
    {
        $data = $request->validated();
        $series = $run->series ?? abort(404);
        $deadline = ($data['deadline'] ?? null) === null ? null : self::utc($data['deadline'], $user);
        $series->update(['aim' => $data['aim'], 'deadline' => $deadline, 'budget' => $data['budget'] ?? null]);
        // What fits is looked up anew for the last runs.
        foreach ($series->runs()->where('kept', true)->get() as $one) {
            $one->update([
                'deadline_us' => $one->started_us < 0 ? -1 : PracticeJobs::deadline($series, $one->started_us),
                'analysis' => null,
                'forecast' => null,
            ]);
        }
        $this->analyses->analyse($run->refresh());

        return redirect(address('job.show', $run->id))->with(
            'done',
            'What is wanted of '.$run->name.' is kept: '.JobSeries::AIMS[$data['aim']].'.',
        );
    }

    public function pin(PinWorkersRequest $request, #[CurrentUser] User $user, JobRun $run, WorkersExecutor $executor): RedirectResponse
    {
        $data = $request->validated();
        try {
            $change = $executor->pin($run->load(['series', 'cluster']), (int) $data['workers'], $data['reason'], $user);
        } catch (Refused $error) {
            return redirect(address('job.show', $run->id))->with('failed', $error->getMessage());
        }

        return redirect(address('job.show', $run->id)."?workers={$data['workers']}")->with(
            'done',
            "The next run gets {$data['workers']} workers. It is change {$change->id} of the ledger; the run will prove it or not.",
        );
    }

    /** Runs the job on the practice cluster now, with the number it has for its next run. */
    public function again(
        RunJobAgainRequest $request,
        #[CurrentUser] User $user,
        JobRun $run,
        PracticeJobs $jobs,
        Ledger $ledger,
    ): RedirectResponse {
        $series = $run->series;
        if ($series === null || $series->plan === null) {
            return redirect(address('job.show', $run->id))->with('failed', 'Only jobs of a practice cluster can be run from here.');
        }
        $data = $request->validated();
        $begun = $jobs->begin(
            $series,
            (int) ($data['workers'] ?? ($series->next_workers ?? $run->workers)),
            Clock::microseconds(),
            $user->name,
        );
        // By day there is no deadline of the night.
        $begun->update(['deadline_us' => $run->deadline_us < 0 ? -1 : $begun->started_us + $run->deadline_us - $run->started_us]);
        $ledger->record($user, 'ran a job', "{$series->name} with {$begun->workers} workers", ['run' => $begun->id]);
        RunPracticeJob::dispatch($begun->id, (float) config('fulcrion.jobs.watch_seconds'));

        return redirect(address('job.show', $begun->id));
    }

    private static function utc(string $time, User $user): string
    {
        [$hour, $minute] = array_map(intval(...), explode(':', $time));

        return (new \DateTimeImmutable('@'.Clock::seconds()))
            ->setTimezone($user->zone())
            ->setTime($hour, $minute)
            ->setTimezone(new \DateTimeZone('UTC'))
            ->format('H:i');
    }
}
