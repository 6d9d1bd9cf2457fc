<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Connectors\MariaDbState;
use App\Estate\Models\Cluster;
use App\Health\Application\MetricStore;
use App\Health\Application\RowLockTime;
use App\Health\Application\ServerEvents;
use App\Health\Application\StateFindings;
use App\Ledger\Findings\FindingState;
use App\Ledger\Models\Finding;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PDO;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;
use Tests\WatchedServer;

/**
 * How a real MariaDB was over time, its restarts and its variables.
 */
#[Group('today')]
final class StateTest extends TestCase
{
    use WatchedServer;

    protected function setUp(): void
    {
        parent::setUp();
        if (self::started()) {
            $pdo = self::admin();
            $pdo->exec('CREATE DATABASE glass');
            $pdo->exec('CREATE TABLE glass.pick (id INT PRIMARY KEY, kilos INT) ENGINE=InnoDB');
            $pdo->exec('INSERT INTO glass.pick VALUES (1, 10), (2, 20)');
        }
        $this->watched('glass', ['interval_seconds' => 10]);
    }

    public function test_what_is_kept_is_what_the_server_counts(): void
    {
        // Ten seconds are ten, however long the server takes.
        $this->freezeSecond();
        $this->read();
        $counted = static fn (): array => array_map(floatval(...), self::admin()
            ->query("SHOW GLOBAL STATUS WHERE Variable_name IN ('Handler_update', 'Connections')")
            ->fetchAll(PDO::FETCH_KEY_PAIR));
        $before = $counted();
        $pdo = self::admin();
        for ($i = 0; $i < 50; $i++) {
            $pdo->exec('UPDATE glass.pick SET kilos = kilos + 1');
        }
        $this->travel(10)->seconds();
        $this->read();
        $after = $counted();
        $now = Clock::seconds();
        $readings = app(MetricStore::class)->readings($this->cluster->id, ['handler_update', 'threads_connected'], $now - 10, $now, 90);
        $rate = $readings['handler_update']->rates($now - 10, $now, 10)[0];
        self::assertEqualsWithDelta(($after['Handler_update'] - $before['Handler_update']) / 10, $rate, 0.01);
        self::assertEqualsWithDelta(10.0, $rate, 1.0, 'two rows in each of fifty runs, in ten seconds');
        self::assertGreaterThanOrEqual(1.0, $readings['threads_connected']->most($now - 10, $now + 1, 11)[0]);
        $this->actingAs($this->person(Role::Viewer))->get('/tend/state?cluster=glass')
            ->assertOk()
            ->assertSee('Glass answered ')
            ->assertSee('statements a second')
            ->assertSee('Buffer pool')
            ->assertDontSee('Behind its source', false);
    }

    public function test_a_restart_is_a_finding_a_mark_and_a_gap(): void
    {
        $this->read();
        self::assertSame([], $this->waiting());
        self::admin()->exec('SET GLOBAL innodb_io_capacity = 321');
        $this->travel(60)->seconds();
        $this->read();
        self::server()->down();
        // The server tells since when it runs to the second.
        sleep(4);
        self::server()->up();
        $this->travel(100)->seconds();
        $this->read();
        $events = app(ServerEvents::class)->between($this->cluster, 0, PHP_INT_MAX);
        $byName = array_column(array_map(static fn (object $one): array => (array) $one, $events), null, 'name');
        self::assertSame(['restart', 'variable'], array_values(array_unique([$byName['']['kind'], $byName['innodb_io_capacity']['kind']])));
        $sets = array_values(array_filter($events, static fn (object $one): bool => $one->name === 'innodb_io_capacity'));
        self::assertCount(2, $sets, 'set, and as it was after the restart');
        self::assertSame([['321', '200'], ['200', '321']], array_map(static fn (object $one): array => [$one->before, $one->after], $sets));
        $found = $this->waiting();
        self::assertCount(1, $found);
        self::assertStringStartsWith('Glass was started again ', $found[0]->problem);
        self::assertSame('watch', $found[0]->severity->value);
        $this->actingAs($this->person())->get('/')->assertOk()->assertSee('Glass was started again');
        $this->get('/tend/state?cluster=glass&window=last+hour')
            ->assertOk()
            ->assertSee('Glass was started again at ')
            ->assertSee('started', false)
            ->assertSee('class="gap"', false)
            ->assertSee('innodb_io_capacity');
        $this->travel(86_400)->seconds();
        $this->read();
        self::assertSame([], $this->waiting(), 'a day later nobody needs to know');
        self::assertSame(FindingState::Solved, $found[0]->refresh()->state);
    }

