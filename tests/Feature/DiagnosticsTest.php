<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Diagnostics\Application\LiveDiagnosis;
use App\Ledger\Findings\Evidence;
use App\Ledger\Findings\FindingState;
use App\Ledger\Models\Finding;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use mysqli;
use mysqli_result;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;
use Tests\WatchedServer;

/**
 * Troubles planted in the statements of a real MariaDB, and what is found of them.
 */
#[Group('today')]
final class DiagnosticsTest extends TestCase
{
    use WatchedServer {
        read as private poll;
    }

    private mysqli $client;

    protected function setUp(): void
    {
        parent::setUp();
        if (
            self::started(
                '--performance-schema-consumer-events-statements-current=ON',
                '--performance-schema-consumer-events-statements-history-long=ON',
            )
        ) {
            self::admin()->exec("GRANT SELECT ON glass.* TO watcher@'127.0.0.1'");
            self::admin()->exec("GRANT SELECT ON harvest.* TO watcher@'127.0.0.1'");
        }
        $pdo = self::admin();
        foreach (['glass', 'harvest'] as $schema) {
            $pdo->exec("DROP DATABASE IF EXISTS {$schema}");
            $pdo->exec("CREATE DATABASE {$schema}");
        }
        $pdo->exec('USE glass');
        $pdo->exec('CREATE TABLE glass.crew (id INT PRIMARY KEY, code INT, name VARCHAR(20)) ENGINE=InnoDB');
        $pdo->exec("INSERT INTO glass.crew SELECT seq, seq, CONCAT('crew ', seq) FROM seq_1_to_200");
        $pdo->exec('CREATE TABLE glass.pick (id INT PRIMARY KEY, crew INT, kilos INT, note TEXT, KEY by_crew (crew)) ENGINE=InnoDB');
        $pdo->exec("INSERT INTO glass.pick SELECT seq, seq % 200, seq % 37, CONCAT('n', seq % 50) FROM seq_1_to_40000");
        $pdo->query('ANALYZE TABLE glass.pick, glass.crew')->fetchAll();
        $this->watched('glass');
        $this->client = self::server()->session('glass');
        $this->read();
    }

    public function test_a_lost_index_is_found_with_the_definition_that_took_it_away(): void
    {
        $sql = 'SELECT SUM(kilos) FROM pick WHERE crew = ';
        $this->ask($sql.'7', 3);
        $this->read();
        self::assertSame([], $this->found(), 'one plan is no change');
        $id = DB::table('plan_takes')->value('statement');
        self::assertSame(1, DB::table('plan_takes')->count());
        $page = "/tune/statements/{$id}?cluster=glass&window=last+hour";
        $this->actingAs($this->person())->get($page)->assertOk()
            ->assertSee('Its plan was asked for once, last at ');
        self::admin()->exec('CREATE TABLE harvest.pick (id INT PRIMARY KEY)');
        $elsewhere = self::server()->session('harvest');
        $elsewhere->query('ALTER TABLE pick ADD COLUMN elsewhere INT');
        $this->client->query('DROP INDEX by_crew ON pick');
        $this->travel(60)->seconds();
        $this->askFor($sql.'9', 0.8);
        $this->read();
        $found = $this->found();
        self::assertSame(['plan-changed', 'reads-without-index'], array_keys($found));
        $finding = $found['plan-changed'];
        self::assertStringStartsWith('Reads glass.pick as a whole, which it looked up by by_crew before, since ', str_replace(
            'Reads pick',
            'Reads glass.pick',
            $finding->problem,
        ));
        self::assertSame('act', $finding->severity->value);
        $evidence = array_column($finding->evidence, 'value', 'label');
        self::assertStringEndsWith('by by_crew', $evidence['plan before']);
        self::assertStringEndsWith('as a whole', $evidence['plan now']);
        $values = implode("\n", array_map(static fn (Evidence $one): string => $one->value, $finding->evidence));
        self::assertStringContainsString('DROP INDEX by_crew ON pick', $values);
        self::assertStringNotContainsString('= 9', $values, 'without values');
        self::assertStringNotContainsString('elsewhere', $values, 'a table of the same name is another one');
        self::assertMatchesRegularExpression(
            '~^Reads 3\d\x{202f}\d{3} rows a run without an index, 3\d\x{202f}\d{3} for each it gives~u',
            $found['reads-without-index']->problem,
        );
        $this->get('/')->assertOk()->assertSee('which it looked up by by_crew before');
        $this->get("/ledger/findings/{$finding->id}")->assertOk()->assertSee('DROP INDEX by_crew ON pick');
        // Made again, it runs as before, and there is nothing to be told.
        $this->client->query('CREATE INDEX by_crew ON pick (crew)');
        $this->travel(700)->seconds();
        $this->ask($sql.'11', 1);
        $this->read();
        self::assertSame([], $this->found());
        self::assertSame(FindingState::Solved, $finding->refresh()->state);
    }

