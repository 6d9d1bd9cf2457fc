<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Cost\Application\CostRule;
use App\Cost\Application\Prices;
use App\Estate\Models\Cluster;
use App\Jobs\Application\JobAnalysis;
use App\Jobs\Application\JobRunStore;
use App\Jobs\Application\Marks;
use App\Jobs\Application\PracticeJobs;
use App\Jobs\Application\RecordedJobs;
use App\Jobs\Application\RunPracticeJob;
use App\Jobs\Models\JobRun;
use App\Jobs\Models\JobSeries;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Ledger\Models\ProofRecord;
use App\Limits\Application\LimitBook;
use App\Limits\Application\LimitState;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\IdleRule;
use Fulcrion\Core\Cost\Price;
use Fulcrion\Core\Cost\PriceKind;
use Fulcrion\Core\Limits\Act;
use Fulcrion\Core\Limits\Limit;
use Fulcrion\Core\Limits\LimitMeasure;
use Fulcrion\Core\Limits\LimitPeriod;
use Fulcrion\Core\Limits\ScopeKind;
use Fulcrion\Core\Limits\Threshold;
use Fulcrion\Core\Usage\UsageMeasure;
use Fulcrion\Practice\Jobs\JobPlan;
use Fulcrion\Practice\Jobs\StagePlan;
use Fulcrion\Tools\Demo\NightlyJobs;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Opentelemetry\Proto\Common\V1\AnyValue;
use Opentelemetry\Proto\Common\V1\KeyValue;
use Opentelemetry\Proto\Resource\V1\Resource;
use Opentelemetry\Proto\Trace\V1\ResourceSpans;
use Opentelemetry\Proto\Trace\V1\ScopeSpans;
use Opentelemetry\Proto\Trace\V1\Span;
use Opentelemetry\Proto\Trace\V1\Span\Link;
use Opentelemetry\Proto\Trace\V1\Status;
use Opentelemetry\Proto\Trace\V1\TracesData;
use Opis\JsonSchema\Validator;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * Records of parallel jobs come in, are judged, decided on and proved.
 */
final class JobTest extends TestCase
{
    private const START = 1_763_686_800;

    public function test_a_document_is_read_judged_and_leaves_as_it_came(): void
    {
        $run = $this->import(self::document());
        self::assertSame(['done', 60, []], [$run->state, $run->tasks, $run->problems]);
        self::assertSame(0.5, $run->price);
        $this->actingAs($this->person(Role::Viewer));
        $page = $this->get("/tune/jobs/{$run->id}")
            ->assertOk()
            ->assertSee('sorting took')
            ->assertSee('Where to push')
            ->assertSee('fold f')
            ->assertDontSee('Pin the decision');
        $page->assertSee('was late by');
        $json = $this->get("/tune/jobs/{$run->id}/export/json")
            ->assertOk()
            ->streamedContent();
        $result = (new Validator())->validate(json_decode($json), (string) file_get_contents(base_path('docs/formats/job.schema.json')));
        self::assertTrue($result->isValid(), (string) json_encode($result->error()?->message()));
        // What left comes in again as the same run.
        $again = $this->import(json_decode($json, true));
        self::assertCount(1, JobRun::query()->get());
        self::assertStringContainsString('was known already', $again->problems[0]);
        self::assertSame($run->work_us, $again->work_us);
        $trace = json_decode($this->get("/tune/jobs/{$again->id}/export/trace")->streamedContent(), true);
        self::assertCount(60 + 2, $trace['traceEvents']);
        $csv = $this->get("/tune/jobs/{$again->id}/export/csv")->streamedContent();
        $path = tempnam(sys_get_temp_dir(), 'job');
        file_put_contents($path, $csv);
        self::assertSame(
            0,
            Artisan::call('jobs:import', ['file' => $path, '--cluster' => 'fernhill', '--name' => 'from-csv', '--workers' => 10]),
        );
        $fromCsv = JobRun::query()->where('name', 'from-csv')->firstOrFail();
        self::assertSame(
            [60, $again->work_us, $again->started_us + 1_000_000],
            [$fromCsv->tasks, $fromCsv->work_us, $fromCsv->started_us],
            'a table of tasks begins with its first task',
        );
        self::assertStringNotContainsString('was inferred', (string) $this->get("/tune/jobs/{$fromCsv->id}")->getContent());
        self::assertStringContainsString('worker h', (string) $this->get("/tune/jobs/{$fromCsv->id}")->getContent());
        foreach (['forecast', 'at?workers=7', 'used', 'stages/0', 'compare', 'elastic?within=2'] as $part) {
            $this->get("/tune/jobs/{$again->id}/{$part}")->assertStatus($part === 'compare' ? 302 : 200);
        }
        $at = $this->getJson("/tune/jobs/{$again->id}/at?workers=7")->json();
        $work = $again->work_us + 60 * $again->refresh()->analysis['facts']['overheadUs'];
        self::assertEqualsWithDelta(
            $work,
            (array_sum($at['used']) * $at['untilUs']) / count($at['used']),
            0.02 * $work,
            'the area at work is the work, with what workers take beside it',
        );
        $this->getJson("/tune/jobs/{$again->id}/at?workers=0")->assertStatus(422);
        $marks = Marks::of(app(JobRunStore::class)->load($again), [0]);
        $end = (int) strpos($marks, "\n") + 1;
        self::assertSame(0, $end % 4);
        self::assertSame(60 * 10 * 4, strlen($marks) - $end);
    }

