<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\PracticeClusters;
use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use App\Workbench\Application\RunStatements;
use Fulcrion\Core\Parquet\ParquetReader;
use Fulcrion\Core\Parquet\StringSource;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Warehouse;
use Illuminate\Contracts\Queue\ShouldBeEncrypted;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\File;
use Illuminate\Support\Facades\Queue;
use Illuminate\Support\Str;
use Illuminate\Testing\TestResponse;
use PHPUnit\Framework\Attributes\TestWith;
use Tests\TestCase;

final class WorkbenchTest extends TestCase
{
    private Cluster $practice;

    private Warehouse $warehouse;

    protected function setUp(): void
    {
        parent::setUp();
        config(['fulcrion.practice' => sys_get_temp_dir().'/fulcrion-practice-'.bin2hex(random_bytes(4))]);
        $this->practice = Cluster::query()->create([
            'slug' => 'wren',
            'name' => 'Wren',
            'role' => 'rehearsal',
            'connector' => 'practice',
            'dialect' => Dialect::Ansi,
        ]);
        mkdir((string) config('fulcrion.practice'));
        $this->warehouse = Warehouse::create(PracticeClusters::root('wren'), 'Wren', 3, new HardwareProfile());
        $this->warehouse->createSchema('field');
        $this->actingAs($this->person(Role::Engineer));
        $this->send(
            'CREATE TABLE field.pick (id bigint, crew text, kilos decimal(8, 2)) PLACED BY (id); INSERT INTO field.pick VALUES (1, '
                ."'=Ada', 2.50), (2, 'Bren', NULL), (3, 'Cole', 4)",
            ['which' => 'all'],
        )->assertOk();
    }

    protected function tearDown(): void
    {
        $this->warehouse->destroy();
        @rmdir((string) config('fulcrion.practice'));
        parent::tearDown();
    }

    public function test_a_statement_is_run_kept_in_the_history_and_counted_like_any_execution(): void
    {
        $before = $this->executions();
        $key = (string) Str::uuid();
        $this->send('SELECT crew, kilos FROM pick ORDER BY id', ['key' => $key])
            ->assertOk()
            ->assertSee('3 rows')
            ->assertSee('decimal(8, 2)')
            ->assertSee('NULL')
            ->assertSee('measured');
        self::assertSame($before + 1, $this->executions());
        $fingerprint = (new Fingerprinter())->of('SELECT crew, kilos FROM pick ORDER BY id')->id;
        self::assertSame(1, DB::table('statements')->where('fingerprint', $fingerprint)->count());
        $run = DB::table('workbench_runs')->where('key', $key)->first();
        self::assertSame(['done', 3, $fingerprint], [$run->state, $run->row_count, $run->statement]);
        self::assertStringNotContainsString('crew', $run->sealed_sql);
        $this->get('/tune/workbench/history?words=kilos+crew')->assertOk()->assertSee('SELECT crew, kilos');
        $this->get('/tune/workbench/history?words=nowhere')->assertSee('Nothing you ran has these words');
        $this->get("/tune/workbench?cluster=wren&run={$key}")->assertSee('SELECT crew, kilos FROM pick');
    }

    public function test_the_statement_under_the_cursor_is_run_or_all_up_to_the_first_mistake(): void
    {
        $script = "SELECT 'é' AS one;\nSELECT 2 AS two;\nSELECT 3 AS three";
        $this->send($script, ['at' => 25])
            ->assertSee('two')
            ->assertDontSee('three');
        $this->send($script, ['at' => 3])
            ->assertSee('one')
            ->assertDontSee('two');
        // A form ends lines with two characters, and the editor counts a character beyond the first plane as two.
        $this->send("SELECT '\u{1F331}\u{1F331}' AS one;\r\n\r\n\r\nSELECT 2 AS two", ['at' => 23])->assertSee('one');
        $this->send("SELECT '\u{1F331}\u{1F331}' AS one;\r\n\r\n\r\nSELECT 2 AS two", ['at' => 25])->assertSee('two');
        $this->send("SELECT '\u{1F331}' AS a,\r\n  nowhere FROM pick")->assertSee('data-mistake-at="20"', false);
        $this->send('SELECT 1 AS first; SELECT nowhere; SELECT 3 AS third', ['which' => 'all'])
            ->assertSee('first')
            ->assertSee('There is no column nowhere here')
            ->assertDontSee('third')
            ->assertSee('those behind it were not');
        $this->send("SELECT 1,\n  FROM pick")->assertSee('Line 2, column 3: expected a value')->assertSee('^');
        $this->send(' ; ')->assertStatus(422);
        $this->send('SELECT 1', ['mode' => 'dance'])->assertStatus(302);
    }

