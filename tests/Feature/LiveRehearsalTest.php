<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Authorization\Clusters;
use App\Estate\Models\Cluster;
use App\Ledger\Models\Change;
use App\Ledger\Models\ProofRecord;
use App\Platform\Support\Role;
use App\Telemetry\Collect\Collector;
use App\Telemetry\Workload\WorkloadReader;
use App\Tuning\Application\IndexPage;
use Fulcrion\Tools\Live\PrivateServer;
use Illuminate\Support\Facades\DB;
use Illuminate\Testing\TestResponse;
use PDO;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;
use Tests\WatchedServer;

/**
 * Where an index of a real MariaDB is tried, what that takes, and which statements it is tried with.
 */
#[Group('today')]
final class LiveRehearsalTest extends TestCase
{
    use WatchedServer;

    private static ?PrivateServer $second = null;

    public static function tearDownAfterClass(): void
    {
        self::$second?->remove();
        self::$second = null;
        self::$server?->remove();
        self::$server = null;
        parent::tearDownAfterClass();
    }

    protected function setUp(): void
    {
        parent::setUp();
        if (self::started(
            '--performance-schema-consumer-events-statements-current=ON',
            '--performance-schema-consumer-events-statements-history-long=ON',
        )) {
            self::$second = PrivateServer::start('--performance-schema=ON');
            foreach ([self::admin(), self::$second->pdo()] as $pdo) {
                $pdo->exec("CREATE USER adviser@'127.0.0.1' IDENTIFIED BY 'w'");
                $pdo->exec("GRANT PROCESS ON *.* TO adviser@'127.0.0.1'");
                $pdo->exec("GRANT SELECT ON performance_schema.* TO adviser@'127.0.0.1'");
                $pdo->exec("GRANT ALL ON `farm%`.* TO adviser@'127.0.0.1'");
            }
        }
        foreach ([[self::admin(), 30_000], [self::second()->pdo(), 40_000]] as [$pdo, $rows]) {
            $pdo->exec('DROP DATABASE IF EXISTS farm_rehearsal');
            $pdo->exec('DROP DATABASE IF EXISTS farm');
            $pdo->exec('CREATE DATABASE farm');
            $pdo->exec('USE farm');
            $pdo->exec('CREATE TABLE pick (id INT PRIMARY KEY, bay INT, kilos INT, note VARCHAR(20)) ENGINE=InnoDB');
            $pdo->exec("INSERT INTO pick SELECT seq, seq % 10, seq % 900, CONCAT('n', seq % 3000) FROM seq_1_to_{$rows}");
            $pdo->query('ANALYZE TABLE pick')->fetchAll();
        }
        self::second()->pdo()->exec('CREATE INDEX by_bay ON farm.pick (bay)');
        $this->watched('farm', ['is_own' => false, 'username' => 'adviser']);
        app(Collector::class)->poll($this->cluster);
        $client = self::server()->session('farm');
        foreach (range(1, 12) as $i) {
            $client->query("SELECT SUM(kilos) FROM pick WHERE note = 'n{$i}'")->free();
            $client->query('INSERT INTO pick (id, bay, kilos, note) VALUES ('.(900_000 + $i).", 3, 5, 'new')");
        }
        $client->query('SELECT COUNT(*) FROM pick WHERE kilos > 880')->free();
        $client->query('SELECT MAX(bay) FROM pick WHERE bay < 7')->free();
        $client->query('DO 0');
        app(Collector::class)->poll($this->cluster->refresh());
        // Of one no run was kept.
        DB::table('samples')
            ->whereIn('statement_id', DB::table('statements')->where('text', 'like', 'SELECT MAX%')->select('id'))
            ->delete();
    }

    private static function second(): PrivateServer
    {
        self::assertNotNull(self::$second);

        return self::$second;
    }

    private function proposed(): Change
    {
        $missing = IndexPage::of($this->cluster->refresh(), app(Clusters::class), app(WorkloadReader::class))->missing;
        self::assertSame('note', $missing[0]->columns[0] ?? null);
        $this->actingAs($this->person(Role::Engineer))
            ->post('/tune/indexes/farm/propose', ['table' => 'farm.pick', 'index' => $missing[0]->name()])
            ->assertSessionHas('done');

        return Change::query()->latest('id')->firstOrFail();
    }

    private function elsewhere(): Cluster
    {
        return Cluster::query()->create([
            'slug' => 'copse', 'name' => 'Copse', 'role' => 'rehearsal', 'connector' => 'mariadb', 'dialect' => $this->cluster->dialect,
            'is_own' => false, 'host' => '127.0.0.1', 'port' => self::second()->port, 'username' => 'adviser', 'secret' => 'w',
        ])->refresh();
    }