    /**
     * @param  array<string, mixed>|string  $document
     */
    #[DataProvider('bad')]
    public function test_what_is_wrong_is_told_with_its_task_and_nothing_is_kept(array|string $document, string $said): void
    {
        $run = $this->import($document);
        self::assertSame('refused', $run->state);
        self::assertStringContainsString($said, implode("\n", $run->problems ?? []));
        self::assertSame(0, DB::table('job_chunks')->count() + DB::table('job_task_names')->count() + DB::table('job_series')->count());
        $this->actingAs($this->person(Role::Viewer))
            ->get("/tune/jobs/{$run->id}")
            ->assertOk()
            ->assertSee('was refused; nothing was kept');
    }

    /**
     * @return iterable<string, array{array<string, mixed>|string, string}>
     */
    public static function bad(): iterable
    {
        $task = static fn (string $id, array $more = []): array => [
            'id' => $id,
            'stage' => 's',
            'started_at' => self::START,
            'ended_at' => self::START + 5,
            ...$more,
        ];
        yield 'a circle' => [
            ['tasks' => [$task('a', ['after' => ['c']]), $task('b', ['after' => ['a']]), $task('c', ['after' => ['b']])]],
            'in a circle: ',
        ];
        yield 'a circle of stages' => [
            [
                'stages' => [['id' => 's', 'after' => ['t']], ['id' => 't', 'after' => ['s']]],
                'tasks' => [$task('a'), $task('b', ['stage' => 't'])],
            ],
            'in a circle: ',
        ];
        yield 'an unknown task' => [['tasks' => [$task('a', ['after' => ['ghost']])]], 'task a: after names a task ghost'];
        yield 'an unknown stage' => [['tasks' => [$task('a', ['after_stages' => ['ghost']])]], 'names a stage ghost'];
        yield 'an id twice' => [['tasks' => [$task('a'), $task('b'), $task('a')]], 'record 3: task a: id is that of record 1 too'];
        yield 'negative time' => [
            ['tasks' => [$task('a', ['ended_at' => self::START - 2])]],
            'task a: ended_at lies before started_at, by 2000000 µs',
        ];
        yield 'no tasks' => [['name' => 'empty', 'tasks' => []], 'tasks are none'];
        yield 'broken text' => ["{\"name\":\"x\",\n\"tasks\":[{\"id\":1,}]}", 'line 2'];
        yield 'cut off' => ['{"tasks":[{"id":"a"},', 'ends in the middle'];
        yield 'a bad head' => [['workers' => 'many', 'tasks' => [$task('a')]], 'workers is no whole number'];
        yield 'a table without ids' => ["task,stage\na,b\n", 'header: id is no column'];
        yield 'a ragged table' => ["id,stage\na,b,c\n", 'line 2: row: has 3 cells where the header has 2'];
    }

    public function test_bad_days_are_taken(): void
    {
        $task = static fn (string $id, int $from, ?int $to, array $more = []): array => [
            'id' => $id,
            'stage' => 's',
            'started_at' => self::START + $from,
            'ended_at' => $to === null ? null : self::START + $to,
            ...$more,
        ];
        $this->actingAs($this->person(Role::Engineer));
        foreach (
            [
                'one task' => [[$task('a', 0, 5)], 'took 5 s'],
                'no length' => [[$task('a', 0, 0), $task('b', 0, 0)], 'took 0 µs'],
                'all failed' => [[$task('a', 0, 5, ['state' => 'failed']), $task('b', 0, 4, ['state' => 'failed'])], 'none was done'],
                'one giant' => [
                    [
                        $task('a', 0, 500, ['bytes_read' => 1_000_000]),
                        ...array_map(static fn (int $i): array => $task("b{$i}", 0, 5, ['bytes_read' => 1000]), range(1, 20)),
                    ],
                    'The largest task of s',
                ],
                'still running' => [[$task('a', 0, 5), $task('b', 1, null)], 'is running'],
            ] as $name => [$tasks, $said]
        ) {
            $run = $this->import([
                'id' => $name,
                'name' => $name,
                'tasks' => $tasks,
                'state' => $name === 'still running' ? 'running' : ($name === 'all failed' ? 'failed' : 'done'),
            ]);
            self::assertContains($run->state, ['done', 'failed', 'running'], $name);
            self::assertStringContainsString(
                $said,
                html_entity_decode(
                    (string) $this->get("/tune/jobs/{$run->id}")
                        ->assertOk()
                        ->getContent(),
                ),
                $name,
            );
            $this->get("/tune/jobs/{$run->id}/marks")->assertOk();
        }
        $this->get('/tune/jobs')->assertOk()->assertSee('still running')->assertSee('jobs');
        // A task is retried more often than told; a stage is named but not declared.
        $run = $this->import(['name' => 'odd', 'stages' => [['id' => 't']], 'tasks' => [$task('a', 0, 5, ['attempts' => 3])]]);
        self::assertStringContainsString('stage s: is named by tasks but not declared', $run->problems[0]);
    }

