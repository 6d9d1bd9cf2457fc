<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Connectors\Connectors;
use App\Estate\Connectors\MariaDbAccess;
use App\Estate\Connectors\ServerAccount;
use App\Estate\Models\Cluster;
use App\Ledger\Models\Change;
use App\Limits\Application\AccountLimits;
use App\Platform\Support\Role;
use Fulcrion\Core\Sql\Dialect;
use PDO;
use PDOException;
use Tests\TestCase;

/**
 * Limits a live server has for its own accounts, on a real server.
 */
final class AccountLimitTest extends TestCase
{
    private Cluster $own;

    private MariaDbAccess $access;

    private string $secret;

    /** Another one each time: the server goes on counting for a name within the hour. */
    private string $name;

    protected function setUp(): void
    {
        parent::setUp();
        $this->own = Cluster::query()->create([
            'slug' => 'own', 'name' => 'Own store', 'role' => 'own', 'connector' => 'mariadb', 'dialect' => Dialect::MariaDb,
            'is_own' => true, 'host' => '127.0.0.1', 'port' => (int) config('database.connections.mariadb.port'), 'username' => 'x',
            'secret' => 'x',
        ])->refresh();
        $access = app(Connectors::class)->access($this->own);
        self::assertInstanceOf(MariaDbAccess::class, $access);
        $this->access = $access;
        $this->secret = bin2hex(random_bytes(9));
        $this->name = 'limit_test_'.bin2hex(random_bytes(3));
        $this->access->apply([
            "CREATE OR REPLACE USER '{$this->name}'@'%' IDENTIFIED BY '{$this->secret}' WITH MAX_USER_CONNECTIONS 7",
        ]);
        $drop = "DROP USER IF EXISTS '{$this->name}'@'%'";
        $this->beforeApplicationDestroyed(static fn () => $access->apply([$drop]));
        $this->actingAs($this->person(Role::Owner));
    }

    private function desk(): ServerAccount
    {
        foreach ($this->access->limited() as $one) {
            if ($one->name === $this->name) {
                return $one;
            }
        }
        self::fail('no account');
    }

    private function signedIn(): PDO
    {
        return new PDO("mysql:host={$this->own->host};port={$this->own->port}", $this->name, $this->secret,
            [PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION]);
    }

    private function step(Change $change, string $act): Change
    {
        $this->post("/ledger/changes/{$change->id}/{$act}")->assertRedirect();
        $change->refresh();
        self::assertNull($change->error, (string) $change->error);

        return $change;
    }

    public function test_a_limit_is_rehearsed_approved_applied_proved_and_undone(): void
    {
        $this->get('/meter/limits/accounts')->assertOk()->assertSee($this->name)->assertDontSee('fulcrion_watcher');
        $this->post('/meter/limits/accounts/own', ['account' => $this->name, 'time' => '250 ms', 'queries' => '40'])
            ->assertSessionHasNoErrors()->assertRedirect();
        $change = Change::query()->where('kind', AccountLimits::KIND)->firstOrFail();
        self::assertSame(
            ["ALTER USER '{$this->name}'@'%' WITH MAX_STATEMENT_TIME 0.25 MAX_QUERIES_PER_HOUR 40"],
            $change->sealed_steps,
        );
        $this->step($change, 'rehearse');
        self::assertNull($this->desk()->statementSeconds, 'a rehearsal touches nothing');
        self::assertTrue($change->latestProof('rehearsal')?->holds);
        $this->step($change, 'approve');
        $this->step($change, 'apply');
        self::assertSame([0.25, 40], [$this->desk()->statementSeconds, $this->desk()->queriesPerHour]);
        $proof = $change->latestProof('applied');
        self::assertTrue($proof?->holds);
        self::assertSame('4 of 4 checks with a test user held', $proof->sentence);
        $this->get("/ledger/proofs/{$proof->id}")->assertOk()->assertSee('Signed in and tried')->assertSee('every limit held');

        // The account itself runs into them, without anybody of ours in between.
        $desk = $this->signedIn();
        $began = hrtime(true);
        try {
            $desk->query('SELECT SLEEP(5)')->fetchAll();
            self::fail('not ended');
        } catch (PDOException $error) {
            self::assertSame(1969, $error->errorInfo[1] ?? null);
            self::assertLessThan(2.0, (hrtime(true) - $began) / 1e9);
        }
        $sent = 0;
        try {
            for (; $sent < 60; $sent++) {
                $desk->query('DO 0')->closeCursor();
            }
        } catch (PDOException $error) {
            self::assertSame(1226, $error->errorInfo[1] ?? null);
        }
        self::assertGreaterThan(30, $sent);
        self::assertLessThan(40, $sent);

        $this->step($change, 'undo');
        self::assertSame([null, null], [$this->desk()->statementSeconds, $this->desk()->queriesPerHour]);
        $this->signedIn()->query('SELECT SLEEP(0.4)')->fetchAll();
        // What else the account was limited by is as it was.
        $other = $this->access->tryAsKeeper(['it' => "SELECT max_user_connections FROM mysql.user WHERE User = '{$this->name}'"]);
        self::assertSame(1, $other['it']['rows']);
        self::assertSame(hash('xxh128', '["7"]'), $other['it']['digest']);
        // No test user stays behind.
        $left = $this->access->tryAsKeeper(['it' => "SELECT User FROM mysql.user WHERE User LIKE 'fulcrion\\_try%'"]);
        self::assertSame(0, $left['it']['rows']);
    }

