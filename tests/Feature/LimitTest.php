<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\PracticeClusters;
use App\Estate\Connectors\SourceError;
use App\Estate\Limits\Sending;
use App\Estate\Limits\StatementGate;
use App\Estate\Models\Cluster;
use App\Ledger\Models\Finding;
use App\Ledger\Models\LedgerEntry;
use App\Ledger\Models\Notification;
use App\Ledger\Models\Subscription;
use App\Limits\Application\KeptLimit;
use App\Limits\Application\LimitBook;
use App\Limits\Application\LimitCounters;
use App\Limits\Application\LimitFindings;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use App\Workbench\Application\Workbench;
use Closure;
use Fulcrion\Core\Limits\Sender;
use Fulcrion\Core\Limits\StatementEstimate;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Fingerprinter;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\TeamMembership;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Warehouse;
use Fulcrion\Tools\Forks;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Str;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * Where use stops: on a practice cluster, exactly, and with a sentence that says why.
 */
#[Group('today')]
final class LimitTest extends TestCase
{
    private Cluster $cluster;

    private Warehouse $warehouse;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow('2026-11-18 12:00:00');
        config(['fulcrion.practice' => sys_get_temp_dir().'/fulcrion-practice-'.bin2hex(random_bytes(4))]);
        $this->cluster = Cluster::query()->create([
            'slug' => 'wren', 'name' => 'Wren', 'role' => 'rehearsal', 'connector' => 'practice', 'dialect' => Dialect::Ansi,
        ]);
        mkdir((string) config('fulcrion.practice'));
        $this->warehouse = Warehouse::create(PracticeClusters::root('wren'), 'Wren', 3, new HardwareProfile());
        $this->warehouse->createSchema('field');
        $this->belong(new TeamMembership('owner', 'pickers', 0, null), new TeamMembership('lee', 'lab', 0, null));
        DB::table('usage_teams')->insert([['name' => 'pickers'], ['name' => 'lab']]);
        $this->actingAs($this->person(Role::Owner));
        $runner = app(Clusters::class)->as(Actor::system(SystemActor::Demo, 'a test'))->runner($this->cluster);
        $runner?->run('CREATE TABLE field.pick (id bigint, crew text) PLACED BY (id)', 'field');
        $runner?->run("INSERT INTO field.pick VALUES (1, 'Ada'), (2, 'Bren'), (3, 'Cole')", 'field');
    }

    protected function tearDown(): void
    {
        Carbon::setTestNow();
        $this->warehouse->destroy();
        @rmdir((string) config('fulcrion.practice'));
        parent::tearDown();
    }

    /**
     * @param  array<string, string>  $more
     */
    private function limit(string $of, string $measure, string $amount, array $more = [], bool $isOn = true): KeptLimit
    {
        $this->post('/meter/limits', $more + [
            'of' => $of, 'measure' => $measure, 'period' => 'day', 'amount' => $amount, 'hold' => '100',
        ])->assertSessionHasNoErrors()->assertRedirect();
        $id = (int) DB::table('limits')->max('id');
        if ($isOn) {
            $this->post("/meter/limits/{$id}/switch")->assertRedirect("/meter/limits/{$id}");
        }

        return $this->kept($id);
    }

    private function kept(int $id): KeptLimit
    {
        return app(LimitBook::class)->find($id) ?? self::fail('no limit');
    }

    /** Runs a statement in the workbench; gives what it was told, empty where it went through. */
    private function ask(string $sql = 'SELECT crew FROM pick', ?User $as = null): string
    {
        $user = $as ?? $this->person(Role::Owner);
        // No two executions of one statement begin at the same moment.
        Carbon::setTestNow(Carbon::now()->addMillisecond());
        [, , $error] = app(Workbench::class)->execute((string) Str::uuid(), $user, $this->cluster, 'field', 'run', $sql);

        return $error?->getMessage() ?? '';
    }

    private function used(KeptLimit $limit): int
    {
        $counters = app(LimitCounters::class);

        return $counters->used($limit, $counters->period($limit, Clock::seconds()));
    }

    private function send(string $login, string $application = 'boards', ?Closure $estimate = null, string $team = ''): Sending
    {
        return new Sending(
            (new Sender($login, $application, 'shared', $team))->to('wren'),
            $this->cluster,
            'SELECT 1',
            $estimate ?? static fn (): ?StatementEstimate => null,
        );
    }

    public function test_statements_are_held_from_the_limit_on_and_told_why(): void
    {
        $limit = $this->limit('person owner', 'executions', '3', ['ask' => 'the platform team']);
        self::assertSame(['', '', ''], [$this->ask(), $this->ask(), $this->ask('SELECT nothing FROM pick') === '' ? 'ran' : '']);
        self::assertSame(
            'Held by a limit: person owner, 3 executions a day. 3 are used. It holds until Thu 19 Nov 00:00. Ask the platform team; an '
                .'owner can lift it.',
            $this->ask(),
        );
        self::assertSame(3, $this->used($limit));
        // What was held has not run, so it is no execution of anybody.
        self::assertSame(3, (int) DB::table('load_day')->sum('executions'));
        self::assertSame(
            ['owner', 'workbench', 'held'],
            array_values((array) DB::table('limit_refusals')->first(['login', 'application', 'how'])),
        );
        // Somebody else goes on, and what is only explained uses nothing.
        self::assertSame('', $this->ask('SELECT crew FROM pick', $this->person(Role::Steward)));
        [, $plan] = app(Workbench::class)->execute((string) Str::uuid(), $this->person(Role::Owner), $this->cluster, 'field', 'explain',
            'SELECT crew FROM pick');
        self::assertNotNull($plan);
        // The next day is another period.
        Carbon::setTestNow('2026-11-19 00:00:01');
        self::assertSame('', $this->ask());
        self::assertSame(1, $this->used($limit));
    }

    /**
     * @return iterable<string, array{string, bool}>
     */
    public static function scopes(): iterable
    {
        yield 'its person' => ['person lee', true];
        yield 'another person' => ['person mia', false];
        yield 'its team' => ['team lab', true];
        yield 'another team' => ['team pickers', false];
        yield 'its application' => ['application boards', true];
        yield 'its queue' => ['queue shared', true];
        yield 'its cluster' => ['cluster wren', true];
        yield 'another cluster' => ['cluster fernhill', false];
    }

    #[DataProvider('scopes')]
    public function test_a_limit_counts_its_own(string $of, bool $isHeld): void
    {
        $this->cluster();
        DB::table('origins')->insert(array_map(static fn (string $user): array => [
            'digest' => bin2hex(random_bytes(8)), 'database_name' => '', 'user_name' => $user, 'application' => 'boards',
            'client_host' => '', 'queue_name' => 'shared',
        ], ['lee', 'mia']));
        $this->limit($of, 'executions', '1');
        $gate = app(StatementGate::class);
        $gate->admit($this->send('lee'))->settle(0, 0);
        if ($isHeld) {
            $this->expectException(SourceError::class);
            $this->expectExceptionMessage("Held by a limit: {$of}, 1 execution a day. 1 is used.");
        }
        $gate->admit($this->send('lee'))->settle(0, 0);
        self::assertFalse($isHeld);
    }

    public function test_a_person_without_a_team_is_held_by_limits_of_their_own_only(): void
    {
        $this->person(Role::Steward);
        $this->limit('team lab', 'executions', '1');
        $limit = $this->limit('person steward', 'executions', '2');
        $gate = app(StatementGate::class);
        foreach ([1, 2] as $_) {
            $gate->admit($this->send('steward'))->settle(0, 0);
        }
        self::assertSame(2, $this->used($limit));
        self::assertSame(0, (int) DB::table('limit_counters')->where('limit_id', '<>', $limit->id)->value('settled'));
        $this->expectExceptionMessage('person steward');
        $gate->admit($this->send('steward'));
    }

    public function test_of_two_limits_the_one_that_is_reached_holds_and_the_other_counts_nothing(): void
    {
        $wide = $this->limit('team pickers', 'executions', '10');
        $narrow = $this->limit('person owner', 'executions', '2');
        self::assertSame(['', ''], [$this->ask(), $this->ask()]);
        self::assertStringContainsString('person owner, 2 executions a day', $this->ask());
        self::assertSame([2, 2], [$this->used($wide), $this->used($narrow)]);
        self::assertSame(0, (int) DB::table('limit_counters')->sum('reserved'));
        self::assertSame(0, (int) DB::table('limit_counters')->sum('running'));
        self::assertSame(0, DB::table('limit_runs')->count());
    }

    public function test_bytes_and_time_are_what_the_execution_is_recorded_with(): void
    {
        $bytes = $this->limit('person owner', 'bytes', '1 TiB');
        $time = $this->limit('application workbench', 'time', '10 h');
        self::assertSame('', $this->ask());
        self::assertSame('', $this->ask('SELECT count(*) FROM pick WHERE id > 1'));
        $load = DB::table('load_day')->selectRaw('SUM(bytes_scanned) AS bytes, SUM(load_us) AS us')->first();
        self::assertGreaterThan(0, (int) $load->bytes);
        self::assertSame([(int) $load->bytes, (int) $load->us], [$this->used($bytes), $this->used($time)]);
        // The facts say the same, so nothing is added when they are taken up.
        Artisan::call('usage:close');
        Artisan::call('limit:check');
        self::assertSame([(int) $load->bytes, (int) $load->us], [$this->used($bytes), $this->used($time)]);
    }

    public function test_a_limit_begins_with_what_was_used_before_and_takes_up_what_ran_elsewhere(): void
    {
        $record = static fn (string $at, string $user, int $bytes): array => [
            'started_at' => strtotime("2026-11-18 {$at} UTC"), 'duration_us' => 1_000_000, 'sql' => 'SELECT 1', 'user' => $user,
            'bytes_scanned' => $bytes,
        ];
        $import = function (array ...$records): void {
            Artisan::call('telemetry:import', ['file' => $this->file(array_values($records)), '--cluster' => 'wren']);
            Artisan::call('usage:close');
        };
        $import($record('08:00', 'lee', 600), $record('09:00', 'mia', 900));
        $limit = $this->limit('team lab', 'bytes', '1 kB', ['recipient' => 'lead@brackenfold.example', 'tell' => '80', 'hold' => '100']);
        self::assertSame(600, $this->used($limit));
        app(StatementGate::class)->admit($this->send('lee'))->settle(100, 5);
        self::assertSame(700, $this->used($limit));
        $import($record('10:00', 'lee', 250));
        Artisan::call('limit:check');
        // 600 and 250 elsewhere; the hundred ran from here and is not among the facts of this test.
        self::assertSame(850, $this->used($limit));
        self::assertSame(1, Notification::query()->count());
        $letter = Notification::query()->firstOrFail();
        self::assertSame('80% of a limit is reached: team lab, 1 kB scanned a day', $letter->subject);
        Artisan::call('limit:check');
        self::assertSame(1, Notification::query()->count(), 'once for each share and period');
    }

    public function test_a_single_statement_is_not_run_where_its_plan_says_too_much(): void
    {
        $this->limit('person owner', 'bytes', '10 B', ['period' => 'statement']);
        $told = $this->ask();
        self::assertStringStartsWith('Not run because of a limit: person owner, 10 B scanned by a single statement. It would read up to ',
            $told);
        self::assertStringEndsWith('by its plan. Filter earlier, or read fewer columns. Ask Owner; an owner can lift it.', $told);
        self::assertSame(0, (int) DB::table('load_day')->sum('executions'));
        self::assertSame('estimate', DB::table('limit_refusals')->value('how'));
        // What reads nothing goes through.
        self::assertSame('', $this->ask('SELECT 1'));
    }

    public function test_a_single_statement_is_stopped_where_it_really_passes(): void
    {
        $limit = $this->limit('person owner', 'time', '3 ms', ['period' => 'statement', 'note' => '50']);
        $told = $this->ask('SELECT count(*) FROM pick a, pick b, pick c, pick d, pick e, pick f, pick g, pick h, pick i, pick j, pick k');
        self::assertSame('Stopped by a limit: person owner, 3 ms in flight by a single statement. Ask Owner; an owner can lift it.', $told);
        self::assertSame('stopped', DB::table('limit_refusals')->value('how'));
        self::assertSame(1, DB::table('load_day')->where('cancelled', 1)->count(), 'what was stopped did run');
        $this->get("/meter/limits/{$limit->id}")->assertOk()->assertSee('stopped on the way');
    }

    /**
     * @return iterable<string, array{string}>
     */
    public static function writes(): iterable
    {
        yield 'a table made of another' => ['CREATE TABLE field.copied AS SELECT * FROM field.pick'];
        yield 'rows of a query' => ['INSERT INTO field.pick SELECT id + 10, crew FROM field.pick'];
        yield 'rows that change' => ["UPDATE field.pick SET crew = 'x' WHERE id > 1"];
        yield 'rows that go' => ['DELETE FROM field.pick WHERE id > 1'];
        yield 'a plan with what it did' => ['EXPLAIN ANALYZE SELECT * FROM field.pick'];
    }

    #[DataProvider('writes')]
    public function test_what_writes_is_counted_by_what_it_reads_and_held_as_well(string $sql): void
    {
        $bytes = $this->limit('person owner', 'bytes', '1 TiB');
        self::assertSame('', $this->ask($sql));
        self::assertGreaterThan(0, $this->used($bytes), 'it reads the table');
        $this->post("/meter/limits/{$bytes->id}/change", ['amount' => '1 B', 'hold' => '100']);
        self::assertStringContainsString('Held by a limit: person owner, 1 B scanned a day.', $this->ask($sql));
        $this->post("/meter/limits/{$bytes->id}/remove");
        $this->ask("INSERT INTO field.pick VALUES (5, 'Edda')");
        $rows = fn (): array => app(Clusters::class)->as(Actor::system(SystemActor::Demo, 'a test'))->runner($this->cluster)
            ?->run('SELECT id, crew FROM pick ORDER BY id, crew', 'field')->result->rows ?? [];
        $before = $rows();
        $this->limit('person owner', 'bytes', '1 B', ['period' => 'statement']);
        self::assertMatchesRegularExpression('~^(Not run because of|Stopped by) a limit: ~', $this->ask($sql));
        self::assertSame($before, $rows(), 'nothing half done is left');
        self::assertSame('', $this->ask("INSERT INTO field.pick VALUES (9, 'Dora')"), 'what reads nothing is not held');
    }

    public function test_a_read_of_a_live_server_is_counted_and_ended_by_the_server(): void
    {
        $live = Cluster::query()->create([
            'slug' => 'live', 'name' => 'Live', 'role' => 'own', 'connector' => 'mariadb', 'dialect' => Dialect::MariaDb,
            'host' => '127.0.0.1', 'port' => (int) config('database.connections.mariadb.port'), 'username' => 'fulcrion_test',
            'secret' => (string) getenv('DB_PASSWORD'),
        ]);
        config(['fulcrion.reachable' => '127.0.0.1']);
        $count = $this->limit('cluster live', 'executions', '3');
        $this->limit('cluster live', 'time', '300 ms', ['period' => 'statement']);
        $run = function (string $sql) use ($live): string {
            [, , $error] = app(Workbench::class)->execute((string) Str::uuid(), $this->person(Role::Owner), $live, '', 'run', $sql);

            return $error?->getMessage() ?? '';
        };
        self::assertSame('', $run('SELECT 1'));
        $began = hrtime(true);
        self::assertSame(
            'Stopped by a limit: cluster live, 300 ms in flight by a single statement. Ask Owner; an owner can lift it.',
            $run('SELECT SLEEP(4)'),
        );
        self::assertLessThan(2.0, (hrtime(true) - $began) / 1e9);
        self::assertSame('', $run('SELECT 2'));
        self::assertSame(3, $this->used($count));
        self::assertStringContainsString('Held by a limit: cluster live, 3 executions a day.', $run('SELECT 3'));
        // Its collector sees what ran there; nothing is counted apart.
        self::assertSame(0, (int) DB::table('limit_counters')->sum('apart'));
    }

    public function test_other_pages_that_run_statements_are_held_too_and_counted_apart(): void
    {
        $limit = $this->limit('person owner', 'executions', '1');
        $runner = app(Clusters::class)->for($this->person(Role::Owner), 'plan')->runner($this->cluster) ?? self::fail('no runner');
        $runner->plan('SELECT crew FROM pick', 'field', false);
        self::assertSame(0, $this->used($limit), 'what is explained does not run');
        $runner->plan('SELECT crew FROM pick', 'field', true);
        self::assertSame(1, (int) DB::table('limit_counters')->value('apart'));
        try {
            $runner->measureWithout('SELECT crew FROM pick', 'field', null);
            self::fail('not held');
        } catch (SourceError $error) {
            self::assertTrue($error->isHeld());
        }
        // What keeps a cluster in order has no sender, and no limit.
        $system = app(Clusters::class)->as(Actor::system(SystemActor::Maintenance, 'a test'))->runner($this->cluster);
        self::assertSame(1, count($system?->run('SELECT count(*) FROM pick', 'field')->result->rows ?? []));
        self::assertSame(1, $this->used($limit));
    }

    public function test_what_is_sent_for_a_service_account_is_held_and_kept_as_its_own(): void
    {
        DB::table('origins')->insert([
            'digest' => bin2hex(random_bytes(8)), 'database_name' => '', 'user_name' => 'boards', 'application' => 'dashboards',
            'client_host' => '', 'queue_name' => 'shared',
        ]);
        $limit = $this->limit('application dashboards', 'executions', '2', ['tell' => '50', 'recipient' => 'boards@brackenfold.example']);
        $as = Actor::system(SystemActor::Demo, 'a pulse')->sending(new Sender('boards', 'dashboards', 'shared'));
        $runner = app(Clusters::class)->as($as)->runner($this->cluster) ?? self::fail('no runner');
        $told = [];
        for ($i = 0; $i < 4; $i++) {
            try {
                $told[] = count($runner->run('SELECT crew FROM pick', 'field')->result->rows ?? []);
            } catch (SourceError $error) {
                $told[] = $error->limit;
            }
        }
        self::assertSame([3, 3, $limit->id, $limit->id], $told);
        $counted = (array) DB::table('limit_counters')->first(['settled', 'apart']);
        self::assertSame(['2', '0'], array_map(strval(...), array_values($counted)));
        self::assertSame(['boards', 'boards'], DB::table('limit_refusals')->pluck('login')->all());
        self::assertSame(2, Notification::query()->where('recipient', 'boards@brackenfold.example')->count());
        // Another application of the same account goes on.
        $other = Actor::system(SystemActor::Demo, 'a pulse')->sending(new Sender('boards', 'exports', 'shared'));
        self::assertNotNull(app(Clusters::class)->as($other)->runner($this->cluster)?->run('SELECT 1', 'field')->result);
    }

    public function test_what_a_person_may_see_in_part_only_is_not_told_by_its_size(): void
    {
        $this->limit('person lee', 'bytes', '10 B', ['period' => 'statement']);
        $gate = app(StatementGate::class);
        $told = function (bool $isVeiled) use ($gate): string {
            try {
                $gate->admit(new Sending(
                    (new Sender('lee', 'workbench'))->to('wren'),
                    $this->cluster,
                    'SELECT * FROM pick',
                    static fn (): StatementEstimate => new StatementEstimate(987_654_321, 1),
                    isVeiled: $isVeiled,
                ));
            } catch (SourceError $error) {
                return $error->getMessage();
            }
            self::fail('let in');
        };
        self::assertStringContainsString('It would read up to 942 MiB, by its plan.', $told(false));
        self::assertStringContainsString('It would read more than that, by its plan.', $told(true));
        self::assertStringNotContainsString('942', $told(true));
    }

    public function test_the_statement_that_was_held_is_kept_by_its_fingerprint_and_not_by_its_values(): void
    {
        $limit = $this->limit('person owner', 'executions', '1');
        $this->ask();
        $sql = "SELECT crew FROM pick WHERE crew = 'Somebody Secret'";
        self::assertStringNotContainsString('Secret', $this->ask($sql));
        self::assertSame((new Fingerprinter())->of($sql)->id, DB::table('limit_refusals')->value('fingerprint'));
        $page = (string) $this->get("/meter/limits/{$limit->id}")->assertOk()->getContent();
        self::assertStringContainsString(substr((new Fingerprinter())->of($sql)->id, 0, 8), $page);
        self::assertStringNotContainsString('Secret', $page);
        self::assertStringNotContainsString('Secret', (string) json_encode(DB::table('limit_refusals')->get()));
    }

    public function test_a_hold_below_the_whole_says_where_it_holds(): void
    {
        $this->limit('person owner', 'executions', '4', ['hold' => '50', 'tell' => '50']);
        self::assertSame(['', ''], [$this->ask(), $this->ask()]);
        self::assertStringContainsString('4 executions a day. It holds from 2 on. 2 are used.', $this->ask());
        // Two acts at one share are one, the stronger.
        self::assertSame([['percent' => 50, 'act' => 'hold']], DB::table('limit_acts')->get(['percent', 'act'])
            ->map(static fn ($row): array => ['percent' => (int) $row->percent, 'act' => $row->act])->all());
    }

    public function test_a_limit_that_goes_or_rests_while_a_statement_runs_leaves_nothing_behind(): void
    {
        $gate = app(StatementGate::class);
        $kept = $this->limit('person owner', 'executions', '9');
        $gone = $this->limit('cluster wren', 'executions', '9');
        $running = $gate->admit($this->send('owner'));
        $this->post("/meter/limits/{$gone->id}/remove");
        $this->post("/meter/limits/{$kept->id}/switch");
        $running->settle(1, 1);
        self::assertSame([0, 0, 0], [
            (int) DB::table('limit_counters')->sum('reserved'), (int) DB::table('limit_counters')->sum('running'),
            DB::table('limit_runs')->count(),
        ]);
        self::assertSame(0, $this->used($kept), 'nothing is counted while it rests');
        // Settled twice is settled once.
        $this->post("/meter/limits/{$kept->id}/switch");
        $running = $gate->admit($this->send('owner'));
        $running->settle(1, 1);
        self::assertSame(1, $this->used($kept));
        self::assertSame(0, (int) DB::table('limit_counters')->sum('running'));
    }

    public function test_a_hold_is_lifted_until_a_time_with_a_reason_and_set_again(): void
    {
        $limit = $this->limit('person owner', 'executions', '1');
        self::assertSame('', $this->ask());
        self::assertNotSame('', $this->ask());
        $this->post("/meter/limits/{$limit->id}/lift", ['until' => '2 h', 'reason' => 'the shipping of pallets waits for it'])
            ->assertRedirect("/meter/limits/{$limit->id}")->assertSessionHas('done', 'Nothing is held until Wed 18 Nov 14:00.');
        self::assertSame('', $this->ask());
        self::assertSame(2, $this->used($limit));
        $entry = LedgerEntry::query()->where('act', 'lifted a limit')->firstOrFail();
        self::assertStringContainsString('the shipping of pallets waits for it', json_encode($entry->getAttributes(), JSON_THROW_ON_ERROR));
        $this->get("/meter/limits/{$limit->id}")->assertSee('lifted until Wed 18 Nov 14:00')->assertSee('Set the hold again');
        Carbon::setTestNow('2026-11-18 14:00:01');
        self::assertNotSame('', $this->ask(), 'the time is over');
        $this->post("/meter/limits/{$limit->id}/lift", ['until' => '2026-11-18 18:00', 'reason' => 'once more']);
        self::assertSame('', $this->ask());
        $this->post("/meter/limits/{$limit->id}/end-lift")->assertSessionHas('done');
        self::assertNotSame('', $this->ask(), 'set again');
        $this->get("/meter/limits/{$limit->id}")->assertSee('once more')->assertSee('ended by hand');
        $this->post("/meter/limits/{$limit->id}/lift", ['until' => '2026-11-18 09:00', 'reason' => 'too late'])
            ->assertSessionHasErrors('until');
    }

    public function test_a_limit_changed_while_statements_run_holds_at_once_and_forgets_nothing(): void
    {
        $limit = $this->limit('person owner', 'executions', '10');
        $gate = app(StatementGate::class);
        $running = $gate->admit($this->send('owner'));
        $this->post("/meter/limits/{$limit->id}/change", ['amount' => '1', 'hold' => '100'])->assertSessionHasNoErrors();
        try {
            $gate->admit($this->send('owner'));
            self::fail('let in');
        } catch (SourceError $error) {
            self::assertStringContainsString('0 are used, and 1 are expected of 1 statement running now', $error->getMessage());
        }
        $this->post("/meter/limits/{$limit->id}/change", ['amount' => '2', 'hold' => '100']);
        $second = $gate->admit($this->send('owner'));
        $running->settle(5, 5);
        $second->settle(5, 5);
        self::assertSame(2, $this->used($limit));
        self::assertSame([0, 0], app(LimitCounters::class)->running($limit, app(LimitCounters::class)->period($limit, Clock::seconds())));
    }

    public function test_a_limit_that_comes_into_force_counts_what_runs_already(): void
    {
        $gate = app(StatementGate::class);
        $running = $gate->admit($this->send('owner'));
        $limit = $this->limit('person owner', 'executions', '5');
        $running->settle(1, 1);
        self::assertSame(1, $this->used($limit));
    }

    public function test_what_is_expected_is_reserved_and_given_back(): void
    {
        $limit = $this->limit('person owner', 'bytes', '1 kB');
        $gate = app(StatementGate::class);
        $estimate = static fn (): StatementEstimate => new StatementEstimate(700, 1);
        $first = $gate->admit($this->send('owner', 'boards', $estimate));
        $second = $gate->admit($this->send('owner', 'boards', $estimate));
        try {
            $gate->admit($this->send('owner', 'boards', $estimate));
            self::fail('let in');
        } catch (SourceError $error) {
            self::assertStringContainsString('0 B are used, and 1.37 KiB are expected of 2 statements running now', $error->getMessage());
        }
        $first->settle(10, 1);
        $second->settle(10, 1);
        self::assertSame(20, $this->used($limit));
        $gate->admit($this->send('owner', 'boards', $estimate))->settle(0, 1);
    }

    public function test_what_dies_with_its_process_does_not_stay_reserved(): void
    {
        $limit = $this->limit('person owner', 'executions', '1');
        $gate = app(StatementGate::class);
        $gate->admit($this->send('owner'));
        Carbon::setTestNow('2026-11-18 12:09:00');
        self::assertSame(0, app(LimitCounters::class)->sweep());
        Carbon::setTestNow('2026-11-18 12:10:01');
        self::assertSame(1, app(LimitCounters::class)->sweep());
        self::assertSame(0, $this->used($limit));
        $gate->admit($this->send('owner'))->settle(0, 0);
        self::assertSame(1, $this->used($limit));
    }

    public function test_two_clocks_a_second_apart_at_the_border_of_a_day_count_each_in_its_own(): void
    {
        $limit = $this->limit('person owner', 'executions', '2');
        $gate = app(StatementGate::class);
        foreach (['23:59:59', '00:00:00', '23:59:59', '00:00:00'] as $i => $time) {
            Carbon::setTestNow(($time === '00:00:00' ? '2026-11-19 ' : '2026-11-18 ').$time);
            $gate->admit($this->send('owner'))->settle(0, 0);
            self::assertSame(intdiv($i, 2) + 1, $this->used($limit));
        }
        foreach (['2026-11-18 23:59:59', '2026-11-19 00:00:00'] as $time) {
            Carbon::setTestNow($time);
            try {
                $gate->admit($this->send('owner'));
                self::fail('let in');
            } catch (SourceError $error) {
                self::assertTrue($error->isHeld());
            }
        }
        // What began before midnight counts where it began, whenever it ends.
        Carbon::setTestNow('2026-11-19 23:59:59');
        DB::table('limit_counters')->delete();
        $running = $gate->admit($this->send('owner'));
        Carbon::setTestNow('2026-11-20 00:00:05');
        $running->settle(0, 0);
        self::assertSame(
            [1],
            array_map(intval(...), DB::table('limit_counters')->where('from_at', strtotime('2026-11-19 UTC'))->pluck('settled')->all()),
        );
    }

    public function test_a_day_of_25_hours_is_one_period(): void
    {
        Carbon::setTestNow('2026-10-24 21:30:00');
        $this->post('/meter/days/zone', ['zone' => 'Europe/Berlin']);
        app()->forgetScopedInstances();
        $limit = $this->limit('person owner', 'executions', '3');
        $gate = static fn (): StatementGate => app(StatementGate::class);
        // The day begins at 22:00 by UTC, in summer time, and ends at 23:00, in winter time.
        foreach (['2026-10-24 22:00:00', '2026-10-25 00:30:00', '2026-10-25 22:59:59'] as $time) {
            Carbon::setTestNow($time);
            $gate()->admit($this->send('owner'))->settle(0, 0);
        }
        self::assertSame(3, $this->used($limit));
        try {
            $gate()->admit($this->send('owner'));
            self::fail('let in');
        } catch (SourceError $error) {
            self::assertStringContainsString('It holds until Mon 26 Oct 00:00', $error->getMessage());
        }
        Carbon::setTestNow('2026-10-25 23:00:00');
        self::assertSame(0, $this->used($limit));
        $gate()->admit($this->send('owner'))->settle(0, 0);
    }

    public function test_fifty_statements_at_once_never_pass_the_limit(): void
    {
        Carbon::setTestNow();
        $limit = $this->limit('person lee', 'executions', '20', ['period' => 'month', 'tell' => '80',
            'recipient' => 'lead@brackenfold.example']);
        $limit2 = $this->limit('cluster wren', 'executions', '1000', ['period' => 'month']);
        $sent = Forks::run(50, function (): int {
            try {
                $admission = app(StatementGate::class)->admit($this->send('lee'));
            } catch (SourceError) {
                return 0;
            }
            usleep(random_int(0, 20_000));
            $admission->settle(1, 1);

            return 1;
        });
        self::assertSame(20, array_sum($sent));
        self::assertSame([20, 20], [$this->used($limit), $this->used($limit2)]);
        self::assertSame(30, DB::table('limit_refusals')->count());
        self::assertSame([0, 0], [(int) DB::table('limit_counters')->sum('reserved'), (int) DB::table('limit_counters')->sum('running')]);
        // Of fifty that saw the share reached one told of it, and one of the hold.
        self::assertSame(2, Notification::query()->count());
        self::assertSame(2, DB::table('limit_acts')->count());
    }

    public function test_letters_and_webhooks_say_what_was_reached(): void
    {
        $hook = Subscription::query()->create([
            'kind' => 'webhook', 'target' => 'https://hooks.brackenfold.example/secret', 'digest' => false, 'paused' => true,
            'made_by' => 'Owner',
        ]);
        $limit = $this->limit('person owner', 'executions', '4', ['note' => '25', 'tell' => '50', 'webhook' => (string) $hook->id,
            'recipient' => 'lead@brackenfold.example']);
        self::assertSame(['', '', '', ''], [$this->ask(), $this->ask(), $this->ask(), $this->ask()]);
        self::assertSame(
            [[25, 'note'], [50, 'tell'], [100, 'hold']],
            DB::table('limit_acts')->orderBy('percent')->get()->map(static fn ($row): array => [(int) $row->percent, $row->act])->all(),
        );
        [$half, $told, $whole, $held] = Notification::query()->orderBy('id')->get()->all();
        self::assertSame(['lead@brackenfold.example', 'https://hooks.brackenfold.example/…'], [$half->recipient, $told->recipient]);
        self::assertStringContainsString('Used: 2 of 4.', $half->body);
        self::assertStringContainsString('New statements are held.', $whole->body);
        $json = json_decode($held->body, true);
        self::assertSame(
            ['limit', $limit->id, 'executions', 'person', 'owner', 'day', 100, 'hold', 4, 4],
            array_slice(array_values($json), 0, 10),
        );
        self::assertStringNotContainsString('secret', $half->body.$told->body);
        $this->actingAs($this->person(Role::Viewer))->get('/ledger/outbox')->assertDontSee('of a limit is reached');
    }

    public function test_jobs_are_held_like_statements(): void
    {
        $limit = $this->limit('application jobs', 'executions', '1');
        $gate = app(StatementGate::class);
        $job = static fn (Cluster $cluster): Sending => new Sending(new Sender('loaders', 'jobs', '', '', $cluster->slug), $cluster, '',
            static fn (): ?StatementEstimate => null, isKept: false);
        $gate->admit($job($this->cluster))->settle(9, 9);
        self::assertSame(1, $this->used($limit));
        // It is none of the executions that are observed, and is not lost among them either.
        Artisan::call('limit:check');
        $counted = (array) DB::table('limit_counters')->first(['settled', 'apart']);
        self::assertSame(['0', '1'], array_map(strval(...), array_values($counted)));
        $this->expectExceptionMessage('Held by a limit: application jobs');
        $gate->admit($job($this->cluster));
    }

    public function test_a_hold_is_a_finding_as_long_as_it_holds_somebody(): void
    {
        $limit = $this->limit('person owner', 'executions', '1');
        $this->ask();
        app(LimitFindings::class)->check(Clock::seconds());
        self::assertSame(0, Finding::query()->where('source', 'limit')->count(), 'nobody has noticed it');
        $this->ask();
        app(LimitFindings::class)->check(Clock::seconds());
        $finding = Finding::query()->where('source', 'limit')->firstOrFail();
        self::assertSame('Statements of person owner are held until Thu 19 Nov 00:00', $finding->problem);
        $this->get("/ledger/findings/{$finding->id}")->assertOk()->assertSee('1 statement');
        $this->post("/meter/limits/{$limit->id}/lift", ['until' => '1 h', 'reason' => 'needed now']);
        app(LimitFindings::class)->check(Clock::seconds());
        self::assertSame('solved', $finding->refresh()->state->value);
    }

    public function test_the_past_is_tried_before_it_is_switched_on(): void
    {
        $records = [];
        for ($day = 0; $day < 28; $day++) {
            $at = (int) strtotime('2026-10-20 09:10 UTC') + $day * Days::DAY;
            // A hundred bytes of lee's each day, and of the last week three hundred; mia's are another team's.
            $records[] = ['started_at' => $at, 'duration_us' => 1000, 'sql' => 'SELECT 1', 'user' => 'lee',
                'bytes_scanned' => $day < 21 ? 100 : 300];
            $records[] = ['started_at' => $at, 'duration_us' => 1000, 'sql' => 'SELECT 2', 'user' => 'mia', 'bytes_scanned' => 5_000];
        }
        Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'wren']);
        Artisan::call('usage:close');
        $limit = $this->limit('team lab', 'bytes', '150 B', ['note' => '50'], false);
        $page = $this->get("/meter/limits/{$limit->id}")->assertOk();
        // Three in each 300 and half of it: 7 days of which the second half is held.
        $page->assertSee('It would have held about 4 statements since 21 Oct, in 7 of 27 days')->assertSee('not switched on')
            ->assertSee('Switch it on');
        self::assertStringContainsString('200%', (string) $page->getContent());
        self::assertSame(0, DB::table('limit_counters')->count(), 'trying counts nothing');
        self::assertSame('', $this->ask());
        $free = $this->limit('team lab', 'bytes', '1 kB', [], false);
        $this->get("/meter/limits/{$free->id}")->assertSee('It would have held nothing since 21 Oct: at most 300 B were used a day');
        $none = $this->limit('person owner', 'time', '1 h', [], false);
        DB::table('load_day')->delete();
        $this->get("/meter/limits/{$none->id}")->assertOk()->assertSee('so it would have done nothing');
        $single = $this->limit('team lab', 'bytes', '200 B', ['period' => 'statement'], false);
        $this->get("/meter/limits/{$single->id}")->assertOk()->assertSee('It would have held about 7 statements');
    }

    public function test_cost_is_time_in_flight_at_its_price(): void
    {
        $at = (int) strtotime('2026-11-17 08:00 UTC');
        Artisan::call('telemetry:import', ['--cluster' => 'wren', 'file' => $this->file([
            ['started_at' => $at, 'duration_us' => 3_600_000_000, 'sql' => 'SELECT 1', 'user' => 'lee'],
        ])]);
        Artisan::call('usage:close');
        $this->post('/meter/prices/wren', ['kind' => 'node_hour', 'amount' => '1', 'quantity' => '1', 'from' => '2026-01-01']);
        $this->post('/meter/prices/wren/rule', ['currency' => 'EUR', 'follows' => 'in_flight_us', 'idle' => 'in_proportion']);
        $limit = $this->limit('team lab', 'cost', '1000', ['period' => 'month']);
        $first = $this->used($limit);
        self::assertGreaterThan(1_000_000, $first, 'an hour costs at least a euro');
        app(StatementGate::class)->admit($this->send('lee'))->settle(0, 1_800_000_000);
        self::assertEqualsWithDelta(1.5 * $first, $this->used($limit), 2.0);
        $this->get('/meter/limits')->assertOk()->assertSee('3.6%');
    }

    public function test_forms_name_what_is_wrong(): void
    {
        $this->post('/meter/limits', ['of' => 'team nobody', 'measure' => 'bytes', 'period' => 'day', 'amount' => '1 GB', 'hold' => '100'])
            ->assertSessionHasErrors(['of' => 'No team is known by the name nobody. Choose one of those that are offered.']);
        $this->post('/meter/limits', ['of' => 'lab', 'measure' => 'bytes', 'period' => 'day', 'amount' => '5', 'hold' => '100'])
            ->assertSessionHasErrors(['of', 'amount']);
        $this->post('/meter/limits', ['of' => 'team lab', 'measure' => 'bytes', 'period' => 'day', 'amount' => '1 GB'])
            ->assertSessionHasErrors(['hold' => 'Say at which share something is to be done: note it, tell somebody or hold.']);
        $this->post('/meter/limits', ['of' => 'team lab', 'measure' => 'cost', 'period' => 'statement', 'amount' => '1', 'hold' => '100'])
            ->assertSessionHasErrors(['period' => 'A single statement is limited by bytes scanned or by time in flight.']);
        self::assertSame(0, DB::table('limits')->count());
        $this->get('/meter/limits')->assertOk()->assertSee('No limit is set: nothing stops');
        $this->get('/meter/limits/999')->assertNotFound();
    }

    public function test_it_is_switched_off_and_removed(): void
    {
        $limit = $this->limit('person owner', 'executions', '1');
        $this->ask();
        self::assertNotSame('', $this->ask());
        $this->get('/meter/limits')->assertSee('1 of 1 limit holds statements: person owner');
        $this->post("/meter/limits/{$limit->id}/switch")->assertSessionHas('done', 'It is switched off: nothing is held.');
        self::assertSame('', $this->ask());
        $this->post("/meter/limits/{$limit->id}/remove")->assertRedirect('/meter/limits');
        foreach (['limits', 'limit_counters', 'limit_acts', 'limit_refusals', 'limit_runs', 'limit_lifts'] as $table) {
            self::assertSame(0, DB::table($table)->count(), $table);
        }
    }

    public function test_a_viewer_of_some_teams_sees_their_limits_only(): void
    {
        $lab = $this->limit('team lab', 'executions', '5');
        $other = $this->limit('team pickers', 'executions', '7');
        $person = $this->limit('person owner', 'executions', '9');
        $viewer = $this->person(Role::Viewer);
        DB::table('usage_limits')->insert(['user_id' => $viewer->id, 'teams' => json_encode(['lab'])]);
        $this->actingAs($viewer);
        $this->get('/meter/limits')->assertOk()->assertSee('team lab')->assertDontSee('team pickers')->assertDontSee('person owner');
        $this->get("/meter/limits/{$lab->id}")->assertOk();
        $this->get("/meter/limits/{$other->id}")->assertForbidden();
        $this->get("/meter/limits/{$person->id}")->assertForbidden();
        $this->post("/meter/limits/{$lab->id}/switch")->assertForbidden();
        $this->actingAs($this->person(Role::Engineer));
        $this->post("/meter/limits/{$lab->id}/lift", ['until' => '1 h', 'reason' => 'please'])->assertForbidden();
    }
}