    public function test_a_trace_of_the_official_library_is_read(): void
    {
        $at = static fn (int $seconds): string => (string) ((self::START + $seconds) * 1_000_000_000);
        $span = static function (int $number, int $parent, string $name, int $from, int $to, array $links = [], int $bytes = 0) use (
            $at,
        ): Span {
            $links = array_map(
                static fn (int $to): Link => new Link(['trace_id' => str_repeat("\7", 16), 'span_id' => pack('J', $to)]),
                $links,
            );

            return new Span([
                'trace_id' => str_repeat("\7", 16),
                'span_id' => pack('J', $number),
                'parent_span_id' => $parent === 0 ? '' : pack('J', $parent),
                'name' => $name,
                'start_time_unix_nano' => $at($from),
                'end_time_unix_nano' => $at($to),
                'links' => $links,
                'status' => new Status(['code' => $number === 13 ? 2 : 1]),
                'attributes' => $bytes === 0
                    ? [] : [new KeyValue(['key' => 'task.bytes_read', 'value' => new AnyValue(['int_value' => $bytes])])],
            ]);
        };
        $first = [
            $span(1, 0, 'night load', 0, 40),
            $span(2, 1, 'read', 0, 20),
            $span(3, 1, 'fold', 20, 40),
            $span(10, 2, 'part 0', 1, 12, [], 5000),
            $span(11, 2, 'part 1', 1, 20, [], 9000),
        ];
        $second = [$span(12, 3, 'fold 0', 12, 30, [10]), $span(13, 3, 'fold 1', 20, 40, [11, 10])];
        $of = static fn (string $host, array $spans): ResourceSpans => new ResourceSpans([
            'resource' => new Resource([
                'attributes' => [
                    new KeyValue(['key' => 'host.name', 'value' => new AnyValue(['string_value' => $host])]),
                    new KeyValue(['key' => 'job.workers', 'value' => new AnyValue(['int_value' => 2])]),
                ],
            ]),
            'scope_spans' => [new ScopeSpans(['spans' => $spans])],
        ]);
        $json = (new TracesData(['resource_spans' => [$of('host-a', $first), $of('host-b', $second)]]))->serializeToJsonString();
        $run = $this->import($json);
        self::assertSame(
            ['done', 'night load', 4, 2, self::START * 1_000_000, (self::START + 40) * 1_000_000, str_repeat('07', 16)],
            [$run->state, $run->name, $run->tasks, $run->workers, $run->started_us, $run->ended_us, $run->external_id],
        );
        $recorded = app(JobRunStore::class)->load($run);
        self::assertSame(['read', 'fold'], array_map(static fn ($stage): string => $stage->name, $recorded->stages));
        self::assertSame([2 => [0], 3 => [1, 0]], $recorded->table->after);
        self::assertSame(['host-a', 'host-b'], $recorded->workerNames);
        self::assertSame([5000, 9000, -1, -1], $recorded->table->figures['bytes_read']);
        self::assertSame('failed', $recorded->table->stateOf(3)->value);
        self::assertSame(39_000_000, $recorded->graph->spanUs($recorded->durationsUs));
    }

    public function test_the_record_of_a_running_job_grows_over_http_and_other_tokens_may_not(): void
    {
        $cluster = $this->cluster();
        $token = $cluster->createToken('batch', ['executions:write'])->plainTextToken;
        $send = fn (array $document) => $this->call(
            'POST',
            '/api/jobs',
            [],
            [],
            [],
            ['HTTP_AUTHORIZATION' => "Bearer {$token}", 'HTTP_ACCEPT' => 'application/json', 'CONTENT_TYPE' => 'application/json'],
            (string) gzencode((string) json_encode($document)),
        );
        $document = self::document();
        $half = ['ended_at' => null, 'state' => 'running', 'tasks' => array_slice($document['tasks'], 0, 30)] + $document;
        $first = $send($half)->assertOk()->json();
        self::assertSame(['running', 30], [$first['state'], $first['tasks']]);
        $second = $send($document)->assertOk()->json();
        self::assertSame(['done', 60], [$second['state'], $second['tasks']]);
        self::assertSame(1, JobRun::query()->count());
        $refused = $send(['name' => 'x', 'tasks' => []])
            ->assertStatus(422)
            ->json();
        self::assertStringContainsString('tasks are none', $refused['reasons'][0]);
        self::assertSame(1, JobRun::query()->count());
        $this->app->make('auth')->forgetGuards();
        $this->postJson('/api/jobs', $document)->assertStatus(401);
        $other = $cluster->createToken('reader', ['read'])->plainTextToken;
        $this->app->make('auth')->forgetGuards();
        $this->withHeader('Authorization', "Bearer {$other}")
            ->postJson('/api/jobs', $document)
            ->assertStatus(403);
    }

