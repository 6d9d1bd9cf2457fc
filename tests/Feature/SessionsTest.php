<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Connectors\Connectors;
use App\Estate\Connectors\MariaDbSessions;
use App\Estate\Connectors\MariaDbSource;
use App\Estate\Connectors\SourceError;
use App\Estate\Models\Cluster;
use App\Ledger\Findings\Evidence;
use App\Ledger\Models\Finding;
use App\Ledger\Models\LedgerEntry;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use App\Sessions\Application\Deadlocks;
use App\Sessions\Application\LockView;
use App\Sessions\Application\SessionWatch;
use App\Sessions\Models\DeadlockRecord;
use Fulcrion\Core\Sessions\LockChain;
use Fulcrion\Core\Sessions\LockWait;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Core\Sql\Fingerprinter;
use Illuminate\Support\Facades\Artisan;
use mysqli;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;
use Tests\WatchedServer;

/**
 * Locks, deadlocks and what is stopped, on a real MariaDB of its own with troubles planted in it.
 */
#[Group('today')]
final class SessionsTest extends TestCase
{
    use WatchedServer;

    protected function setUp(): void
    {
        parent::setUp();
        if (
            self::started(
                '--performance-schema-consumer-events-statements-current=ON',
                '--performance-schema-consumer-events-statements-history-long=ON',
                '--performance-schema-instrument=wait/lock/metadata/sql/mdl=ON',
                '--innodb-lock-wait-timeout=60',
            )
        ) {
            $pdo = self::admin();
            $pdo->exec('CREATE DATABASE glass');
            $pdo->exec('CREATE TABLE glass.pick (id INT PRIMARY KEY, kilos INT, grade VARCHAR(8), KEY by_grade (grade)) ENGINE=InnoDB');
            $pdo->exec("CREATE USER ender@'127.0.0.1' IDENTIFIED BY 'e'");
            $pdo->exec("GRANT CONNECTION ADMIN ON *.* TO ender@'127.0.0.1'");
        }
        self::admin()->exec(
            "REPLACE INTO glass.pick (id, kilos, grade) VALUES (1, 10, 'a'), (2, 20, 'b'), (3, 30, 'c'), (4, 40, 'd')",
        );
        $this->watched('glass', ['ender_username' => 'ender', 'ender_secret' => 'e']);
    }

    public function test_who_is_held_up_is_told_with_the_idle_session_at_the_beginning(): void
    {
        [$idle, $update, $select, $alter, $read] = $this->contention();
        $reading = (new MariaDbSessions($this->cluster))->waiting();
        $view = new LockView($this->cluster, $reading);
        self::assertCount(1, $view->chains);
        $chain = $view->chains[0];
        self::assertSame($idle->thread_id, $chain->session);
        self::assertEqualsCanonicalizing(
            [$update->thread_id, $select->thread_id, $alter->thread_id, $read->thread_id],
            $chain->blocked(),
        );
        $below = [];
        foreach ($chain->behind as $one) {
            $behind = array_map(static fn (LockChain $next): int => $next->session, $one->behind);
            $below[$one->session] = [$one->wait?->what, $one->wait?->table, $behind];
        }
        self::assertSame(['rows by PRIMARY', 'glass.pick', []], $below[$update->thread_id]);
        self::assertSame(['the definition', 'glass.pick', [$read->thread_id]], $below[$alter->thread_id]);
        $holder = $view->session($idle->thread_id);
        self::assertNotNull($holder);
        self::assertTrue($holder->idle);
        self::assertSame(['glass', 1, 1], [$holder->database, $holder->rowsLocked, $holder->rowsChanged]);
        self::assertGreaterThanOrEqual(0, $holder->transactionUs);
        self::assertSame('UPDATE pick SET kilos = kilos + ? WHERE ID = ?', $view->statement($idle->thread_id)?->text, 'what it ran last');
        self::assertStringStartsWith(
            "4 sessions of Glass all wait behind session {$idle->thread_id} of ",
            $view->sentence(),
        );
        self::assertStringEndsWith('in an open transaction', $view->sentence());
        self::assertSame([], $reading->gaps);
        self::assertGreaterThan(200_000, LockView::longestUs($chain));
        self::assertLessThan(30_000_000, LockView::longestUs($chain));
    }

