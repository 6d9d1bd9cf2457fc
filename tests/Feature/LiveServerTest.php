<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Connectors\Connectors;
use App\Estate\Connectors\DigestReading;
use App\Estate\Connectors\MariaDbSessions;
use App\Estate\Connectors\MariaDbSource;
use App\Estate\Connectors\RecentReading;
use App\Estate\Connectors\StatementSource;
use App\Estate\Connectors\WatchingCost;
use App\Estate\Models\Cluster;
use App\Platform\Support\Clock;
use App\Telemetry\Collect\Collector;
use App\Telemetry\Models\Import;
use App\Telemetry\Store\PlanStore;
use App\Telemetry\Store\ReadingGaps;
use Fulcrion\Core\Plans\PlanAccess;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Statements\LatencySketch;
use Fulcrion\Tools\Live\PrivateServer;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use mysqli;
use PDO;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * Against a real MariaDB: the one the tests run on, and one started for its slow log.
 */
#[Group('today')]
final class LiveServerTest extends TestCase
{
    public function test_watches_the_server_it_runs_on(): void
    {
        $cluster = $this->live();
        self::assertSame([], (new MariaDbSource($cluster))->check());
        app(Collector::class)->poll($cluster);
        self::assertSame(0, $this->executions(), 'what lies before the first reading cannot be dated');
        for ($i = 0; $i < 7; $i++) {
            DB::select("SELECT COUNT(*) FROM statements WHERE kind = 'watched' AND id > {$i}");
        }
        app(Collector::class)->poll($cluster->refresh());
        $row = DB::table('load_five_minute')
            ->join('statements', 'statements.id', '=', 'statement_id')
            ->join('origins', 'origins.id', '=', 'origin_id')
            ->where('text', 'like', 'SELECT COUNT(%) FROM statements WHERE kind = ? AND id > ?')
            ->where('database_name', 'fulcrion_test')
            ->first();
        self::assertNotNull($row);
        self::assertEquals(7, $row->executions);
        self::assertGreaterThan(0, $row->duration_us);
        self::assertNull($cluster->refresh()->last_error);
        // Every run is also known singly, once.
        self::assertSame(7, LatencySketch::fromBinary($row->sketch)->count());
        app(Collector::class)->poll($cluster->refresh());
        self::assertSame(
            7,
            LatencySketch::fromBinary(
                DB::table('load_day')->where('statement_id', $row->statement_id)->pluck('sketch')->implode(''),
            )->count(),
        );
        self::assertGreaterThan(0, DB::table('samples')->count(), 'what the server remembers singly is kept as samples');
        $this->actingAs($this->person())->get('/tune/running')->assertOk()->assertSee('Own store');
    }

    public function test_names_what_is_missing_and_how_to_grant_it(): void
    {
        $cluster = $this->live();
        // The account of the tests may see neither other sessions nor performance data.
        $cluster->forceFill(['username' => 'fulcrion_test', 'secret' => (string) getenv('DB_PASSWORD')])->save();
        $problems = (new MariaDbSource($cluster))->check();
        self::assertStringContainsString(
            "GRANT SELECT ON performance_schema.* TO 'fulcrion_test'@'localhost'",
            implode("\n", array_column($problems, 'remedy')),
        );
        self::assertStringContainsString('GRANT PROCESS ON *.*', implode("\n", array_column($problems, 'remedy')));
        $cluster->forceFill(['secret' => 'wrong'])->save();
        $problems = (new MariaDbSource($cluster))->check();
        self::assertStringContainsString('cannot be reached', $problems[0]->problem);
        self::assertStringNotContainsString('wrong', $problems[0]->problem.$problems[0]->remedy);
    }

    public function test_a_server_that_goes_away_is_told_and_comes_back(): void
    {
        $cluster = $this->live();
        app(Collector::class)->poll($cluster);
        $port = $cluster->port;
        $cluster->forceFill(['port' => 1])->save();
        app(Collector::class)->poll($cluster->refresh());
        self::assertNotNull($cluster->refresh()->failing_since);
        $this->actingAs($this->person())->get('/tend/clusters')->assertOk()->assertSee('cannot be read');
        $this->get('/tune/running')->assertOk()->assertSee('does not answer');
        $cluster->forceFill(['port' => $port])->save();
        app(Collector::class)->poll($cluster->refresh());
        self::assertNull($cluster->refresh()->failing_since);
    }