    #[Group('today')]
    public function test_many_tasks_are_read_in_the_memory_of_few(): void
    {
        $this->cluster();
        $peaks = [];
        // The first run loads what all of them use.
        foreach ([100, 12_000, 60_000] as $count) {
            $path = tempnam(sys_get_temp_dir(), 'job');
            $file = fopen($path, 'wb');
            assert($file !== false);
            fwrite($file, "id,stage,after,started_at,ended_at,worker\n");
            for ($i = 0; $i < $count; $i++) {
                fwrite(
                    $file,
                    "t{$i},s".
                        intdiv($i, 2000).
                        ','.
                        ($i >= 2000 ? 't'.($i - 2000) : '').
                        ','.
                        (self::START + 10 * intdiv($i, 2000)).
                        ','.
                        (self::START + 10 * intdiv($i, 2000) + 9).
                        ",w\n",
                );
            }
            fclose($file);
            config(['queue.default' => 'database']);
            memory_reset_peak_usage();
            $before = memory_get_usage();
            self::assertSame(0, Artisan::call('jobs:import', ['file' => $path, '--cluster' => 'fernhill', '--name' => "many-{$count}"]));
            $peaks[] = memory_get_peak_usage() - $before;
            unlink($path);
        }
        self::assertLessThan(2.5 * $peaks[1], $peaks[2], 'five times the tasks');
    }

    public function test_a_decision_is_set_at_once_and_proved_by_the_next_run(): void
    {
        [$series, $run] = $this->practice();
        $this->actingAs($this->person(Role::Engineer));
        $this->post("/tune/jobs/{$run->id}/pin", ['workers' => 12, 'reason' => ''])->assertSessionHasErrors('reason');
        $this->post("/tune/jobs/{$run->id}/pin", ['workers' => 12, 'reason' => 'half of them idle'])->assertRedirect(
            "/tune/jobs/{$run->id}?workers=12",
        );
        $change = Change::query()->firstOrFail();
        self::assertSame(
            ['applied', 'workers', 12, $change->id],
            [$change->state->value, $change->kind, $series->refresh()->next_workers, $series->pinned_change_id],
        );
        self::assertTrue($change->latestProof('rehearsal')?->holds);
        $this->get("/ledger/changes/{$change->id}")
            ->assertOk()
            ->assertSee('What is set')
            ->assertSee('12 workers')
            ->assertSee('half of them idle');
        self::assertNull($change->latestProof('applied'));
        $this->post("/tune/jobs/{$run->id}/again")->assertRedirect();
        $next = JobRun::query()->orderByDesc('id')->firstOrFail();
        self::assertSame(['done', 12], [$next->state, $next->workers]);
        self::assertNotNull($next->prediction_error);
        /** @var ProofRecord $proof */
        $proof = ProofRecord::query()->where('change_id', $change->id)->where('kind', 'applied')->firstOrFail();
        self::assertTrue($proof->holds, $proof->sentence);
        $this->get("/ledger/proofs/{$proof->id}")
            ->assertOk()
            ->assertSee('the prediction held')
            ->assertSee("actual: run {$next->id}");
        $this->get("/ledger/proofs/{$proof->id}/file")
            ->assertOk()
            ->assertDontSee('<script', false);
        // Another run with the same number proves nothing anew; undone, the old number is back.
        $this->post("/tune/jobs/{$next->id}/again");
        self::assertSame(1, ProofRecord::query()->where('kind', 'applied')->count());
        $this->post("/ledger/changes/{$change->id}/undo")->assertRedirect();
        self::assertSame([40, null], [$series->refresh()->next_workers, $series->pinned_change_id]);
        $this->get("/tune/jobs/{$next->id}/compare")
            ->assertOk()
            ->assertSee('Stage by stage');
    }