    #[TestWith(['csv', "crew,kilos\n'=Ada,2.50\nBren,\nCole,4.00\n"])]
    #[
        TestWith([
            'json',
            "[\n    {\n        \"crew\": \"=Ada\",\n        \"kilos\": \"2.50\"\n    },\n    {\n        \"crew\": \"Bren\",\n        "
                ."\"kilos\": null\n    },\n    {\n        \"crew\": \"Cole\",\n        \"kilos\": \"4.00\"\n    }\n]\n",
        ]),
    ]
    public function test_a_result_is_taken_away_as_a_file(string $format, string $body): void
    {
        $key = (string) Str::uuid();
        $this->send('SELECT crew, kilos FROM pick ORDER BY id', ['key' => $key]);
        self::assertSame(
            $body,
            $this->get("/tune/workbench/runs/{$key}/result/{$format}")
                ->assertOk()
                ->getContent(),
        );
        $parquet = ParquetReader::open(
            new StringSource(
                (string) $this->get("/tune/workbench/runs/{$key}/result/parquet")
                    ->assertOk()
                    ->getContent(),
            ),
        );
        self::assertSame([['=Ada', 'Bren', 'Cole'], [250, null, 400]], [$parquet->readAll('crew'), $parquet->readAll('kilos')]);
        self::assertSame(2, DB::table('ledger_entries')->where('act', 'took a result away')->count());
        $this->actingAs($this->person(Role::Owner))
            ->get("/tune/workbench/runs/{$key}/result/csv")
            ->assertNotFound();
    }

    public function test_a_plan_is_kept_looked_at_compared_and_taken_away(): void
    {
        $this->send("SELECT crew FROM pick WHERE crew = 'Cole'", ['mode' => 'explain'])
            ->assertOk()
            ->assertSee('was not run');
        $this->send("SELECT crew FROM pick WHERE crew = 'Bren'", ['mode' => 'actual'])
            ->assertOk()
            ->assertSee('modelled');
        self::assertSame(1, DB::table('plans')->count());
        $id = (int) DB::table('plans')->value('id');
        $this->get("/tune/plans/{$id}")
            ->assertOk()
            ->assertDontSee('Bren')
            ->assertSee('Read field.pick')
            ->assertSee('Reveal literals');
        $this->post("/tune/plans/{$id}/reveal")->assertRedirect("/tune/plans/{$id}");
        self::assertSame(
            1,
            DB::table('ledger_entries')->where('act', 'revealed literals')->count(),
            'that they were revealed is written down',
        );
        $this->get("/tune/plans/{$id}")
            ->assertOk()
            ->assertSee('crew = &#039;Bren&#039;', false);
        self::assertSame(
            'fulcrion-plan/1',
            $this->get("/tune/plans/{$id}/json")
                ->assertOk()
                ->json('format'),
        );
        $this->get("/tune/plans/{$id}/svg")
            ->assertOk()
            ->assertSee('<svg', false);
        $other = (string) preg_replace(
            '~"kind": "gather"~',
            '"kind": "other"',
            (string) $this->get("/tune/plans/{$id}/json")->getContent(),
        );
        $this->post('/tune/plans', ['cluster' => 'wren', 'json' => $other])->assertRedirect('/tune/plans/'.($id + 1));
        $this->get("/tune/plans/compare?first={$id}&second=".($id + 1))
            ->assertOk()
            ->assertSee('2 steps differ')
            ->assertSee('first only');
        $this->post('/tune/plans', ['cluster' => 'wren', 'json' => '{"a": 1}'])->assertSessionHasErrors('file');
        $this->post('/tune/plans', ['cluster' => 'wren'])->assertSessionHasErrors('file');
        // Who may not reveal sees no literals of the statement, in no form.
        $this->flushSession();
        $this->actingAs($this->person(Role::Viewer));
        $this->post("/tune/plans/{$id}/reveal")->assertForbidden();
        foreach (['', '/json', '/svg'] as $form) {
            $this->get("/tune/plans/{$id}{$form}")
                ->assertOk()
                ->assertDontSee('Bren');
        }
    }

    public function test_nothing_that_changes_tables_is_run_for_its_figures(): void
    {
        foreach (['DELETE FROM pick', 'INSERT INTO pick SELECT * FROM pick', 'EXPLAIN ANALYZE DELETE FROM pick'] as $sql) {
            $this->send($sql, ['mode' => 'actual'])->assertSee('Only queries are run for their figures');
        }
        $this->send('EXPLAIN ANALYZE DELETE FROM pick')->assertSee('Only queries are run for their figures');
        $this->send('INSERT INTO pick SELECT * FROM pick', ['mode' => 'explain'])->assertSee('was not run');
        $this->send('SELECT count(*) AS n FROM pick')->assertSee('<td class="n mono">3</td>', false);
    }

    public function test_a_run_waits_for_a_worker_and_its_outcome_is_for_whoever_sent_it(): void
    {
        $queue = Queue::fake();
        $key = (string) Str::uuid();
        $this->send("SELECT 'Wrenhide' AS word", ['key' => $key])
            ->assertStatus(202)
            ->assertExactJson(['state' => 'waiting']);
        $this->get("/tune/workbench/runs/{$key}")->assertStatus(202);
        $job = $queue->pushed(RunStatements::class)->sole();
        self::assertInstanceOf(RunStatements::class, $job);
        self::assertSame(RunStatements::QUEUE, $job->queue);
        self::assertContains(ShouldBeEncrypted::class, (array) class_implements($job), 'texts do not lie open in the queue');
        app()->call($job->handle(...));
        $this->get("/tune/workbench/runs/{$key}")
            ->assertOk()
            ->assertSee('Wrenhide')
            ->assertHeader('Cache-Control', 'no-store, private');
        $this->actingAs($this->person(Role::Owner))
            ->get("/tune/workbench/runs/{$key}")
            ->assertNotFound();
        foreach (File::glob(storage_path('app/runs/*')) as $file) {
            self::assertStringNotContainsString('Wrenhide', (string) file_get_contents($file));
        }
    }

    public function test_a_run_that_is_stopped_before_it_begins_never_begins(): void
    {
        $queue = Queue::fake();
        $key = (string) Str::uuid();
        $this->send('CREATE TABLE field.late (n bigint)', ['key' => $key])->assertStatus(202);
        $this->post("/tune/workbench/runs/{$key}/stop")->assertExactJson(['asked' => true]);
        app()->call($queue->pushed(RunStatements::class)->sole()->handle(...));
        $this->get("/tune/workbench/runs/{$key}")
            ->assertOk()
            ->assertSee('Stopped before it began.');
        self::assertSame('stopped', DB::table('workbench_runs')->where('key', $key)->value('state'));
        $this->send('SELECT n FROM field.late', ['key' => ($other = (string) Str::uuid())])->assertStatus(202);
        $queue->pushed(RunStatements::class)->last()->failed(null);
        $this->get("/tune/workbench/runs/{$other}")
            ->assertOk()
            ->assertSee('The run broke off.');
    }

    public function test_an_editor_is_told_the_names_its_reader_may_see(): void
    {
        $this->get('/tune/catalog/words?cluster=nowhere')->assertNotFound();
        $this->get('/tune/catalog/words')->assertNotFound();
        $this->get('/tune/catalog/words?cluster[]=wren')->assertStatus(400);
        $words = $this->get('/tune/catalog/words?cluster=wren')
            ->assertOk()
            ->assertHeader('Cache-Control', 'max-age=60, private')
            ->json();
        self::assertSame('table', $words['tables']['field.pick']['kind']);
        self::assertContains(['kilos', 'decimal(8, 2)'], $words['tables']['field.pick']['columns']);
        self::assertContains('SELECT', $words['keywords']);
        self::assertContains('date_trunc', $words['functions']);
        $page = $this->get('/tune/workbench?cluster=wren')->assertOk();
        $policy = (string) $page->headers->get('Content-Security-Policy');
        self::assertSame(1, preg_match("~style-src 'self' 'nonce-([0-9a-f]{32})';~", $policy, $nonce));
        $page->assertSee("data-nonce=\"{$nonce[1]}\"", false);
        self::assertStringContainsString(
            "style-src 'self';",
            (string) $this->get('/tune/catalog')->headers->get('Content-Security-Policy'),
            'a page without an editor has none',
        );
    }

    public function test_an_outcome_is_waited_for_while_further_statements_run_and_shortly_after_and_no_longer(): void
    {
        $cluster = Cluster::query()->where('connector', 'practice')->firstOrFail();
        $me = $this->person(Role::Engineer);
        $nowUs = Clock::microseconds();
        $run = static fn (string $state, int $startedUs, int $elapsedUs): string => tap(
            (string) Str::uuid(),
            static fn (string $key) => DB::table('workbench_runs')->insert([
                'key' => $key,
                'user_id' => $me->id,
                'cluster_id' => $cluster->id,
                'schema' => 'field',
                'mode' => 'run',
                'state' => $state,
                'statement' => str_repeat('0', 32),
                'sealed_sql' => '',
                'started_us' => $startedUs,
                'elapsed_us' => $elapsedUs,
                'heartbeat_us' => $nowUs,
            ]),
        );
        $first = $run('done', $nowUs - 120_000_000, 2_000_000);
        $second = $run('running', $nowUs - 118_000_000, 0);
        $ask = fn (string $key) => $this->actingAs($me)->get("/tune/workbench/runs/{$key}");
        $ask($first)->assertStatus(202)->assertJson(['state' => 'running']);
        DB::table('workbench_runs')
            ->where('key', $second)
            ->update(['state' => 'failed', 'elapsed_us' => 110_000_000]);
        $ask($first)->assertStatus(202);
        $ask($second)->assertStatus(202);
        DB::table('workbench_runs')
            ->where('key', $second)
            ->update(['elapsed_us' => 100_000_000]);
        $ask($first)
            ->assertOk()
            ->assertSee('The run broke off.');
        $ask($second)->assertOk();
        $this->actingAs($this->person(Role::Owner))
            ->get("/tune/workbench/runs/{$first}")
            ->assertNotFound();
    }

    public function test_a_run_can_be_stopped_by_its_own_person_only(): void
    {
        DB::table('workbench_runs')->insert([
            'key' => ($key = (string) Str::uuid()),
            'user_id' => $this->person(Role::Engineer)->id,
            'cluster_id' => $this->practice->id,
            'mode' => 'run',
            'state' => 'running',
            'statement' => str_repeat('0', 32),
            'sealed_sql' => '',
            'started_us' => 1,
        ]);
        $this->actingAs($this->person(Role::Owner))
            ->post("/tune/workbench/runs/{$key}/stop")
            ->assertExactJson(['asked' => false]);
        $this->actingAs($this->person(Role::Engineer))
            ->post("/tune/workbench/runs/{$key}/stop")
            ->assertExactJson(['asked' => true]);
    }

    public function test_a_live_server_only_takes_reads(): void
    {
        $this->live();
        $this->send('SELECT text FROM statements LIMIT 1', ['cluster' => 'live', 'schema' => 'fulcrion_test'])
            ->assertOk()
            ->assertSee('1 row');
        foreach (
            [
                'DELETE FROM statements',
                'SELECT 1 INTO OUTFILE \'/tmp/x\'',
                'SELECT 1; DROP TABLE statements',
                '/*! DROP TABLE statements */',
                "SELECT LOAD_FILE('/etc/passwd')",
                'SET GLOBAL x = 1',
            ] as $sql
        ) {
            $this->send($sql, ['cluster' => 'live', 'schema' => 'fulcrion_test', 'which' => 'all', 'at' => 0])->assertDontSee('Done.');
        }
        self::assertGreaterThan(0, DB::table('statements')->count());
        self::assertGreaterThanOrEqual(7, DB::table('ledger_entries')->where('act', 'ran a read on a live server')->count());
        $this->send('SELECT s.fingerprint FROM statements s JOIN load_day l ON l.statement_id = s.id', [
            'cluster' => 'live',
            'schema' => 'fulcrion_test',
            'mode' => 'actual',
        ])->assertOk();
        $plan = (int) DB::table('plans')->where('engine', 'mariadb')->value('id');
        $this->get("/tune/plans/{$plan}")
            ->assertOk()
            ->assertSee('measured')
            ->assertSee('Rows and bytes are counted');
        $this->get('/tune/catalog?cluster=live')->assertOk()->assertSee('fulcrion_test.statements');
    }

    public function test_a_statement_of_a_live_server_gets_its_plan_with_the_values_of_its_sample(): void
    {
        // Samples are kept for some weeks after they were taken.
        $this->travelTo('2026-11-24 12:00:00 UTC');
        $this->live();
        $cluster = Cluster::query()->where('slug', 'live')->firstOrFail();
        $token = $cluster->createToken('t', ['executions:write'])->plainTextToken;
        $sql = "SELECT s.text FROM statements s WHERE s.kind = 'read' AND s.id < ?";
        $this->withToken($token)
            ->call(
                'POST',
                '/api/executions',
                [],
                [],
                [],
                ['HTTP_AUTHORIZATION' => "Bearer {$token}", 'CONTENT_TYPE' => 'application/x-ndjson'],
                json_encode([
                    'started_at' => '2026-11-23T06:00:00Z',
                    'duration_us' => 900,
                    'sql' => $sql,
                    'database' => 'fulcrion_test',
                    'binds' => [777],
                ])."\n",
            )
            ->assertSuccessful();
        $this->actingAs($this->person(Role::Engineer));
        $fingerprint = (string) DB::table('statements')->where('text', 'like', '%s.kind%')->value('fingerprint');
        $this->post("/tune/statements/{$fingerprint}/plan", ['cluster' => 'live', 'mode' => 'actual'])->assertRedirectContains(
            '/tune/plans/',
        );
        $id = (int) DB::table('plans')->where('statement', $fingerprint)->value('id');
        $this->post("/tune/plans/{$id}/reveal");
        $this->get("/tune/plans/{$id}")->assertSee('777');
        $this->get("/tune/statements/{$fingerprint}?cluster=live&window=2026-11-23")
            ->assertOk()
            ->assertSee('went by one plan.');
        $this->get("/tune/workbench?statement={$fingerprint}&of=live")->assertSee('s.id &lt; 777', false);
    }

    public function test_a_file_is_put_into_the_inbox_and_copied_from_there_only(): void
    {
        $this->post('/tune/workbench/inbox', [
            'cluster' => 'wren',
            'file' => UploadedFile::fake()->createWithContent('../more picks.csv', "id,crew,kilos\n9,Dara,7.25\n"),
        ])->assertRedirectContains('more_picks.csv');
        $this->send("COPY pick FROM 'inbox/more_picks.csv'")->assertSee('1 rows copied');
        $this->send('SELECT kilos FROM pick WHERE id = 9')->assertSee('7.25');
        $this->post('/tune/workbench/inbox', [
            'cluster' => 'wren',
            'file' => UploadedFile::fake()->createWithContent('run.php', '<?php'),
        ])->assertSessionHasErrors('file');
        $this->send("COPY pick FROM '/etc/passwd'")->assertSee('There is no file /etc/passwd in the inbox');
    }

    public function test_old_versions_of_practice_tables_expire(): void
    {
        $table = $this->warehouse->table('field', 'pick') ?? self::fail();
        self::assertCount(2, $table->versions());
        Artisan::call('telemetry:prune');
        self::assertCount(2, $table->versions(), 'young ones stay');
        $old = (string) json_encode(
            ['writtenUs' => 1] + (array) json_decode((string) file_get_contents("{$table->directory}/v00000001.json"), true),
        );
        file_put_contents("{$table->directory}/v00000001.json", $old);
        Artisan::call('telemetry:prune');
        self::assertCount(1, $table->versions());
        $this->send('SELECT count(*) FROM pick')->assertSee('3');
    }

    public function test_results_are_forgotten_and_lost_runs_closed(): void
    {
        $key = (string) Str::uuid();
        $this->send('SELECT 1', ['key' => $key]);
        DB::table('workbench_runs')
            ->where('key', $key)
            ->update(['state' => 'running', 'started_us' => 1_000_000, 'heartbeat_us' => 1_000_000]);
        DB::table('workbench_runs')->insert(
            [
                'id' => null,
                'key' => (string) Str::uuid(),
                'started_us' => (time() - 3600) * 1_000_000,
                'heartbeat_us' => (time() - 130) * 1_000_000,
            ] +
                (array) DB::table('workbench_runs')->where('key', $key)->first(),
        );
        Artisan::call('platform:recover');
        Artisan::call('workbench:prune');
        self::assertSame(
            [0, 1],
            [DB::table('workbench_runs')->where('key', $key)->count(), DB::table('workbench_runs')->where('state', 'lost')->count()],
        );
    }

    public function test_only_engineers_and_owners_run_statements(): void
    {
        foreach ([Role::Viewer, Role::Steward] as $role) {
            $this->actingAs($this->person($role));
            $this->get('/tune/workbench')->assertForbidden();
            $this->get('/tune/workbench/history')->assertForbidden();
            $this->send('SELECT 1')->assertForbidden();
            $this->post('/tune/plans', ['cluster' => 'wren', 'json' => '{}'])->assertForbidden();
            $this->post('/tune/statements/'.str_repeat('0', 32).'/plan', ['cluster' => 'wren', 'mode' => 'actual'])->assertForbidden();
            $this->get('/tune/catalog?cluster=wren')->assertOk()->assertSee('field.pick');
        }
        $this->app['auth']->forgetGuards();
        $this->get('/tune/plans')->assertRedirect('/sign-in');
        $this->get('/tune/catalog')->assertRedirect('/sign-in');
    }

    public function test_the_catalog_tells_what_a_cluster_holds_or_why_it_cannot(): void
    {
        $this->get('/tune/catalog?cluster=wren')
            ->assertOk()
            ->assertSee('Wren holds 1 tables and views')
            ->assertSee('by id')
            ->assertSee('never collected');
        $this->get('/tune/catalog/wren/field/pick')->assertOk()->assertSee('holds 3 rows of 3 columns')->assertSee('decimal(8, 2)');
        $this->get('/tune/catalog/wren/field/nothing')->assertNotFound();
        $this->cluster('papers');
        $this->get('/tune/catalog?cluster=papers')->assertOk()->assertSee('known from files only');
        config(['fulcrion.practice' => '/nonexistent']);
        $this->get('/tune/catalog?cluster=wren')->assertOk()->assertSee('has no files here');
    }

    public function test_columns_of_views_follow_what_they_read(): void
    {
        $this->send('CREATE VIEW field.heavy AS SELECT id, kilos FROM field.pick WHERE kilos > 2')
            ->assertOk()
            ->assertDontSee('notice bad', false);
        $this->warehouse->createView('field', 'heaviest', 'CREATE VIEW field.heaviest AS SELECT max(kilos) AS most FROM field.heavy');
        // Worked out, then remembered.
        foreach ([1, 2] as $_) {
            self::assertSame(
                [['id bigint', 'kilos decimal(8, 2)'], ['most decimal(8, 2)']],
                [$this->columnsOf('heavy'), $this->columnsOf('heaviest')],
            );
        }
        $this->send('CREATE OR REPLACE VIEW field.heavy AS SELECT crew, kilos FROM field.pick')->assertOk();
        self::assertSame(['crew text', 'kilos decimal(8, 2)'], $this->columnsOf('heavy'));
        $this->send('DROP TABLE field.pick')->assertOk();
        self::assertSame([['broken'], ['broken']], [$this->columnsOf('heavy'), $this->columnsOf('heaviest')]);
        $this->send('CREATE TABLE field.pick (crew bigint, kilos double)')->assertOk();
        self::assertSame([['crew bigint', 'kilos double'], ['most double']], [$this->columnsOf('heavy'), $this->columnsOf('heaviest')]);
    }

    /**
     * @return list<string> name and type of each column, or what is said instead
     *
     * @phpstan-impure
     */
    private function columnsOf(string $view): array
    {
        foreach (
            app(Clusters::class)->as(Actor::system(SystemActor::Audit, 'a test'))->catalog($this->practice)?->objects() ?? [] as $object
        ) {
            if ($object->name === $view) {
                return $object->columns === []
                    ? array_keys($object->facts)
                    : array_map(static fn (array $column): string => "{$column[0]} {$column[1]}", $object->columns);
            }
        }

        return [];
    }

    private function live(): void
    {
        $settings = config('database.connections.mariadb');
        Cluster::query()->create([
            'slug' => 'live',
            'name' => 'Live',
            'role' => 'production',
            'connector' => 'mariadb',
            'dialect' => Dialect::MariaDb,
            'host' => '127.0.0.1',
            'port' => $settings['port'],
            'username' => 'fulcrion_test',
            'secret' => (string) getenv('DB_PASSWORD'),
        ]);
    }

    /**
     * @param  array<string, mixed>  $more
     * @return TestResponse<\Symfony\Component\HttpFoundation\Response>
     */
    private function send(string $sql, array $more = []): TestResponse
    {
        return $this->post(
            '/tune/workbench/runs',
            $more + [
                'cluster' => 'wren',
                'schema' => 'field',
                'sql' => $sql,
                'mode' => 'run',
                'key' => (string) Str::uuid(),
                'at' => 0,
                'which' => 'one',
            ],
        );
    }
}