    public function test_what_was_not_read_is_a_gap_and_not_nothing(): void
    {
        $cluster = $this->live();
        $gaps = fn (int $from, int $to): array => app(ReadingGaps::class)->of($cluster->refresh(), $from, $to, Clock::seconds());
        app(Collector::class)->poll($cluster);
        $began = Clock::seconds();
        self::assertSame([[$began - 3_600, (int) $cluster->created_at?->getTimestamp()]], $gaps($began - 3_600, $began + 1));
        $this->travel(89)->seconds();
        app(Collector::class)->poll($cluster->refresh());
        self::assertSame([], $gaps($began + 1, Clock::seconds()));
        $last = Clock::seconds();
        $this->travel(600)->seconds();
        self::assertSame([[$last, Clock::seconds()]], $gaps($began + 1, Clock::seconds()), 'it is not read at present');
        app(Collector::class)->poll($cluster->refresh());
        $back = Clock::seconds();
        $this->travel(30)->seconds();
        self::assertSame([[$last, $back]], $gaps($began + 1, Clock::seconds()));
        self::assertSame([[$last + 100, $last + 200]], $gaps($last + 100, $last + 200), 'as far as it is asked for');
        self::assertSame([], $gaps($back, Clock::seconds()));
        $this->actingAs($this->person())->get("/tune/statements?cluster={$cluster->slug}&window=last+hour")
            ->assertOk()
            ->assertSee('class="gap"', false)
            ->assertSee('not known, nothing was read');
        $this->travel(401)->days();
        self::assertSame(0, Artisan::call('telemetry:prune'));
        self::assertSame(0, DB::table('reading_gaps')->count());
        $practice = $this->cluster();
        self::assertSame([], app(ReadingGaps::class)->of($practice, 0, 9, 9), 'files come when they come');
    }

    public function test_resets_and_forgotten_digests_lose_and_invent_nothing(): void
    {
        $cluster = $this->live();
        $reading = static fn (int $count, string $born, string $text = 'SELECT `a` FROM `t`'): DigestReading => new DigestReading(
            hash('xxh3', $text),
            'field',
            $text,
            ['count' => $count, 'duration_us' => $count * 10],
            10,
            10,
            $born,
            1_795_154_400_000_000,
            time() * 1_000_000,
        );
        foreach (
            [
                [[$reading(100, 'A')], 0],
                [[$reading(130, 'A')], 30],
                [[$reading(4, 'B')], 34],
                [[], 34],
                [[$reading(9, 'C')], 43],
                [[$reading(9, 'C'), $reading(5, 'C', 'SELECT `b`')], 48],
            ] as $step => [$readings, $expected]
        ) {
            $source = self::createStub(StatementSource::class);
            $source->method('digests')->willReturn($readings);
            $source->method('recent')->willReturn(new RecentReading([], 0));
            $connectors = new class($source) extends Connectors
            {
                public function __construct(private readonly StatementSource $source)
                {
                }

                public function statements(Cluster $cluster): StatementSource
                {
                    return $this->source;
                }
            };
            $this->app->instance(Connectors::class, $connectors);
            $this->app->make(Collector::class)->poll($cluster->refresh());
            self::assertSame($expected, $this->executions(), "step {$step}");
        }
    }