    public function test_what_is_wanted_decides_what_fits_and_jobs_become_findings(): void
    {
        [$series, $run] = $this->practice();
        $this->actingAs($this->person(Role::Engineer));
        $fits = [];
        foreach (
            ['cheapest' => [], 'knee' => [], 'ceiling' => [], 'deadline' => ['deadline' => '01:03'],
                'budget' => ['budget' => 0.03]] as $aim => $more
        ) {
            $this->post("/tune/jobs/{$run->id}/aim", ['aim' => $aim] + $more)->assertSessionHasNoErrors();
            $fits[$aim] = $run->refresh()->best_workers;
        }
        self::assertSame(1, $fits['cheapest']);
        self::assertGreaterThan($fits['knee'], $fits['ceiling']);
        self::assertGreaterThan($fits['cheapest'], $fits['knee']);
        self::assertNotNull($fits['budget']);
        $this->post("/tune/jobs/{$run->id}/aim", ['aim' => 'deadline', 'deadline' => ''])->assertSessionHasErrors('deadline');
        $this->post("/tune/jobs/{$run->id}/aim", ['aim' => 'knee']);
        self::assertSame(0, Artisan::call('jobs:judge'));
        $finding = Finding::query()->where('source', 'jobs')->firstOrFail();
        self::assertStringStartsWith('evening: ', $finding->problem);
        $this->get("/ledger/findings/{$finding->id}")
            ->assertOk()
            ->assertSee('Open the job');
        $this->get('/tune/jobs/of/fernhill/evening')->assertRedirect("/tune/jobs/{$run->id}");
        $this->get('/')->assertOk()->assertSee('evening');
        // With the number that fits, it is solved.
        $this->post("/tune/jobs/{$run->id}/pin", ['workers' => $fits['knee'], 'reason' => 'it fits']);
        self::assertSame('accepted', $finding->refresh()->state->value);
        $this->post("/tune/jobs/{$run->id}/again");
        self::assertSame('solved', $finding->refresh()->state->value);
    }

    public function test_a_nightly_job_runs_once_when_its_hour_has_come(): void
    {
        $this->travelTo('2026-11-24 01:05:00');
        [$series] = $this->practice();
        self::assertSame(0, Artisan::call('jobs:nightly'));
        self::assertSame(0, Artisan::call('jobs:nightly'));
        self::assertSame(
            1,
            $series
                ->runs()
                ->where('asked_by', 'the nightly plan')
                ->where('started_us', strtotime('2026-11-24 01:00:00 UTC') * 1_000_000)
                ->count(),
        );
        $this->travelBack();
    }

    public function test_a_job_whose_limit_is_used_up_is_held_and_says_why(): void
    {
        [$series, $first] = $this->practice();
        $book = app(LimitBook::class);
        $limit = new Limit(LimitMeasure::Bytes, ScopeKind::Application, 'jobs', LimitPeriod::Month, 2 * $first->input_bytes + 1, [
            new Threshold(100, Act::Hold),
        ]);
        $id = $book->add($limit, '', null, null, 'the loaders', 'Ada');
        $book->switch($id, LimitState::On);
        $run = function () use ($series): JobRun {
            $run = app(PracticeJobs::class)->begin($series, 40, Clock::microseconds(), 'somebody');
            RunPracticeJob::dispatchSync($run->id, 0.0);

            return $run->refresh();
        };
        // What is expected of a run is what the one before had; each is let in while there is room.
        $done = [$run(), $run(), $run()];
        self::assertSame(['done', 'done', 'done'], array_map(static fn (JobRun $one): string => $one->state, $done));
        $used = array_sum(array_map(static fn (JobRun $one): int => $one->input_bytes, $done));
        $counted = (array) DB::table('limit_counters')->where('limit_id', $id)->first(['settled', 'apart', 'reserved', 'running']);
        self::assertSame([0, $used, 0, 0], array_map(intval(...), array_values($counted)));
        $held = $run();
        self::assertSame('refused', $held->state);
        self::assertStringStartsWith('Held by a limit: application jobs, ', $held->problems[0] ?? '');
        self::assertSame(0, $held->tasks, 'nothing of it ran');
        $this->actingAs($this->person(Role::Engineer));
        $this->get("/tune/jobs/{$held->id}")->assertOk()->assertSee('evening was held; nothing was run')->assertSee('Ask the loaders')
            ->assertDontSee('Fix the file');
        $this->get("/meter/limits/{$id}")->assertOk()->assertSee('a job')->assertSee('loaders');
        $book->lift($id, Clock::microseconds() + 3_600_000_000, 'the night must end', 'Ada');
        self::assertSame('done', $run()->state);
    }

    public function test_reading_is_stopped_and_leaves_nothing(): void
    {
        $cluster = $this->cluster();
        $path = tempnam(sys_get_temp_dir(), 'job');
        file_put_contents($path, "id,stage\n".implode("\n", array_map(static fn (int $i): string => "t{$i},s", range(1, 9000))));
        $recorded = app(RecordedJobs::class);
        $run = $recorded->begin($cluster, 'long.csv', $path, 'somebody');
        $this->actingAs($this->person(Role::Engineer));
        $this->get("/tune/jobs/{$run->id}")
            ->assertOk()
            ->assertSee('long.csv is being read');
        $this->post("/tune/jobs/{$run->id}/stop")->assertRedirect();
        $recorded->read($run, $path, ['name' => 'long']);
        unlink($path);
        self::assertSame('stopped', $run->refresh()->state);
        self::assertSame(0, DB::table('job_chunks')->count() + DB::table('job_task_names')->count());
        $this->get("/tune/jobs/{$run->id}")
            ->assertOk()
            ->assertSee('was stopped; nothing was kept');
    }