    public function test_a_page_shows_the_chain_without_values_and_engineers_may_stop_it(): void
    {
        [$idle, $update] = $this->contention();
        $page = '/tune/locks?cluster=glass';
        $this->actingAs($this->person(Role::Viewer))->get($page)
            ->assertOk()
            ->assertSee('4 sessions of Glass all wait')
            ->assertSee("session {$idle->thread_id}")
            ->assertSee('UPDATE pick SET kilos')
            ->assertDontSee('777')
            ->assertDontSee('End the session');
        $stop = ['session' => $idle->thread_id, 'act' => 'end'];
        $this->post('/tune/locks/glass/stop', $stop)->assertForbidden();
        self::assertSame('', $idle->query('SELECT 1') === false ? $idle->error : '', 'nothing has happened to it');

        $engineer = $this->person(Role::Engineer);
        $this->actingAs($engineer)->get($page)->assertOk()->assertSee('End the session');
        $this->get('/tune/running?cluster=glass')->assertOk()->assertSee('Cancel the statement');
        // What somebody saw may have gone on to something else by the time they press.
        $this->from($page)->post('/tune/locks/glass/stop', [
            'session' => $update->thread_id, 'act' => 'cancel', 'statement' => str_repeat('0', 32),
        ])->assertRedirect($page)->assertSessionHas(
            'failed',
            "Session {$update->thread_id} has gone on to another statement, so nothing was cancelled.",
        );
        $fingerprint = (new Fingerprinter(Dialect::MariaDb))->of('UPDATE pick SET kilos = 777 WHERE id = 1')->id;
        $this->from($page)->post('/tune/locks/glass/stop', [
            'session' => $update->thread_id, 'act' => 'cancel', 'statement' => $fingerprint,
        ])->assertRedirect($page)->assertSessionHas('done', "The statement of session {$update->thread_id} is cancelled.");
        self::assertFalse($update->reap_async_query());
        self::assertStringContainsString('interrupted', $update->error);
        self::assertNotFalse($update->query('SELECT 1'), 'the session itself goes on');
        $this->from($page)->post('/tune/locks/glass/stop', $stop)->assertRedirect($page)->assertSessionHas('done');
        $gone = self::within(fn (): bool => ! str_contains((new LockView($this->cluster, (new MariaDbSessions($this->cluster))->waiting()))
            ->sentence(), "session {$idle->thread_id}"));
        self::assertTrue($gone, 'nobody stands behind it any more');
        self::assertSame(
            ['cancelled a statement', 'ended a session'],
            LedgerEntry::query()->where('user_id', $engineer->id)->orderBy('number')->pluck('act')->all(),
        );
        $this->from($page)->post('/tune/locks/glass/stop', $stop)->assertSessionHas('failed', 'The session has ended meanwhile.');
    }

    public function test_a_stop_that_is_none_is_refused(): void
    {
        $this->actingAs($this->person(Role::Engineer));
        foreach (
            [
                [['session' => 'x', 'act' => 'end'], 'session'], [['session' => 0, 'act' => 'end'], 'session'],
                [['session' => 5, 'act' => 'restart'], 'act'], [['session' => 5], 'act'],
                [['session' => 5, 'act' => 'cancel'], 'statement'],
                [['session' => 5, 'act' => 'cancel', 'statement' => "1'; KILL 3"], 'statement'],
            ] as [$fields, $field]
        ) {
            $this->post('/tune/locks/glass/stop', $fields)->assertSessionHasErrors($field);
        }
        $this->cluster->forceFill(['ender_username' => null])->save();
        $this->from('/tune/locks')->post('/tune/locks/glass/stop', ['session' => 5, 'act' => 'end'])
            ->assertSessionHas('failed', 'No account is set that may stop sessions. Set one on the page of the cluster.');
        $this->get('/tune/locks?cluster=glass')->assertOk()->assertSee('No account');
        $this->cluster->forceFill(['ender_username' => 'watcher', 'ender_secret' => 'w'])->save();
        [$idle] = $this->contention();
        try {
            (new MariaDbSessions($this->cluster))->end($idle->thread_id);
            self::fail('the watcher may not');
        } catch (SourceError $error) {
            self::assertStringContainsString('not owner', $error->getMessage());
        }
        self::assertSame(0, LedgerEntry::query()->where('act', 'ended a session')->count());
    }