    /**
     * @param  array<string, mixed>  $more
     * @return TestResponse<\Symfony\Component\HttpFoundation\Response>
     */
    private function choose(Change $change, array $more): TestResponse
    {
        return $this->actingAs($this->person(Role::Engineer))
            ->from("/ledger/changes/{$change->id}")
            ->post("/ledger/changes/{$change->id}/choose", $more + [
                'statements' => array_column($change->workload, 'id'), 'copy_share' => 100,
            ]);
    }

    private function rehearse(Change $change): Change
    {
        $this->actingAs($this->person(Role::Engineer))->post("/ledger/changes/{$change->id}/rehearse");

        return $change->refresh();
    }

    private static function schemas(PrivateServer $server): string
    {
        return implode(',', array_map(
            static fn (array $row): string => (string) $row[0],
            $server->pdo()->query("SHOW DATABASES LIKE 'farm%'")->fetchAll(PDO::FETCH_NUM),
        ));
    }

    public function test_all_statements_of_the_table_are_measured_and_the_others_are_named_with_their_reason(): void
    {
        $change = $this->proposed();
        // The one it is for comes first, then what else reads the table and can be run.
        self::assertCount(2, $change->workload);
        $this->get("/ledger/changes/{$change->id}")
            ->assertOk()
            ->assertSee('(modelled, by reading some rows)')
            ->assertSee('making it on the table')
            ->assertDontSee('it took');
        $change = $this->rehearse($change);
        self::assertNull($change->error);
        $proof = ProofRecord::query()->where('change_id', $change->id)->sole();
        self::assertTrue($proof->holds);
        self::assertCount(2, $proof->proof()->lines);
        $reasons = array_column($proof->unmeasured ?? [], 'reason', 'text');
        ksort($reasons);
        self::assertSame(
            [
                'INSERT INTO PICK(ID, BAY, KILOS, NOTE) VALUES (?, ...)' => 'It only writes, and nothing is written to measure something.',
                'SELECT MAX(BAY) FROM PICK WHERE BAY < ?' => 'No run of it was kept with its values.',
            ],
            array_change_key_case($reasons, CASE_UPPER),
        );
        self::assertStringNotContainsString("'new'", (string) json_encode($proof->unmeasured), 'no values');
        $this->get("/ledger/proofs/{$proof->id}")
            ->assertSee('Not measured')
            ->assertSee('2 other statements use farm.pick and are not in the comparison.')
            ->assertSee('It only writes');
        $this->get("/ledger/proofs/{$proof->id}/file")->assertSee('It only writes');
        // What was done for it is counted as watching, and is no load of anybody's.
        self::server()->session('farm')->query('DO 0');
        app(Collector::class)->poll($this->cluster->refresh());
        $texts = DB::table('load_day')->join('statements', 'statements.id', '=', 'statement_id')->distinct()->pluck('text')->all();
        sort($texts);
        self::assertSame(
            [
                'DO ?', 'INSERT INTO pick(ID, bay, kilos, note) VALUES (?, ...)', 'SELECT COUNT(*) FROM pick WHERE kilos > ?',
                'SELECT MAX(bay) FROM pick WHERE bay < ?', 'SELECT SUM(kilos) FROM pick WHERE note = ?',
            ],
            $texts,
        );
        // What was measured is what the next one is estimated by.
        self::assertSame($this->cluster->id, $proof->costs['cluster'] ?? null);
        self::assertGreaterThan(29_000, $proof->costs['rows'] ?? 0);
        $this->get("/ledger/changes/{$change->id}")->assertSee('it took')->assertSee('rows (measured)')->assertSee('(by the copy)');
        $next = $this->proposed();
        self::assertSame(1, $next->expected['rehearsal']['rehearsals'] ?? null);
        $this->get("/ledger/changes/{$next->id}")->assertSee('(by the last rehearsal there)');
    }

    public function test_what_cannot_be_run_before_the_change_is_no_proof_against_it(): void
    {
        $change = $this->proposed();
        // Since then the columns of one statement are gone from the table that is looked at.
        self::admin()->exec('ALTER TABLE farm.pick DROP COLUMN kilos, ADD COLUMN kilos2 INT');
        $change->update(['sealed_steps' => ['CREATE INDEX `by_note` ON `farm`.`pick` (`note`)']]);
        $change = $this->rehearse($change);
        // Nothing could be compared, and that is what is said.
        $proof = ProofRecord::query()->where('change_id', $change->id)->sole();
        self::assertSame([], $proof->proof()->lines);
        self::assertFalse($proof->holds);
        self::assertStringContainsString('kilos', implode(' ', array_column($proof->unmeasured ?? [], 'reason')));
    }