    public function test_what_a_killed_process_left_is_ended_and_its_file_goes(): void
    {
        $cluster = $this->cluster();
        $begin = function (string $progress, int $agoUs) use ($cluster): JobRun {
            $run = app(RecordedJobs::class)->begin($cluster, 'night.json', $this->file([self::document()], 'json'), 'Engineer');
            app(JobRunStore::class)->put($run->id, 0, 0, []);
            $run->update(['progress' => $progress, 'heartbeat_us' => Clock::microseconds() - $agoUs]);

            return $run;
        };
        $dead = $begin('reading tasks: 4096', 181_000_000);
        $file = (string) $dead->path;
        $alive = $begin('reading tasks: 4096', 160_000_000);
        $queued = $begin(JobRun::QUEUED, 3_600_000_000);
        $judged = $this->import(self::document());
        $judged->update([
            'progress' => JobRun::JUDGED,
            'analysis' => null,
            'heartbeat_us' => Clock::microseconds() - 181_000_000,
        ]);
        Artisan::call('platform:recover');
        self::assertSame(
            ['refused', null, ['Its process was killed before the record was read. Send the file again.']],
            [$dead->refresh()->state, $dead->path, $dead->problems],
        );
        self::assertFileDoesNotExist($file);
        self::assertSame([$alive->id, $queued->id], JobRun::query()->where('state', 'reading')->orderBy('id')->pluck('id')->all());
        self::assertFileExists((string) $alive->path);
        self::assertSame(0, DB::table('job_chunks')->where('run_id', $dead->id)->count());
        self::assertSame(1, DB::table('job_chunks')->where('run_id', $alive->id)->count());
        self::assertSame('', $judged->refresh()->progress);
        self::assertNotNull($judged->analysis);
    }

    public function test_a_run_costs_what_the_price_book_says_a_worker_costs_then(): void
    {
        [$series] = $this->practice();
        $jobs = app(PracticeJobs::class);
        $at = self::START * 1_000_000 + 86_400_000_000 * 400;
        $before = $jobs->begin($series, 6, $at, 'somebody');
        // No price book: as the run before it.
        self::assertSame([$series->last()?->price, $series->last()->currency ?? ''], [$before->price, $before->currency]);
        $prices = app(Prices::class);
        $price = static fn (string $amount, int $from): Price => new Price(
            PriceKind::WorkerHour, '', BigDecimal::of($amount), $from, BigDecimal::one(), BigDecimal::zero(),
        );
        $prices->add($series->cluster, $price('0.75', 1_000), 'x');
        $prices->add($series->cluster, $price('9', Clock::seconds() + 86_400), 'x');
        $prices->setRule($series->cluster, new CostRule('CHF', UsageMeasure::InFlight, IdleRule::OwnLine));
        $this->app->forgetScopedInstances();
        $run = app(PracticeJobs::class)->begin($series, 6, $at + 1, 'somebody');
        self::assertSame([0.75, 'CHF'], [$run->price, $run->currency]);
        $run->forceFill(['ended_us' => $run->started_us + 2 * 3_600_000_000, 'state' => 'done']);
        self::assertSame(9.0, $run->cost());
    }

    public function test_a_run_somebody_asked_for_can_be_watched_while_it_grows(): void
    {
        [$series] = $this->practice();
        $seen = [];
        JobRun::saved(static function (JobRun $run) use (&$seen): void {
            if (str_contains($run->progress, 'tasks done')) {
                $table = app(JobRunStore::class)->load($run->refresh())->table;
                $seen[] = [
                    $table->count(),
                    count(array_filter($table->ended, static fn (int $ended): bool => $ended >= 0)),
                    count(array_filter($table->started, static fn (int $started): bool => $started >= 0)),
                    $run->done_share,
                ];
            }
        });
        $jobs = app(PracticeJobs::class);
        $run = $jobs->begin($series, 6, self::START * 1_000_000 + 86_400_000_000 * 400, 'somebody');
        $jobs->run($run, 8, null, null, 1.4);
        JobRun::flushEventListeners();
        // Whoever looked while it ran, by what was known then, leaves nothing that outlives the end.
        $then = JobRun::query()->findOrFail($run->id);
        $then->forceFill(['state' => 'running', 'analysis' => null])->syncOriginal();
        app(JobAnalysis::class)->analyse($then);
        self::assertArrayHasKey('points', $run->refresh()->analysis ?? []);
        self::assertGreaterThanOrEqual(3, count($seen));
        foreach ($seen as $i => [$tasks, $ended, $started, $share]) {
            self::assertSame(80, $tasks);
            self::assertLessThanOrEqual(6, $started - $ended, 'no more run at once than there are workers');
            self::assertGreaterThanOrEqual($seen[max(0, $i - 1)][1], $ended);
            self::assertLessThan(1.0, $share);
        }
        self::assertLessThan(80, $seen[0][1]);
        self::assertSame(['done', ''], [$run->refresh()->state, $run->progress]);
    }