    public function test_another_plan_of_a_small_table_is_only_worth_watching(): void
    {
        $this->client->query('CREATE INDEX by_code ON crew (code)');
        $this->client->query('SELECT name FROM crew WHERE code = 7')->free();
        $this->read();
        $this->client->query('DROP INDEX by_code ON crew');
        $this->travel(60)->seconds();
        $this->client->query('SELECT name FROM crew WHERE code = 8')->free();
        $this->read();
        // Reading 200 rows takes no longer than looking one up, but for what chance adds to a single run.
        DB::table('load_five_minute')->update(['duration_us' => DB::raw('100 * executions')]);
        $found = $this->found();
        self::assertSame(['plan-changed'], array_keys($found));
        self::assertSame(['watch', false], [$found['plan-changed']->severity->value, $found['plan-changed']->urgent]);
        DB::table('load_five_minute')->delete();
        self::assertSame('watch', $this->found()['plan-changed']->severity->value, 'nor where durations are not known');
    }

    public function test_lists_whose_rows_are_looked_up_one_by_one_are_found_with_the_list(): void
    {
        for ($round = 0; $round < 4; $round++) {
            $this->client->query('BEGIN');
            $rows = $this->client->query('SELECT id, name FROM crew ORDER BY id LIMIT 40');
            self::assertInstanceOf(mysqli_result::class, $rows);
            foreach ($rows as $row) {
                $this->client->query("SELECT kilos FROM pick WHERE id = {$row['id']}")->free();
            }
            $this->client->query('COMMIT');
        }
        $this->read();
        $found = $this->found();
        self::assertSame(['n+1'], array_keys($found));
        self::assertStringStartsWith('Run once for each row of another statement (N+1), 40', $found['n+1']->problem);
        self::assertSame(
            'SELECT ID, NAME FROM crew ORDER BY ID LIMIT ?',
            array_column($found['n+1']->evidence, 'value', 'label')['runs for each row of'],
        );
        $this->actingAs($this->person())->get('/')->assertOk()->assertSee('(N+1)');
        $this->travel(3_700)->seconds();
        self::assertSame([], $this->found(), 'it is over');
    }

    public function test_rows_looked_for_before_they_are_inserted_and_questions_without_an_answer(): void
    {
        for ($i = 0; $i < 60; $i++) {
            $this->client->query('SELECT id FROM crew WHERE code = '.(1000 + $i))->free();
            $this->client->query('INSERT INTO crew (id, code) VALUES ('.(1000 + $i).', '.(1000 + $i).')');
        }
        $poller = self::server()->session('glass');
        for ($i = 0; $i < 31; $i++) {
            $poller->query('SELECT id FROM pick WHERE id = -1')->free();
            usleep(60_000);
        }
        $this->read();
        $found = $this->found();
        self::assertEqualsCanonicalizing(['read-before-insert', 'polling'], array_keys($found));
        self::assertStringStartsWith(
            'Looks for a row before each INSERT of it: SELECT ID FROM crew',
            $found['read-before-insert']->problem,
        );
        self::assertMatchesRegularExpression('~^Asks the same every [67]\d(\.\d)? ms, mostly~', $found['polling']->problem);
    }