    public function test_who_holds_others_up_for_long_is_a_finding_until_they_go_on(): void
    {
        [$idle] = $this->contention();
        $watch = $this->app->make(SessionWatch::class);
        $watch->look($this->cluster);
        self::assertSame(0, Finding::query()->count(), 'short waits come and go');
        // As if it had gone on for a minute: the source is asked for real, and its waits are made longer.
        $this->lengthened(60_000_000);
        $watch = $this->app->make(SessionWatch::class);
        $watch->look($this->cluster);
        $finding = Finding::query()->sole();
        self::assertSame(['held-up', 'glass.pick', 'sessions'], [$finding->rule, $finding->object, $finding->source]);
        self::assertMatchesRegularExpression(
            "~^Session {$idle->thread_id} of \S+, idle for .+ in an open transaction, holds up 4 others, the longest for 6\d\.\d s$~",
            $finding->problem,
        );
        $evidence = array_column(array_map(static fn (Evidence $one): array => [$one->label, $one->value], $finding->evidence), 1, 0);
        self::assertSame('UPDATE pick SET kilos = kilos + ? WHERE ID = ?', $evidence['what it ran last']);
        self::assertMatchesRegularExpression('~^open for .*, 1 row locked, 1 changed$~', $evidence['its transaction']);
        self::assertStringStartsWith('End the session', $evidence['what would help']);
        $this->actingAs($this->person())->get("/ledger/findings/{$finding->id}")->assertOk()->assertSee('/tune/locks?cluster=glass');
        $idle->query('ROLLBACK');
        self::assertTrue(self::within(function () use ($watch): bool {
            $watch->look($this->cluster);

            return Finding::query()->sole()->state->value === 'solved';
        }));
    }

    public function test_a_deadlock_is_taken_down_once_and_told_for_a_day(): void
    {
        $a = $this->opened();
        $b = $this->opened();
        foreach ([$a, $b] as $one) {
            $one->query('BEGIN');
        }
        $a->query('UPDATE pick SET kilos = 4711 WHERE id = 3');
        $b->query('UPDATE pick SET kilos = 4712 WHERE id = 4');
        $a->query('UPDATE pick SET kilos = 4713 WHERE id = 4', MYSQLI_ASYNC);
        usleep(200_000);
        $b->query('UPDATE pick SET kilos = 4714 WHERE id = 3', MYSQLI_ASYNC);
        usleep(500_000);
        for ($i = 0; $i < 3; $i++) {
            self::assertSame(0, Artisan::call('sessions:watch', ['cluster' => 'glass']));
        }
        $record = DeadlockRecord::query()->sole();
        self::assertSame(['glass.pick'], $record->tables());
        self::assertCount(2, $record->sides);
        self::assertEqualsCanonicalizing([$a->thread_id, $b->thread_id], array_column($record->sides, 'session'));
        self::assertSame(1, count(array_filter(array_column($record->sides, 'victim'))));
        self::assertSame(['UPDATE pick SET kilos = ? WHERE ID = ?'], array_values(array_unique(array_column($record->sides, 'text'))));
        self::assertStringNotContainsString('471', (string) json_encode($record->sides));
        $finding = Finding::query()->where('rule', 'deadlock')->sole();
        self::assertStringStartsWith('A deadlock on glass.pick in the last 24 hours, the last one at 2', $finding->problem);
        $this->actingAs($this->person())->get('/tune/locks?cluster=glass')
            ->assertOk()
            ->assertSee('glass.pick')
            ->assertDontSee('4711')
            ->assertDontSee('None was seen');
        $record->update(['seen_us' => Clock::microseconds() - 86_400_000_000 - 1]);
        $this->app->make(SessionWatch::class)->look($this->cluster);
        self::assertSame('solved', $finding->refresh()->state->value);
        $record->update(['seen_us' => Clock::microseconds() - Deadlocks::KEPT_DAYS * 86_400_000_000 - 1]);
        $this->app->make(Deadlocks::class)->prune();
        self::assertSame(0, DeadlockRecord::query()->count());
    }