    public function test_it_can_be_tried_on_another_server_and_nothing_happens_on_the_one_that_works(): void
    {
        $copse = $this->elsewhere();
        $change = $this->proposed();
        $this->get("/ledger/changes/{$change->id}")->assertSee('Copse, on a copy of its own table of that name');
        $this->choose($change, ['rehearse_on' => $copse->id])->assertSessionHas('done');
        self::assertSame($copse->id, $change->refresh()->rehearse_on_id);
        self::assertEqualsWithDelta(40_000, $change->expected['rehearsal']['tableRows'] ?? 0, 2_000);
        $change = $this->rehearse($change);
        self::assertNull($change->error);
        self::assertSame('rehearsed', $change->state->value);
        self::assertSame('farm', self::schemas(self::server()), 'no schema for rehearsals where it works');
        self::assertSame('farm,farm_rehearsal', self::schemas(self::second()));
        self::assertSame([], self::second()->pdo()->query('SHOW TABLES FROM farm_rehearsal')->fetchAll(), 'and the copy is gone');
        $proof = $change->latestProof('rehearsal');
        self::assertNotNull($proof);
        self::assertTrue($proof->holds);
        self::assertMatchesRegularExpression(
            '~^Copse; nothing was done on Farm\. Its table has (39|4\d)\D?\d{3} rows, the one of Farm (29|3\d)\D?\d{3}; '
                .'not both have an index on \(bay\)$~u',
            $proof->conditions['on another server'] ?? '',
        );
        self::assertSame($copse->id, $proof->costs['cluster'] ?? null);
    }

    public function test_a_server_on_which_nothing_could_be_shown_is_refused(): void
    {
        $copse = $this->elsewhere();
        $change = $this->proposed();
        $this->choose($change, ['rehearse_on' => $copse->id]);
        self::second()->pdo()->exec('ALTER TABLE farm.pick DROP COLUMN note');
        self::assertStringContainsString('On Copse the table farm.pick lacks note', (string) $this->rehearse($change)->error);
        self::second()->pdo()->exec('DROP TABLE farm.pick');
        self::assertStringContainsString('Copse has no table farm.pick.', (string) $this->rehearse($change)->error);
        self::assertSame('farm', self::schemas(self::server()));
        // Nobody meant the server that works when theirs is gone.
        $copse->delete();
        self::assertStringContainsString('was removed. Choose where', (string) $this->rehearse($change)->error);
        self::assertSame('farm', self::schemas(self::server()));
        self::assertSame('proposed', $change->refresh()->state->value);
        $this->choose($change, ['rehearse_on' => $copse->id])->assertSessionHasErrors('rehearse_on');
        $this->choose($change, ['rehearse_on' => $this->cluster->id])->assertSessionHas('done');
        self::assertNull($change->refresh()->rehearse_on_id);
        self::assertNull($this->rehearse($change)->error);
    }

    public function test_what_each_of_two_servers_would_have_to_allow_is_named(): void
    {
        $copse = $this->elsewhere();
        foreach ([self::admin(), self::second()->pdo()] as $pdo) {
            $pdo->exec("CREATE OR REPLACE USER reader@'127.0.0.1' IDENTIFIED BY 'w'");
            $pdo->exec("GRANT SELECT ON farm.* TO reader@'127.0.0.1'");
        }
        $change = $this->proposed();
        $this->choose($change, ['rehearse_on' => $copse->id]);
        $this->cluster->update(['username' => 'reader']);
        $copse->update(['username' => 'reader']);
        self::assertStringContainsString(
            "GRANT INDEX ON `farm`.`pick` TO 'reader'@'127.0.0.1'; GRANT SELECT, INSERT, CREATE, DROP, INDEX ON `farm_rehearsal`.* TO "
                ."'reader'@'127.0.0.1'",
            (string) $this->rehearse($change)->error,
        );
        self::assertSame(1, substr_count((string) $change->error, 'GRANT INDEX ON `farm`.`pick`'), 'on the one that is changed only');
    }

    public function test_a_large_table_is_tried_on_a_sample_unless_somebody_wants_otherwise(): void
    {
        $pdo = self::admin();
        $pdo->exec('USE farm');
        $pdo->exec('INSERT INTO farm.pick SELECT seq, seq % 10, seq % 900, CONCAT(\'n\', seq % 3000) FROM seq_1000000_to_1370000');
        $pdo->query('ANALYZE TABLE farm.pick')->fetchAll();
        $change = $this->proposed();
        self::assertEqualsWithDelta(0.25, $change->refresh()->copy_share, 0.02);
        $change = $this->rehearse($change);
        self::assertNull($change->error);
        self::assertEqualsWithDelta(100_000, $change->latestProof('rehearsal')->costs['rows'] ?? 0, 15_000);
    }
}