    public function test_long_times_and_many_queries_are_read_back_and_tried_with_less(): void
    {
        $lines = $this->access->tryLimits(3_600.0, 1_000_000);
        self::assertSame([true, true, true], array_column($lines, 'holds'));
        self::assertSame(['3600 s', 'ended by the server', 'refused after 2000'], array_column($lines, 'expected'));
        self::assertSame([], $this->access->tryLimits(null, null));
    }

    public function test_what_cannot_be_limited_is_said(): void
    {
        $this->post('/meter/limits/accounts/own', ['account' => 'nobody_here', 'time' => '1 s'])
            ->assertSessionHas('failed', 'There is no account nobody_here on '.$this->own->name.'.');
        $this->post('/meter/limits/accounts/own', ['account' => $this->name])
            ->assertSessionHas('failed', "{$this->own->name} holds {$this->name} to these limits already.");
        // The accounts this application works with are not among them.
        $this->post('/meter/limits/accounts/own', ['account' => 'fulcrion_keeper', 'time' => '1 s'])->assertSessionHas('failed');
        self::assertSame(0, Change::query()->count());
        $this->post('/meter/limits/accounts/nowhere', ['account' => 'x'])->assertNotFound();
        $this->actingAs($this->person(Role::Steward))->post('/meter/limits/accounts/own', ['account' => $this->name, 'time' => '1 s'])
            ->assertForbidden();
    }

    public function test_a_server_that_is_only_watched_or_gone_says_so(): void
    {
        Cluster::query()->create([
            'slug' => 'far', 'name' => 'Far', 'role' => 'own', 'connector' => 'mariadb', 'dialect' => Dialect::MariaDb,
            'host' => '127.0.0.1', 'port' => 1, 'username' => 'x', 'secret' => 'x',
        ]);
        $this->get('/meter/limits/accounts')->assertOk()->assertSee('This server was connected to be watched only')
            ->assertSee('Limits of accounts');
        $this->post('/meter/limits/accounts/far', ['account' => 'x', 'time' => '1 s'])
            ->assertSessionHas('failed', 'Far takes no limits: it keeps no accounts that could be written from here.');
        $this->own->update(['port' => 1]);
        $this->get('/meter/limits/accounts')->assertOk()->assertSee('There is no account that could be limited from here')
            ->assertSee('role="alert"', false);
        Cluster::query()->forceDelete();
        $this->get('/meter/limits/accounts')->assertOk()->assertSee('No live server is connected');
    }

    public function test_one_limit_alone_leaves_the_other_as_it_is_and_a_change_that_fails_leaves_nothing(): void
    {
        $this->access->apply(["ALTER USER '{$this->name}'@'%' WITH MAX_QUERIES_PER_HOUR 900"]);
        $this->post('/meter/limits/accounts/own', ['account' => $this->name, 'time' => '2 s', 'queries' => '900']);
        $change = Change::query()->sole();
        self::assertSame("Limit the account {$this->name} on Own store: 2 s for a statement and 900 queries an hour", $change->title);
        $this->step($change, 'rehearse');
        $this->step($change, 'approve');
        $this->step($change, 'apply');
        self::assertSame([2.0, 900], [$this->desk()->statementSeconds, $this->desk()->queriesPerHour]);
        $this->step($change, 'undo');
        self::assertSame([null, 900], [$this->desk()->statementSeconds, $this->desk()->queriesPerHour]);
        // Taking limits away is a change as well, of which only the account is read back.
        $this->post('/meter/limits/accounts/own', ['account' => $this->name]);
        $free = Change::query()->orderByDesc('id')->firstOrFail();
        foreach (['rehearse', 'approve', 'apply'] as $act) {
            $this->step($free, $act);
        }
        self::assertSame([null, null], [$this->desk()->statementSeconds, $this->desk()->queriesPerHour]);
        self::assertSame('1 of 1 checks with a test user held', $free->latestProof('applied')->sentence ?? '');
        // An account that went away meanwhile: the change fails and says why.
        $this->post('/meter/limits/accounts/own', ['account' => $this->name, 'time' => '1 s']);
        $gone = Change::query()->orderByDesc('id')->firstOrFail();
        $this->step($gone, 'rehearse');
        $this->step($gone, 'approve');
        $this->access->apply(["DROP USER '{$this->name}'@'%'"]);
        $this->post("/ledger/changes/{$gone->id}/apply");
        self::assertNotNull($gone->refresh()->error);
        self::assertStringNotContainsString('nobody foresaw', (string) $gone->error);
        self::assertNull($gone->latestProof('applied'));
    }
}