    public function test_a_server_that_does_not_answer_for_half_a_minute_is_a_finding_until_it_does(): void
    {
        $watch = $this->app->make(SessionWatch::class);
        $failing = ['failing_since' => Clock::now()->subSeconds(25), 'last_error' => 'Connection refused'];
        $this->cluster->forceFill(['port' => 1] + $failing)->save();
        $watch->look($this->cluster->refresh());
        self::assertSame(0, Finding::query()->count());
        $this->cluster->forceFill(['failing_since' => Clock::now()->subSeconds(31)])->save();
        $watch->look($this->cluster->refresh());
        $finding = Finding::query()->sole();
        self::assertSame(['unreachable', 'Glass', 'reach'], [$finding->rule, $finding->object, $finding->source]);
        self::assertStringContainsString('Glass cannot be read since', $finding->problem);
        $owner = $this->person(Role::Owner);
        $this->actingAs($owner)->get('/')->assertOk()->assertSee('Glass cannot be read since');
        $this->get('/tune/locks?cluster=glass')->assertOk()->assertSee('Glass does not answer');
        $this->cluster->forceFill(['port' => self::$server?->port, 'failing_since' => null])->save();
        $watch->look($this->cluster->refresh());
        self::assertSame('solved', $finding->refresh()->state->value);
    }

    public function test_what_a_restart_switched_off_is_a_finding_until_it_is_on_again(): void
    {
        $watch = $this->app->make(SessionWatch::class);
        $pdo = self::$server?->pdo();
        $set = static fn (string $enabled): ?int => $pdo?->exec(
            "UPDATE performance_schema.setup_consumers SET ENABLED = '{$enabled}' WHERE NAME IN ('events_statements_current', "
                ."'events_statements_history_long')",
        );
        try {
            $set('YES');
            $watch->look($this->cluster);
            self::assertSame(0, Finding::query()->where('source', SessionWatch::MISSING)->count());
            $set('NO');
            $watch->look($this->cluster);
            $finding = Finding::query()->where('source', SessionWatch::MISSING)->sole();
            self::assertSame('Glass does not tell all that could be watched: 2 things are missing or switched off', $finding->problem);
            $evidence = implode("\n", array_map(static fn (Evidence $one): string => "{$one->label} {$one->value}", $finding->evidence));
            self::assertStringContainsString("WHERE NAME = 'events_statements_history_long'", $evidence);
            self::assertStringContainsString('performance-schema-consumer-events-statements-current=ON', $evidence);
            $owner = $this->person(Role::Owner);
            $this->actingAs($owner)->get("/ledger/findings/{$finding->id}")->assertOk()->assertSee('/tend/clusters/glass');
            $this->post('/tend/clusters/glass/check')->assertRedirect();
            $this->get('/tend/clusters/glass')
                ->assertOk()
                ->assertSee('single runs are not remembered')
                ->assertSee('performance-schema-consumer-events-statements-history-long=ON');
            $set('YES');
            $watch->look($this->cluster);
            self::assertSame('solved', $finding->refresh()->state->value);
        } finally {
            $set('YES');
        }
    }

    public function test_an_account_that_stands_before_the_one_that_was_meant_is_named(): void
    {
        $pdo = self::$server?->pdo();
        $pdo?->exec("CREATE USER ''@'127.0.0.1'");
        $pdo?->exec("CREATE USER reader@'%' IDENTIFIED BY ''");
        try {
            $this->cluster->forceFill(['username' => 'reader', 'secret' => ''])->save();
            $missing = (new MariaDbSource($this->cluster))->check();
            self::assertSame(
                "The server takes reader for the account ''@'127.0.0.1', which stands before the one that was meant.",
                $missing[0]->problem,
            );
            self::assertStringContainsString("DROP USER ''@'127.0.0.1'", $missing[0]->remedy);
            self::assertSame("GRANT PROCESS ON *.* TO ''@'127.0.0.1'", $missing[count($missing) - 1]->remedy);
        } finally {
            $pdo?->exec("DROP USER ''@'127.0.0.1'");
            $pdo?->exec("DROP USER reader@'%'");
        }
    }