    public function test_temporary_tables_on_disk_and_statements_that_fail_with_what_the_server_said(): void
    {
        $this->askFor('SELECT note, COUNT(DISTINCT id) FROM pick GROUP BY note, kilos ORDER BY 2', 0.8);
        for ($i = 0; $i < 30; $i++) {
            $this->client->query("INSERT INTO crew (id, name) VALUES (7, 'Zephyrine')");
        }
        $this->read();
        $found = $this->found();
        self::assertArrayHasKey('temporary-tables-on-disk', $found);
        self::assertStringContainsString(' to disk in each run: SELECT note', $found['temporary-tables-on-disk']->problem);
        self::assertStringStartsWith('Always fails, with “error 1062: Duplicate entry', $found['fails']->problem);
        self::assertSame('act', $found['fails']->severity->value);
        $all = json_encode(Finding::query()->get()->toArray(), JSON_THROW_ON_ERROR);
        self::assertStringNotContainsString('Zephyrine', $all);
    }

    public function test_tables_that_moved_are_one_finding_that_says_where_they_are(): void
    {
        $this->client->query('RENAME TABLE glass.pick TO harvest.pick');
        for ($i = 0; $i < 6; $i++) {
            $this->client->query("SELECT kilos FROM pick WHERE id = {$i}");
            $this->client->query("SELECT COUNT(*) FROM pick WHERE crew = {$i}");
        }
        $this->read();
        $found = $this->found();
        self::assertSame(['missing-table'], array_keys($found), 'and not each statement by itself');
        self::assertSame(
            'The table glass.pick is not there, and 2 statements fail because of it; harvest has a table of that name',
            $found['missing-table']->problem,
        );
        $labels = array_column($found['missing-table']->evidence, 'value', 'label');
        self::assertSame('harvest.pick', $labels['of the same name']);
        self::assertStringContainsString('RENAME TABLE glass.pick TO harvest.pick', implode("\n", $labels));
        $this->client->query('RENAME TABLE harvest.pick TO glass.pick');
        self::assertSame([], $this->found(), 'it is there again');
    }

    public function test_what_the_account_may_not_explain_is_noted_and_left_alone(): void
    {
        $pdo = self::admin();
        $pdo->exec('DROP DATABASE IF EXISTS cellar');
        $pdo->exec('CREATE DATABASE cellar');
        $pdo->exec('CREATE TABLE cellar.jar (id INT PRIMARY KEY)');
        $this->client->query('SELECT id FROM cellar.jar WHERE id = 5')->free();
        $this->client->query('SELECT id FROM crew WHERE id = 5 FOR UPDATE')->free();
        $this->read();
        $takes = DB::table('plan_takes')->get();
        self::assertCount(2, $takes);
        $refused = $takes->whereNotNull('problem');
        self::assertCount(1, $refused);
        self::assertStringContainsString('SELECT command denied', $refused->first()->problem);
        self::assertStringNotContainsString('5', (string) preg_replace('~127\.0\.0\.1~', '', $refused->first()->problem));
        self::assertSame([], $this->found());
        // Asking for plans is watching and no load.
        $this->read();
        self::assertSame(0, DB::table('statements')->join('load_day', 'statement_id', '=', 'statements.id')
            ->where('text', 'like', 'EXPLAIN%')->count());
    }

    /** Until it has taken so long, on whatever machine. */
    private function askFor(string $sql, float $seconds): void
    {
        for ($began = hrtime(true), $i = 0; hrtime(true) - $began < $seconds * 1e9 || $i < 10; $i++) {
            $this->ask($sql, 1);
        }
    }

    private function ask(string $sql, int $times): void
    {
        for ($i = 0; $i < $times; $i++) {
            $answer = $this->client->query($sql);
            self::assertInstanceOf(mysqli_result::class, $answer, "run {$i}: {$this->client->errno} {$this->client->error}");
            $answer->free();
        }
    }

    /** A server counts a statement after it has answered: the next one of the session comes after that. */
    private function read(): void
    {
        $this->client->query('DO 0');
        $this->poll();
    }

    /**
     * @return array<string, Finding> waiting, by rule
     */
    private function found(): array
    {
        Artisan::call('diagnostics:check', ['cluster' => 'glass']);

        return Finding::waiting()->where('source', LiveDiagnosis::SOURCE)->get()->sortBy('rule')->keyBy('rule')->all();
    }
}