    public function test_the_list_is_empty_then_sorted_and_parted_by_cluster(): void
    {
        $this->actingAs($this->person(Role::Viewer));
        $this->get('/tune/jobs')->assertOk()->assertSee('No run of a parallel job is known yet')->assertSee('POST /api/jobs');
        $this->practice();
        $other = $this->cluster('wren');
        foreach (['aaa' => 40, 'zzz' => 400] as $name => $long) {
            $path = tempnam(sys_get_temp_dir(), 'job').'.gz';
            file_put_contents(
                $path,
                gzencode(
                    (string) json_encode([
                        'name' => $name,
                        'workers' => 4,
                        'worker_price' => 9.0,
                        'tasks' => [['id' => 'x', 'stage' => 's', 'started_at' => self::START, 'ended_at' => self::START + $long]],
                    ]),
                ),
            );
            self::assertSame(0, Artisan::call('jobs:import', ['file' => $path, '--cluster' => 'wren']));
            unlink($path);
        }
        $order = function (string $query): array {
            preg_match_all(
                '~<td><a class="nowrap" href="/tune/jobs/\d+">([^<]+)</a>~',
                (string) $this->get("/tune/jobs{$query}")
                    ->assertOk()
                    ->getContent(),
                $names,
            );

            return $names[1];
        };
        self::assertSame(['zzz', 'aaa', 'evening'], $order(''), 'four workers for one task: three of them for nothing');
        self::assertSame(['aaa', 'evening', 'zzz'], $order('?sort=name'));
        self::assertSame(['zzz', 'aaa', 'evening'], $order('?sort=cost'));
        self::assertSame(['evening'], $order('?cluster=fernhill'));
        self::assertSame(['zzz', 'aaa'], $order("?cluster={$other->slug}&sort=nonsense"));
        $this->get('/tune/jobs/of/wren/nobody')->assertNotFound();
        $this->get('/tune/jobs/999999')->assertNotFound();
        self::assertSame(1, Artisan::call('jobs:import', ['file' => '/nowhere', '--cluster' => 'wren']));
        self::assertSame(2, Artisan::call('jobs:import', ['file' => '/nowhere', '--cluster' => 'nowhere']));
        self::assertSame(2, Artisan::call('jobs:import', ['file' => '/nowhere', '--cluster' => 'wren', '--workers' => 'many']));
    }

    public function test_tasks_of_old_runs_go_and_their_figures_stay(): void
    {
        [$series, $first] = $this->practice();
        $jobs = app(PracticeJobs::class);
        for ($night = 1; $night <= 8; $night++) {
            $jobs->run($jobs->begin($series, 40, $first->started_us + $night * 86_400_000_000, 'test'), 50 + $night, 1.0, null, 0.0, false);
        }
        self::assertSame(0, Artisan::call('jobs:judge'));
        self::assertFalse($first->refresh()->kept);
        self::assertSame(8, JobRun::query()->where('kept', true)->count());
        self::assertSame(0, DB::table('job_chunks')->where('run_id', $first->id)->count());
        $this->actingAs($this->person(Role::Engineer))
            ->get("/tune/jobs/{$first->id}")
            ->assertOk()
            ->assertSee('The tasks of this run are not kept any more')
            ->assertSee('Its runs');
        $this->get("/tune/jobs/{$first->id}/marks")->assertNotFound();
        $this->post("/tune/jobs/{$first->id}/pin", ['workers' => 5, 'reason' => 'r'])->assertSessionHas('failed');
        self::assertSame(0, Change::query()->count());
        // Each was foretold by the one before it.
        foreach ($series->runs()->where('id', '!=', $first->id)->get() as $run) {
            self::assertLessThan(0.25, abs((float) $run->prediction_error));
        }
        $this->get('/tune/jobs/'.$series->last()?->id.'/forecast')
            ->assertOk()
            ->assertSee('The next run')
            ->assertSee('in four weeks');
    }

