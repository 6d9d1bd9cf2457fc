<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\ClusterRemoval;
use App\Estate\Models\Cluster;
use App\Metrics\Places\KeptPlace;
use App\Metrics\Places\MovePlace;
use App\Metrics\Places\PlaceError;
use App\Metrics\Places\PlaceMove;
use App\Metrics\Places\Places;
use App\Metrics\Places\PlaceState;
use App\Metrics\Store\HostReadings;
use App\Metrics\Store\PointStore;
use App\Metrics\Store\ProcessStore;
use App\Platform\Support\Role;
use Fulcrion\Core\Metrics\BusyProcess;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\Points;
use Fulcrion\Core\Metrics\Readings;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;
use Tests\WatchedServer;

/**
 * Readings that are kept in another server, moved there and back.
 */
#[Group('today')]
final class ReadingPlacesTest extends TestCase
{
    use WatchedServer;

    private const NOW = 1_795_392_000;

    private const HOUR = 3_600;

    private const TABLES = ['metric_blocks', 'metric_days', 'metric_frames', 'host_processes'];

    protected function setUp(): void
    {
        parent::setUp();
        if (self::started()) {
            self::admin()->exec("CREATE USER keeper@'127.0.0.1' IDENTIFIED BY 'a secret'");
        }
        foreach (['readings', 'taken'] as $name) {
            self::admin()->exec("DROP DATABASE IF EXISTS {$name}");
            self::admin()->exec("CREATE DATABASE {$name}");
            self::admin()->exec("GRANT CREATE, SELECT, INSERT, UPDATE, DELETE ON {$name}.* TO keeper@'127.0.0.1'");
        }
        config(['fulcrion.reachable' => '127.0.0.1']);
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW));
        $this->cluster = $this->cluster();
    }

    private function history(int $clusterId): void
    {
        for ($node = 1; $node <= 3; $node++) {
            $read = [];
            for ($at = self::NOW - 50 * self::HOUR; $at < self::NOW - self::HOUR; $at += 60) {
                $read[] = [$at * 1_000, ($at - self::NOW + 60 * self::HOUR) * 1.1e9 * $node + 1 / 3];
            }
            app(PointStore::class)->keep($clusterId, "fern-0{$node}", [
                [new Metric('system.disk.io', 'By', 0.0, ['disk.io.direction' => 'read'], true), Points::of($read)],
            ]);
            $this->take($clusterId, self::NOW - 600, $node);
        }
        app(ProcessStore::class)->keep($clusterId, 'fern-01', self::NOW - 200, [new BusyProcess(7, 'leaf', 1.5, 4_096)]);
    }

    private function take(int $clusterId, int $at, int $node): void
    {
        app(PointStore::class)->take($clusterId, "fern-0{$node}", $at * 1_000, [
            new Metric('system.disk.io', 'By', ($at - self::NOW + 60 * self::HOUR) * 1.1e9 * $node + 1 / 3,
                ['disk.io.direction' => 'read'], true),
        ]);
    }

    /** @return array<string, array<string, Readings>> */
    private function known(int $clusterId): array
    {
        return app(HostReadings::class)->ofAll($clusterId, ['disk.read'], self::NOW - 60 * self::HOUR, self::NOW + 60, 700);
    }

    /** @return array<string, string> */
    private static function form(string $database = 'readings', string $secret = 'a secret'): array
    {
        return ['host' => '127.0.0.1', 'port' => (string) self::server()->port, 'database' => $database, 'username' => 'keeper',
            'secret' => $secret];
    }

    /** @return list<int> */
    private static function rows(?string $database = null): array
    {
        return array_map(static fn (string $table): int => $database === null ? DB::table($table)->count()
            : (int) self::admin()->query("SELECT COUNT(*) FROM {$database}.{$table}")->fetchColumn(), self::TABLES);
    }

    private function set(string $database = 'readings'): void
    {
        $this->actingAs($this->person())->from('/tend/setup/fernhill')->post('/tend/setup/fernhill/place', self::form($database))
            ->assertRedirect('/tend/setup/fernhill')->assertSessionHasNoErrors()->assertSessionMissing('failed');
        app(Places::class)->forget();
    }

    private function place(): KeptPlace
    {
        return KeptPlace::query()->firstOrFail();
    }

    public function test_readings_are_moved_to_another_server_and_back_and_nothing_of_them_changes(): void
    {
        $other = $this->cluster('wren');
        $this->history($this->cluster->id);
        $this->history($other->id);
        $before = $this->known($this->cluster->id);
        $rows = self::rows();
        self::assertSame([294, 18, 6, 2], $rows);
        $this->set();
        $place = $this->place();
        self::assertSame([PlaceState::There, 147 + 9 + 1, 157, null],
            [$place->state, $place->rows_moved, $place->rows_all, $place->error]);
        self::assertEquals($before, $this->known($this->cluster->id));
        // The hour that goes on was put together over there; here only what the other cluster has is left.
        self::assertSame([147, 9, 3, 1], self::rows());
        self::assertSame([147 + 3, 9, 0, 1], self::rows('readings'));
        self::assertSame('leaf', app(ProcessStore::class)->at($this->cluster->id, 'fern-01', self::NOW)[0]->name);
        self::assertEquals($before, $this->known($other->id));
        // No password stands there in plain.
        self::assertStringNotContainsString('a secret', json_encode(DB::table('metric_places')->get(), JSON_THROW_ON_ERROR));

        // What comes goes there, is put together there, and ends there.
        $this->take($this->cluster->id, self::NOW - 30, 1);
        self::assertSame([147, 9, 3, 1], self::rows());
        self::assertSame(1, self::rows('readings')[2]);
        Artisan::call('metrics:seal');
        self::assertSame(1, self::rows('readings')[2], 'its hour is not over');
        self::assertSame(1, app(PointStore::class)->sealAll(app(Places::class)->of($this->cluster->id), self::NOW + self::HOUR));
        $now = $this->known($this->cluster->id);
        $this->cluster->update(['retention_days' => 1]);
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW + 200));
        Artisan::call('metrics:seal');
        self::assertLessThan(100, self::rows('readings')[0]);
        self::assertSame(0, self::rows()[2], 'the hours of the other are put together here as before');
        $kept = $this->known($this->cluster->id);
        self::assertNotEquals($now, $kept);

        $this->post('/tend/setup/fernhill/place/back')->assertRedirect();
        app(Places::class)->forget();
        self::assertSame(0, KeptPlace::query()->count());
        self::assertEquals($kept, $this->known($this->cluster->id));
        self::assertSame([0, 0, 0, 0], self::rows('readings'));
    }

    public function test_what_comes_while_it_is_copied_is_not_lost(): void
    {
        $this->history($this->cluster->id);
        Queue::fake();
        $this->set();
        $place = $this->place();
        self::assertSame(PlaceState::Coming, $place->state);
        Queue::assertPushed(MovePlace::class, 1);
        // It was copied, and before the place was changed a day changed here, and an hour came.
        $copy = (new \ReflectionClass(PlaceMove::class))->getMethod('copy');
        $copy->invoke(app(PlaceMove::class), $place, DB::connection(), Places::connected($place));
        app(PointStore::class)->keep($this->cluster->id, 'fern-02', [[
            new Metric('system.disk.io', 'By', 0.0, ['disk.io.direction' => 'read'], true),
            Points::of([[(self::NOW - 90 * self::HOUR) * 1_000, 1.0], [(self::NOW - 20 * self::HOUR + 30) * 1_000, 2.0]]),
        ]]);
        $this->take($this->cluster->id, self::NOW - 10, 3);
        $before = $this->known($this->cluster->id);
        $place->update(['state' => PlaceState::There]);
        app(Places::class)->forget();
        app(PlaceMove::class)->move($place);
        self::assertEquals($before, $this->known($this->cluster->id));
        self::assertSame([0, 0, 0, 0], self::rows());
    }

    public function test_a_move_that_breaks_off_says_why_and_goes_on(): void
    {
        $this->history($this->cluster->id);
        $before = $this->known($this->cluster->id);
        Queue::fake();
        $this->set();
        self::admin()->exec("ALTER USER keeper@'127.0.0.1' IDENTIFIED BY 'another'");
        DB::purge('readings-'.$this->place()->id);
        try {
            (new MovePlace($this->place()->id))->handle(app(PlaceMove::class));
            $this->get('/tend/setup/fernhill')->assertOk()->assertSee('which cannot be used: Access denied')->assertSee('Go on');
            self::assertEquals($before, $this->known($this->cluster->id), 'all is here as it was');
        } finally {
            self::admin()->exec("ALTER USER keeper@'127.0.0.1' IDENTIFIED BY 'a secret'");
        }
        $this->from('/tend/setup/fernhill')->post('/tend/setup/fernhill/place/again')->assertRedirect('/tend/setup/fernhill');
        Queue::assertPushed(MovePlace::class, 2);
        $this->get('/tend/setup/fernhill/place')->assertOk()->assertSee('Moving to readings on 127.0.0.1')->assertSee('rows');
        // Somebody else cannot name another place meanwhile, and it can be called off.
        $this->post('/tend/setup/fernhill/place', self::form('taken'))
            ->assertSessionHas('failed', 'The readings are being moved. Wait for that, or stop it first.');
        $this->post('/tend/setup/fernhill/place/back');
        self::assertSame(PlaceState::Left, $this->place()->state);
        (new MovePlace($this->place()->id))->handle(app(PlaceMove::class));
        self::assertSame([0, [0, 0, 0, 0]], [KeptPlace::query()->count(), self::rows('readings')]);
        self::assertEquals($before, $this->known($this->cluster->id));
        $this->get('/tend/setup/fernhill/place')->assertOk()->assertSee('data-reloads', false);
        $this->post('/tend/setup/fernhill/place/again')->assertRedirect();
        $this->post('/tend/setup/fernhill/place/back')->assertRedirect();
    }

    public function test_a_place_that_is_gone_is_told_and_nothing_else_stops(): void
    {
        $this->history($this->cluster->id);
        $this->history($this->cluster('wren')->id);
        $this->set();
        $token = $this->cluster->createToken('agent', ['metrics:write'])->plainTextToken;
        $sent = ['resourceMetrics' => [['scopeMetrics' => [['metrics' => [['name' => 'level', 'gauge' => ['dataPoints' => [
            ['timeUnixNano' => (string) ((self::NOW - 5) * 1_000_000_000), 'asDouble' => 1.5]]]]]]]]]];
        self::admin()->exec("REVOKE SELECT ON readings.* FROM keeper@'127.0.0.1'");
        DB::purge('readings-'.$this->place()->id);
        try {
            foreach (['/tend/time?cluster=fernhill', '/tend/beside?cluster=fernhill', '/tend/moment?cluster=fernhill'] as $page) {
                $html = (string) $this->get($page)->assertStatus(503)->assertSee('The readings cannot be reached')
                    ->assertSee('readings on 127.0.0.1')->getContent();
                self::assertStringNotContainsString('SQLSTATE', $html);
                self::assertStringNotContainsString('a secret', $html);
            }
            $this->get('/tend/time?cluster=wren')->assertOk();
            $this->get('/tend/lines')->assertOk()->assertSee('its readings cannot be reached')->assertSee('Wren');
            self::assertSame(1, Artisan::call('health:judge'));
            self::assertSame(0, DB::table('findings')->where('source', 'hosts')->where('cluster_id', $this->cluster->id)->count());
            self::assertSame(0, Artisan::call('metrics:seal'));
            self::assertStringContainsString('which cannot be used', Artisan::output());
        } finally {
            self::admin()->exec("GRANT SELECT ON readings.* TO keeper@'127.0.0.1'");
        }
        DB::purge('readings-'.$this->place()->id);
        self::assertSame(0, Artisan::call('metrics:seal'));
        self::assertSame(0, Artisan::call('health:judge'));
        self::admin()->exec("ALTER USER keeper@'127.0.0.1' IDENTIFIED BY 'another'");
        DB::purge('readings-'.$this->place()->id);
        try {
            // Who sent it sends it again.
            $this->withToken($token)->postJson('/api/v1/metrics', $sent)
                ->assertStatus(503)->assertExactJson(['message' => 'What keeps the readings cannot be used now. Send them again later.']);
            $this->app['auth']->forgetGuards();
            $this->flushHeaders()->actingAs($this->person())->get('/tend/setup/fernhill')->assertOk()->assertSee('which cannot be used')
                ->assertSee('Not known as long as the readings cannot be reached');
            $this->post('/tend/setup/fernhill')->assertSessionHas('failed');
            // The new password.
            $this->post('/tend/setup/fernhill/place', self::form('taken', 'another'))
                ->assertSessionHas('failed', fn (string $said): bool => str_contains($said, 'does not have them'));
            $this->post('/tend/setup/fernhill/place', self::form('readings', 'another'))
                ->assertSessionHas('done', fn (string $said): bool => str_contains($said, 'Saved.'));
            app(Places::class)->forget();
            self::assertCount(3, $this->known($this->cluster->id));
            $this->get('/tend/setup/fernhill')->assertSee('readings on 127.0.0.1')->assertSee('Take them');
        } finally {
            self::admin()->exec("ALTER USER keeper@'127.0.0.1' IDENTIFIED BY 'a secret'");
        }
    }

    public function test_where_it_cannot_be_kept_it_is_said_why(): void
    {
        $this->actingAs($this->person())->from('/tend/setup/fernhill');
        $fails = function (array $change, string $field, string $said): void {
            $this->post('/tend/setup/fernhill/place', $change + self::form())->assertSessionHasErrors([$field => $said]);
        };
        $fails(['host' => ''], 'host', 'Write the host name or the address of the server.');
        $fails(['host' => 'http://db'], 'host', 'Write a host name or an address, without port or path.');
        $fails(['port' => '70000'], 'port', 'A port is a number from 1 to 65535; MariaDB listens on 3306 as it comes.');
        $fails(['database' => 'a.b`; DROP'], 'database',
            'Write the name of a database of that server, of letters, digits, $, _ and -, 64 at most.');
        $fails(['username' => ''], 'username', 'Write the user who may create and write tables there, 80 characters at most.');
        $fails(['secret' => ''], 'secret', 'Write the password of that user, 190 characters at most.');
        config(['fulcrion.reachable' => '']);
        $this->post('/tend/setup/fernhill/place', self::form())->assertSessionHasErrors('host');
        config(['fulcrion.reachable' => '127.0.0.1']);
        $failed = function (array $change, string $said): void {
            $this->post('/tend/setup/fernhill/place', $change + self::form())
                ->assertSessionHas('failed', fn (string $was): bool => str_contains($was, $said) && ! str_contains($was, 'a secret'));
            self::assertSame(0, KeptPlace::query()->count());
        };
        $failed(['secret' => 'wrong'], 'which cannot be used: Access denied');
        $failed(['database' => 'nowhere'], 'which cannot be used: ');
        $failed(['port' => '1'], 'which cannot be used: ');
        self::admin()->exec("REVOKE UPDATE ON readings.* FROM keeper@'127.0.0.1'");
        $failed([], "GRANT CREATE, SELECT, INSERT, UPDATE, DELETE ON `readings`.* TO 'keeper'@'%'");
        self::admin()->exec('CREATE TABLE taken.metric_days (a INT)');
        $failed(['database' => 'taken'], 'There is another table metric_days in taken on 127.0.0.1');
        self::admin()->exec('DROP TABLE taken.metric_days');
        self::admin()->exec("UPDATE taken.readings_kept_for SET installation = REPEAT('f', 32)");
        $failed(['database' => 'taken'], 'keeps readings of another installation');
        self::assertSame(1, (int) self::admin()->query('SELECT COUNT(*) FROM taken.readings_kept_for')->fetchColumn());
    }

    public function test_a_cluster_that_is_removed_leaves_nothing_there(): void
    {
        $this->history($this->cluster->id);
        $this->set();
        app(ClusterRemoval::class)->remove($this->cluster);
        self::assertSame([0, 0, 0, 0], self::rows('readings'));
        self::assertSame([0, 0], [KeptPlace::query()->count(), DB::table('metric_series')->count()]);
        $plain = $this->cluster('wren');
        $this->history($plain->id);
        app(ClusterRemoval::class)->remove($plain);
        self::assertSame([[0, 0, 0, 0], 0], [self::rows(), DB::table('metric_series')->count()]);
    }

    public function test_only_who_connects_clusters_moves_readings(): void
    {
        foreach ([Role::Viewer, Role::Steward] as $role) {
            $this->actingAs($this->person($role));
            foreach (['', '/again', '/back'] as $end) {
                $this->post("/tend/setup/fernhill/place{$end}", self::form())->assertForbidden();
            }
            $this->get('/tend/setup/fernhill/place')->assertForbidden();
        }
        self::assertSame(0, KeptPlace::query()->count());
        $this->actingAs($this->person())->post('/tend/setup/nowhere/place', self::form())->assertNotFound();
        try {
            $named = ['cluster_id' => 1, 'name' => 'readings', 'tls' => true, 'state' => PlaceState::There];
            Places::connected(new KeptPlace(self::form() + $named));
            self::fail('a server without a certificate is not taken for one with it');
        } catch (PlaceError $error) {
            self::assertStringContainsString('which cannot be used', $error->getMessage());
        }
    }
}