    public function test_what_the_server_does_not_tell_is_named(): void
    {
        $pdo = self::$server?->pdo();
        $pdo?->exec("UPDATE performance_schema.setup_instruments SET enabled = 'NO' WHERE name = 'wait/lock/metadata/sql/mdl'");
        try {
            $holder = $this->opened();
            $holder->query('BEGIN');
            $holder->query('SELECT * FROM pick');
            $alter = $this->opened();
            $alter->query('ALTER TABLE pick ADD later INT', MYSQLI_ASYNC);
            self::assertTrue(self::within(fn (): bool => (new MariaDbSessions($this->cluster))->waiting()->gaps !== []));
            $reading = (new MariaDbSessions($this->cluster))->waiting();
            self::assertSame([], $reading->waits);
            self::assertStringContainsString('One session waits for the definition of a table', $reading->gaps[0]->problem);
            $this->actingAs($this->person())->get('/tune/locks?cluster=glass')
                ->assertOk()
                ->assertSee('does not tell who holds it')
                ->assertSee('setup_instruments');
            (new MariaDbSessions($this->cluster))->end($alter->thread_id);
        } finally {
            $pdo?->exec("UPDATE performance_schema.setup_instruments SET enabled = 'YES' WHERE name = 'wait/lock/metadata/sql/mdl'");
        }
    }

    public function test_without_a_live_server_there_is_nothing_to_see(): void
    {
        $this->cluster->delete();
        $this->actingAs($this->person())->get('/tune/locks')->assertOk()->assertSee('No live server is connected');
        $this->cluster('files');
        $this->get('/tune/locks?cluster=files')->assertOk()->assertSee('No live server is connected');
    }

    /**
     * One session that changed a row and is idle, an UPDATE and a SELECT that want that row, an ALTER that waits for all of
     * them, and a read behind it.
     *
     * @return array{mysqli, mysqli, mysqli, mysqli, mysqli}
     */
    private function contention(): array
    {
        [$idle, $update, $select, $alter, $read] = array_map(fn (): mysqli => $this->opened(), range(1, 5));
        $idle->query('BEGIN');
        $idle->query('UPDATE pick SET kilos = kilos + 5 WHERE id = 1');
        $count = fn (): int => count((new MariaDbSessions($this->cluster))->waiting()->waits);
        // The server tells what it found up to a tenth of a second ago, so waits of the test before too.
        self::assertTrue(self::within(static fn (): bool => $count() === 0));
        foreach (
            [
                [$update, 'UPDATE pick SET kilos = 777 WHERE id = 1'], [$select, 'SELECT * FROM pick WHERE id = 1 FOR UPDATE'],
                [$alter, 'ALTER TABLE pick COMMENT = 777'], [$read, 'SELECT kilos FROM pick WHERE id = 2'],
            ] as [$session, $sql]
        ) {
            $before = $count();
            $session->query(str_replace('= 777', $sql[0] === 'A' ? "= '777'" : '= 777', $sql), MYSQLI_ASYNC);
            self::assertTrue(self::within(static fn (): bool => $count() > $before), $sql);
        }
        usleep(300_000);

        return [$idle, $update, $select, $alter, $read];
    }

    private function opened(): mysqli
    {
        $session = self::$server?->session('glass');
        self::assertNotNull($session);

        return $session;
    }

    /** What the source tells, as if everybody had waited so much longer. */
    private function lengthened(int $byUs): void
    {
        $this->app->instance(Connectors::class, new class($byUs) extends Connectors
        {
            public function __construct(private readonly int $byUs)
            {
            }

            public function sessions(Cluster $cluster): LongerWaits
            {
                $byUs = $this->byUs;

                return new LongerWaits(new MariaDbSessions($cluster), static fn (LockWait $wait): LockWait => new LockWait(
                    $wait->waiting,
                    $wait->blocking,
                    $wait->table,
                    $wait->what,
                    $wait->waitedUs + $byUs,
                ));
            }
        });
    }

    /**
     * @param  callable(): bool  $so
     */
    private static function within(callable $so): bool
    {
        for ($i = 0; $i < 100; $i++) {
            if ($so()) {
                return true;
            }
            usleep(100_000);
        }

        return false;
    }
}