    public function test_who_may_do_what(): void
    {
        [, $run] = $this->practice();
        foreach ([Role::Viewer, Role::Steward] as $role) {
            $this->actingAs($this->person($role));
            foreach (['/tune/jobs', "/tune/jobs/{$run->id}", "/tune/jobs/{$run->id}/marks"] as $page) {
                $this->get($page)->assertOk();
            }
            foreach (['', "/{$run->id}/pin", "/{$run->id}/again", "/{$run->id}/aim", "/{$run->id}/forget", "/{$run->id}/stop"] as $act) {
                $this->post("/tune/jobs{$act}")->assertForbidden();
            }
        }
        $this->actingAs($this->person(Role::Engineer));
        $this->post('/tune/jobs', [
            'cluster' => 'fernhill',
            'file' => UploadedFile::fake()->createWithContent('tiny.json', (string) json_encode(self::document())),
        ])->assertRedirect();
        self::assertSame(1, JobRun::query()->where('name', 'sorting')->where('state', 'done')->count());
        $this->post('/tune/jobs', [
            'cluster' => 'fernhill',
            'file' => UploadedFile::fake()->createWithContent('empty.json', ''),
        ])->assertSessionHasErrors('file');
        $this->post("/tune/jobs/{$run->id}/forget")->assertRedirect('/tune/jobs');
        self::assertNull(JobRun::query()->find($run->id));
        self::assertSame(0, DB::table('job_chunks')->where('run_id', $run->id)->count());
    }

    /**
     * @return array{JobSeries, JobRun}
     */
    private function practice(): array
    {
        config(['fulcrion.jobs.watch_seconds' => 0.0]);
        $cluster = Cluster::query()->create([
            'slug' => 'fernhill',
            'name' => 'Fernhill',
            'role' => 'production',
            'connector' => 'practice',
            'dialect' => 'ansi',
        ]);
        $plan = new JobPlan(
            'evening',
            "r = read x\nf = fold r",
            [
                new StagePlan('read', 'read', 60, [], 100.0, 60.0, 200.0, 0.2, 0.0, 0.3, 9000, 4096.0, '', [1, 1]),
                new StagePlan('fold', 'fold', 20, ['read' => 'all'], 80.0, 60.0, 200.0, 0.2, 0.0, 0.3, 9000, 4096.0, '', [2, 2]),
            ],
            2000.0,
            80.0,
            0.08,
            0.0,
            0.0,
        );
        $series = JobSeries::query()
            ->create([
                'cluster_id' => $cluster->id,
                'name' => 'evening',
                'aim' => 'knee',
                'runs_at' => '01:00',
                'next_workers' => 40,
                'plan' => $plan->toArray(),
            ])
            ->refresh();
        $jobs = app(PracticeJobs::class);
        $run = $jobs->begin($series, 40, (Clock::seconds() - (Clock::seconds() % 86_400) - 86_400 + 3600) * 1_000_000, 'test');
        $run->update(['price' => NightlyJobs::PRICE]);
        $jobs->run($run, 5);

        return [$series, $run->refresh()];
    }

    /**
     * @param  array<string, mixed>|string  $document
     */
    private function import(array|string $document): JobRun
    {
        if (! Cluster::query()->where('slug', 'fernhill')->exists()) {
            $this->cluster();
        }
        $path = tempnam(sys_get_temp_dir(), 'job');
        file_put_contents($path, is_string($document) ? $document : json_encode($document));
        Artisan::call('jobs:import', ['file' => $path, '--cluster' => 'fernhill']);
        unlink($path);

        /** @var JobRun $run */
        $run = JobRun::query()->orderByDesc('id')->firstOrFail();

        return $run;
    }

    /**
     * @return array<string, mixed>
     */
    private static function document(): array
    {
        $tasks = [];
        for ($i = 0; $i < 40; $i++) {
            $tasks[] = [
                'id' => "r{$i}",
                'stage' => 'read',
                'started_at' => self::START + 1 + 12 * intdiv($i, 10),
                'ended_at' => self::START + 11 + 12 * intdiv($i, 10) + ($i % 3),
                'worker' => 'h'.$i % 10 .'-1',
                'bytes_read' => 1_000_000 + 1000 * $i,
                'attempts' => $i === 5 ? 2 : 1,
            ];
        }
        for ($i = 0; $i < 20; $i++) {
            $tasks[] = [
                'id' => "f{$i}",
                'stage' => 'fold',
                'after' => ["r{$i}", 'r'.(20 + $i)],
                'started_at' => self::START + 52 + 11 * intdiv($i, 10),
                'ended_at' => self::START + 62 + 11 * intdiv($i, 10),
                'worker' => 'h'.$i % 10 .'-1',
                'bytes_read' => 500_000,
            ];
        }

        return [
            'id' => 'run 7',
            'name' => 'sorting',
            'owner' => 'loaders',
            'started_at' => self::START,
            'ended_at' => self::START + 80,
            'deadline_at' => self::START + 60,
            'workers' => 10,
            'worker_price' => 0.5,
            'currency' => 'EUR',
            'script' => "r = read x\nf = fold r",
            'stages' => [
                ['id' => 'read', 'name' => 'read r', 'lines' => [1, 1]],
                ['id' => 'fold', 'name' => 'fold f', 'after' => ['read'], 'lines' => [2, 2]],
            ],
            'tasks' => $tasks,
        ];
    }
}