    public function test_prepared_statements_are_counted_and_what_the_server_does_not_tell_is_named(): void
    {
        $server = PrivateServer::start(
            '--performance-schema=ON',
            '--performance-schema-consumer-events-statements-current=ON',
        );
        try {
            $admin = $server->pdo();
            $admin->exec('CREATE DATABASE glass');
            $admin->exec('CREATE TABLE glass.pick (id INT PRIMARY KEY, kilos INT)');
            $admin->exec('INSERT INTO glass.pick VALUES (1, 10), (2, 20), (3, 30)');
            $admin->exec("CREATE USER watcher@'127.0.0.1' IDENTIFIED BY 'w'");
            $admin->exec("GRANT SELECT ON performance_schema.* TO watcher@'127.0.0.1'");
            $cluster = $this->live();
            $cluster->forceFill(['port' => $server->port, 'username' => 'watcher', 'secret' => 'w'])->save();
            $client = $server->pdo(emulated: false);
            $client->exec('USE glass');
            $kept = $client->prepare('SELECT kilos FROM pick WHERE id >= ?');
            $kept->execute([1]);
            $kept->fetchAll();
            $collector = app(Collector::class);
            $collector->poll($cluster->refresh());
            self::assertSame(0, $this->executions());
            // Seven runs of one that stays open, three of such as come and go, two sent as text.
            foreach (range(1, 7) as $i) {
                $kept->execute([$i]);
                $kept->fetchAll();
            }
            foreach (range(1, 3) as $i) {
                $brief = $client->prepare('UPDATE pick SET kilos = kilos + 1 WHERE id = ?');
                $brief->execute([$i]);
                unset($brief);
            }
            $client->exec('DELETE FROM pick WHERE id = 8');
            $client->exec('DELETE FROM pick WHERE id = 9');
            $collector->poll($cluster->refresh());
            self::assertSame([7, 6, 6], $this->load('SELECT kilos FROM pick WHERE id >= ?', 'glass'), 'executions, rows returned and read');
            self::assertSame([3, 0, 3], $this->load(DigestReading::UNTOLD_PREPARED, ''));
            self::assertSame([2, 0, 0], $this->load('DELETE FROM pick WHERE id = ?', 'glass'));
            // Nothing twice: closing the first does not make its runs untold ones.
            $kept->execute([2]);
            $kept->fetchAll();
            unset($kept);
            $collector->poll($cluster->refresh());
            self::assertSame([7, 6, 6], $this->load('SELECT kilos FROM pick WHERE id >= ?', 'glass'));
            self::assertSame([4, 2, 5], $this->load(DigestReading::UNTOLD_PREPARED, ''));
            $executes = (int) $admin
                ->query("SELECT COUNT_STAR FROM performance_schema.events_statements_summary_global_by_event_name
                    WHERE EVENT_NAME = 'statement/com/Execute'")
                ->fetchColumn();
            self::assertSame($executes - 1, 7 + 4, 'all but the one before the first reading');
            $this->actingAs($this->person())->get("/tune/statements?cluster={$cluster->slug}&window=last+hour")
                ->assertOk()
                ->assertSee(DigestReading::UNTOLD_PREPARED);
            $untold = DB::table('statements')->where('text', DigestReading::UNTOLD_PREPARED)->value('fingerprint');
            $this->get("/tune/statements/{$untold}?cluster={$cluster->slug}&window=last+hour")
                ->assertOk()
                ->assertSee('only while it is open');
        } finally {
            $server->remove();
        }
    }

    public function test_live_load_is_told_by_who_sent_it_as_far_as_the_server_remembers(): void
    {
        $server = PrivateServer::start(
            '--performance-schema=ON',
            '--performance-schema-consumer-events-statements-current=ON',
            '--performance-schema-consumer-events-statements-history-long=ON',
            '--performance-schema-events-statements-history-long-size=100',
            '--skip-name-resolve',
        );
        try {
            $admin = $server->pdo();
            $admin->exec('CREATE DATABASE glass');
            $admin->exec('CREATE TABLE glass.pick (id INT PRIMARY KEY, kilos INT)');
            foreach (['watcher', 'ada', 'bo'] as $user) {
                $admin->exec("CREATE USER {$user}@'127.0.0.1' IDENTIFIED BY 'w'");
                $admin->exec("CREATE USER {$user}@'localhost' IDENTIFIED BY 'w'");
                $mayDo = $user === 'watcher' ? 'SELECT ON performance_schema' : 'SELECT, INSERT ON glass';
                $admin->exec("GRANT {$mayDo}.* TO {$user}@'127.0.0.1'");
                $admin->exec("GRANT SELECT ON glass.* TO {$user}@'localhost'");
            }
            $cluster = $this->live();
            $cluster->forceFill(['port' => $server->port, 'username' => 'watcher', 'secret' => 'w'])->save();
            $collector = app(Collector::class);
            $collector->poll($cluster->refresh());
            $ask = static function (mysqli $as, int $times): void {
                for ($i = 0; $i < $times; $i++) {
                    $as->query("SELECT kilos FROM pick WHERE id = {$i}");
                }
            };
            $ada = new mysqli('127.0.0.1', 'ada', 'w', 'glass', $server->port);
            $ask($ada, 4);
            $gone = new mysqli('127.0.0.1', 'bo', 'w', 'glass', $server->port);
            $ask($gone, 3);
            $gone->close();
            $client = proc_open(
                ['mariadb', '--no-defaults', '-ubo', '-pw', "--socket={$server->folder}/db.sock", '--unbuffered', 'glass'],
                [['pipe', 'r'], ['file', '/dev/null', 'w'], ['file', '/dev/null', 'w']],
                $pipes,
            );
            self::assertIsResource($client);
            fwrite($pipes[0], "SELECT kilos FROM pick WHERE id = 1;\nSELECT kilos FROM pick WHERE id = 2;\n");
            $counted = static fn (): int => (int) $admin->query("SELECT SUM(COUNT_STAR) FROM
                performance_schema.events_statements_summary_by_digest WHERE DIGEST_TEXT LIKE '%`pick` WHERE %'")->fetchColumn();
            for ($i = 0; $i < 100 && $counted() < 9; $i++) {
                usleep(50_000);
            }
            $collector->poll($cluster->refresh());
            $origins = fn (): array => DB::table('load_five_minute')
                ->join('statements', 'statements.id', '=', 'statement_id')
                ->join('origins', 'origins.id', '=', 'origin_id')
                ->where('text', 'SELECT kilos FROM pick WHERE id = ?')
                ->groupBy('user_name', 'application', 'client_host')
                ->orderBy('user_name')
                ->selectRaw('user_name, application, client_host, SUM(executions) AS n')
                ->get()
                ->map(static fn (object $row): array => [$row->user_name, $row->application, $row->client_host, (int) $row->n])
                ->all();
            // The command line names its program, in a way that depends on its version.
            $program = $admin
                ->query("SELECT ATTR_VALUE FROM performance_schema.session_connect_attrs WHERE ATTR_NAME = 'program_name'")
                ->fetchColumn();
            self::assertNotSame('', (string) $program);
            self::assertSame([['', '', '', 3], ['ada', '', '127.0.0.1', 4], ['bo', $program, 'localhost', 2]], $origins());
            fclose($pipes[0]);
            proc_close($client);
            // What failed is told with the code and the text of the server, without the values in it.
            $admin->exec('INSERT INTO glass.pick VALUES (777, 1)');
            mysqli_report(MYSQLI_REPORT_OFF);
            $ada->query('INSERT INTO pick VALUES (777, 2)');
            $ada->query('INSERT INTO pick VALUES (777, 3)');
            $ada->query('SET max_statement_time = 0.1');
            $ada->query('SELECT kilos + SLEEP(5) FROM pick');
            $ada->query('SET max_statement_time = 0');
            $collector->poll($cluster->refresh());
            $told = DB::table('messages')->orderBy('text')->get(['severity', 'text', 'occurrences'])->map(
                static fn (object $one): array => [$one->severity, $one->text, (int) $one->occurrences],
            );
            self::assertCount(2, $told);
            self::assertSame(['error', 2], [$told[0][0], $told[0][2]]);
            self::assertStringStartsWith('error 1062: Duplicate entry', $told[0][1]);
            self::assertStringNotContainsString('777', $told[0][1]);
            self::assertSame('timed_out', $told[1][0]);
            self::assertStringStartsWith('error 1969: ', $told[1][1]);
            $failed = DB::table('statements')->where('text', 'like', 'INSERT INTO pick VALUES%')->value('fingerprint');
            $this->actingAs($this->person())->get("/tune/statements/{$failed}?cluster={$cluster->slug}&window=last+hour")
                ->assertOk()
                ->assertSee('error 1062: Duplicate entry');
            // More than the server remembers: counted all the same.
            $ask($ada, 250);
            $collector->poll($cluster->refresh());
            $after = $origins();
            self::assertSame($counted(), array_sum(array_column($after, 3)));
            self::assertGreaterThan(4 + 50, $after[1][3]);
            self::assertGreaterThan(3 + 100, $after[0][3]);
            $this->get("/tune/statements?cluster={$cluster->slug}&window=last+hour")
                ->assertOk()
                ->assertSee('of the runs whose durations are known singly')
                ->assertDontSee('Quantiles are exact to 1%. ');
        } finally {
            $server->remove();
        }
    }

    public function test_watching_is_counted_apart_and_is_no_load(): void
    {
        $server = PrivateServer::start(
            '--performance-schema=ON',
            '--performance-schema-consumer-events-statements-current=ON',
            '--performance-schema-consumer-events-statements-history-long=ON',
        );
        try {
            $admin = $server->pdo();
            $admin->exec("CREATE USER watcher@'127.0.0.1' IDENTIFIED BY 'w'");
            $admin->exec("GRANT PROCESS ON *.* TO watcher@'127.0.0.1'");
            $admin->exec("GRANT SELECT ON performance_schema.* TO watcher@'127.0.0.1'");
            $cluster = $this->live();
            $cluster->forceFill(['port' => $server->port, 'username' => 'watcher', 'secret' => 'w'])->save();
            for ($i = 0; $i < 3; $i++) {
                app(Collector::class)->poll($cluster->refresh());
                (new MariaDbSource($cluster))->running();
                (new MariaDbSource($cluster))->check();
                (new MariaDbSessions($cluster))->waiting();
                $admin->exec('DO 1 + 1');
            }
            app(Collector::class)->poll($cluster->refresh());
            self::assertSame(['DO ? + ?' => 3], DB::table('load_day')
                ->join('statements', 'statements.id', '=', 'statement_id')
                ->groupBy('text')
                ->selectRaw('text, SUM(executions) AS n')
                ->pluck('n', 'text')
                ->map(static fn (mixed $n): int => (int) $n)
                ->all());
            $sampled = DB::table('samples')->join('statements', 'statements.id', '=', 'statement_id')->distinct()->pluck('text');
            self::assertSame(['DO ? + ?'], $sampled->all());
            $cost = WatchingCost::lately($cluster);
            self::assertNotNull($cost);
            self::assertGreaterThan(30, $cost->executions);
            $byAccount = $admin
                ->query("SELECT SUM(COUNT_STAR), SUM(SUM_TIMER_WAIT) / 1e6 FROM
                    performance_schema.events_statements_summary_by_user_by_event_name WHERE USER = 'watcher' AND EVENT_NAME LIKE
                    'statement/sql/%'")
                ->fetchAll(PDO::FETCH_NUM)[0];
            // All but what came before the first reading, and what the last one asked after it had read the counters.
            self::assertEqualsWithDelta((float) $byAccount[0], (float) $cost->executions, 0.3 * (float) $byAccount[0]);
            self::assertLessThanOrEqual((float) $byAccount[1], (float) $cost->durationUs);
            self::assertGreaterThan(0.5, $cost->share(), 'nobody else asks for much here');
            $this->actingAs($this->person())->get("/tend/clusters/{$cluster->slug}")->assertOk()->assertSee('Watching took');
            DB::table('watching')->update(['hour_at' => DB::raw('hour_at - 36 * 86400')]);
            self::assertSame(0, Artisan::call('telemetry:prune'));
            self::assertSame(0, DB::table('watching')->count());
        } finally {
            $server->remove();
        }
    }

    public function test_a_real_slow_log_gives_the_totals_the_server_wrote(): void
    {
        $server = PrivateServer::start('--slow-query-log=ON', '--slow-query-log-file=slow.log', '--long-query-time=0',
            '--log-slow-verbosity=query_plan,innodb,explain', '--log-queries-not-using-indexes=OFF');
        $pdo = $server->pdo();
        $pdo->exec('CREATE DATABASE glass');
        $pdo->exec('USE glass');
        $pdo->exec('CREATE TABLE pick (id INT PRIMARY KEY AUTO_INCREMENT, bay INT, note TEXT)');
        for ($i = 0; $i < 30; $i++) {
            $pdo->exec("INSERT INTO pick (bay, note) VALUES ({$i}, 'a; # not a comment'), (7, \"line\nbreak\")");
        }
        for ($i = 0; $i < 12; $i++) {
            $pdo->query("SELECT note, COUNT(*) FROM pick WHERE bay <> {$i} GROUP BY note ORDER BY COUNT(*) DESC")->fetchAll();
        }
        $pdo->query('SELECT SLEEP(0.2)')->fetchAll();
        $pdo->query('SELECT note FROM pick WHERE bay = 7')->fetchAll();
        $pdo->exec('CREATE INDEX by_bay ON pick (bay)');
        $pdo->query('SELECT note FROM pick WHERE bay = 3')->fetchAll();
        $pdo = null;
        $server->down();
        $log = (string) file_get_contents("{$server->folder}/db/slow.log");
        file_put_contents($copy = "{$server->folder}/copy.log", $log);
        // What the log itself adds up to, read with nothing of ours.
        $entries = preg_match_all('~^# Query_time: (\S+)\s+Lock_time: (\S+)\s+Rows_sent: (\d+)\s+Rows_examined: (\d+)~m', $log, $m);
        self::assertGreaterThan(40, $entries);
        $this->cluster('logged', Dialect::MariaDb);
        self::assertSame(0, Artisan::call('telemetry:import', ['file' => $copy, '--cluster' => 'logged']), Artisan::output());
        $import = Import::query()->firstOrFail();
        self::assertSame(
            [$entries, 0],
            [$import->accepted, $import->rejected],
            (string) json_encode(
                DB::table('rejected_records')->selectRaw('field, reason, COUNT(*) AS n')->groupBy('field', 'reason')->get(),
            ),
        );
        $sums = DB::table('load_day')
            ->selectRaw('SUM(executions) AS n, SUM(duration_us) AS d, SUM(lock_us) AS l, SUM(rows_returned) AS s, SUM(rows_examined) AS x')
            ->first();
        $us = static fn (array $seconds): int => array_sum(
            array_map(static fn (string $each): int => (int) round((float) $each * 1e6), $seconds),
        );
        self::assertEquals(
            [$entries, $us($m[1]), $us($m[2]), array_sum($m[3]), array_sum($m[4])],
            [$sums->n, $sums->d, $sums->l, $sums->s, $sums->x],
        );
        self::assertEquals(
            12,
            DB::table('load_day')
                ->join('statements', 'statements.id', '=', 'statement_id')
                ->where('text', 'like', 'SELECT note%GROUP BY note%')
                ->value('executions'),
        );
        // Plans stand beside them: one of it, and two of the statement that got an index meanwhile.
        $plans = fn (string $like): array => DB::table('plans')
            ->join('statements', 'fingerprint', '=', 'statement')
            ->where('text', 'like', $like)
            ->orderBy('first_us')
            ->get()
            ->map(fn (object $row): array => PlanAccess::of(app(PlanStore::class)->open($row->sealed)))
            ->all();
        self::assertSame([['pick' => '']], $plans('SELECT note%GROUP BY note%'));
        self::assertSame([['pick' => ''], ['pick' => 'by_bay']], $plans('SELECT note FROM pick WHERE bay = ?'));
        // Read again, nothing is there twice.
        $before = DB::table('plans')->get()->map(static fn (object $row): array => [$row->shape, $row->executions])->all();
        Artisan::call('telemetry:import', ['file' => $copy, '--cluster' => 'logged']);
        self::assertSame($before, DB::table('plans')->get()->map(static fn (object $row): array => [$row->shape, $row->executions])->all());
        $server->remove();
    }

    /**
     * @return list<int> executions, rows returned and rows examined of a statement
     */
    private function load(string $text, string $database): array
    {
        $row = DB::table('load_five_minute')
            ->join('statements', 'statements.id', '=', 'statement_id')
            ->join('origins', 'origins.id', '=', 'origin_id')
            ->where('text', $text)
            ->where('database_name', $database)
            ->selectRaw('SUM(executions) AS n, SUM(rows_returned) AS returned, SUM(rows_examined) AS examined')
            ->first();

        return [(int) $row?->n, (int) $row?->returned, (int) $row?->examined];
    }

    private function live(): Cluster
    {
        $env = (array) parse_ini_file(base_path('.env'), false, INI_SCANNER_RAW);

        return Cluster::query()
            ->create([
                'slug' => 'own-store',
                'name' => 'Own store',
                'role' => 'own',
                'connector' => 'mariadb',
                'dialect' => Dialect::MariaDb,
                'is_own' => true,
                'host' => '127.0.0.1',
                'port' => (int) trim((string) $env['DB_PORT'], '"'),
                'username' => 'fulcrion_watcher',
                'secret' => trim((string) $env['WATCHER_PASSWORD'], '"'),
            ])
            ->refresh();
    }
}