    public function test_time_waited_for_rows_goes_to_who_was_seen_waiting(): void
    {
        $this->read();
        $holder = self::server()->session('glass');
        $holder->query('BEGIN');
        $holder->query('UPDATE pick SET kilos = 11 WHERE id = 1');
        $waiter = self::server()->session('glass');
        $waiter->query('UPDATE pick SET kilos = 777 WHERE id = 1', MYSQLI_ASYNC);
        $waiting = static fn (): int => count((new MariaDbState(Cluster::query()->where('slug', 'glass')->sole()))->state()->waiting);
        for ($i = 0; $i < 100 && $waiting() === 0; $i++) {
            // The server refreshes what it tells of transactions ten times a second.
            usleep(150_000);
        }
        $this->read();
        usleep(600_000);
        $holder->query('COMMIT');
        self::assertTrue($waiter->reap_async_query());
        $this->read();
        $rows = app(RowLockTime::class)->of($this->cluster, Clock::seconds() - 600, Clock::seconds() + 600);
        $counted = (float) self::admin()
            ->query("SELECT VARIABLE_VALUE FROM information_schema.GLOBAL_STATUS WHERE VARIABLE_NAME = 'INNODB_ROW_LOCK_TIME'")
            ->fetchColumn();
        self::assertCount(1, $rows);
        self::assertNotSame('', $rows[0]->fingerprint);
        self::assertGreaterThan(500_000, (float) $rows[0]->waited_us);
        self::assertLessThanOrEqual($counted * 1000, (float) $rows[0]->waited_us);
        $this->actingAs($this->person())->get('/tend/state?cluster=glass')
            ->assertOk()
            ->assertSee('Waiting for row locks, by statement')
            ->assertDontSee('= 777');
    }

    public function test_what_servers_count_stands_among_all_metrics_and_says_the_same_by_any_span(): void
    {
        $store = app(MetricStore::class);
        $now = Clock::seconds();
        $first = $now - $now % 3_600 - 8 * 86_400;
        for ($at = $first, $sum = 0.0; $at < $first + 8 * 86_400; $at += 600) {
            $sum += 1_200.0;
            $store->keep($this->cluster->id, $at, ['questions' => $sum, 'threads_connected' => (float) ($at / 600 % 7)]);
        }
        Artisan::call('metrics:seal');
        self::assertSame(0, DB::table('metric_frames')->where('at_ms', '<', ($now - 7_200) * 1_000)->count());
        foreach ([[2 * 3_600, 600], [86_400, 3_600], [7 * 86_400, 86_400]] as [$seconds, $step]) {
            $from = $first + 3_600;
            $readings = $store->readings($this->cluster->id, ['questions', 'threads_connected', 'nothing'], $from, $from + $seconds, 700);
            foreach ($readings['questions']->rates($from, $from + $seconds, $step) as $rate) {
                self::assertEqualsWithDelta(2.0, $rate, 0.1);
            }
            self::assertSame(6.0, max($readings['threads_connected']->most($from, $from + $seconds, $step)));
            self::assertSame([], array_filter($readings['nothing']->most($from, $from + $seconds, $step),
                static fn (?float $one): bool => $one !== null));
        }
        $this->actingAs($this->person(Role::Viewer));
        $this->get('/tend/hosts?cluster=glass&host=glass&window=last+7+days')->assertOk()->assertSee('mariadb.questions');
    }

    public function test_monitoring_is_set_up_step_by_step_and_agrees_with_the_server(): void
    {
        $this->actingAs($this->person(Role::Viewer))->get('/tend/setup/glass')->assertForbidden();
        $this->actingAs($this->person(Role::Engineer));
        $page = (string) $this->get('/tend/setup/glass')->assertOk()->assertSee('No host is read')->assertSee('None runs')->getContent();
        self::assertMatchesRegularExpression('~Monitoring of Glass lacks \d+ things~', $page);
        $this->post('/tend/setup/glass')->assertRedirect('/tend/setup/glass');
        $rows = session('compared');
        self::assertGreaterThanOrEqual(4, count($rows));
        self::assertSame([true], array_values(array_unique(array_column($rows, 'agrees'))));
        $this->get('/tend/setup/glass')->assertOk()->assertSee('All of it agrees');
        // A right that is missing is told with the statement that grants it, and a server that is gone in words.
        $this->cluster->update(['port' => 9]);
        $this->get('/tend/setup/glass')->assertOk()->assertDontSee('The server can be read');
        $this->post('/tend/setup/glass')->assertRedirect('/tend/setup/glass')->assertSessionHas('failed');
        $this->get('/tend/setup/nothing')->assertNotFound();
    }

    public function test_windows_that_make_no_sense_and_servers_that_are_not_there(): void
    {
        $this->actingAs($this->person(Role::Viewer));
        $this->get('/tend/state?cluster=glass&window=the+day+of+the+pears')->assertOk()->assertSee('The last hour is shown instead');
        $this->get('/tend/state?cluster=glass&window=yesterday')->assertOk()->assertSee('No reading lies in this window');
        $this->get('/tend/state?cluster=nowhere')->assertOk()->assertSee('Glass');
        Cluster::query()->delete();
        $this->get('/tend/state')->assertOk()->assertSee('No live server is connected');
    }

    /**
     * @return list<Finding>
     */
    private function waiting(): array
    {
        return array_values(Finding::waiting()->where('source', StateFindings::SOURCE)->get()->all());
    }
}
