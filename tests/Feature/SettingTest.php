<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Connectors\PracticeClusters;
use App\Estate\Models\Cluster;
use App\Ledger\Changes\ChangeState;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Ledger\Models\LedgerEntry;
use App\Platform\Figures\TimeMarks;
use App\Platform\Support\Role;
use App\Settings\Application\ProfileBook;
use App\Settings\Application\SettingFindings;
use App\Settings\Application\SettingsReader;
use App\Settings\Application\SettingsStore;
use Fulcrion\Core\Settings\SettingsProfile;
use Fulcrion\Core\Settings\SettingTable;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\NodeBook;
use Fulcrion\Practice\Storage\Warehouse;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;
use Tests\WatchedServer;

/**
 * How hosts are set: practice nodes, a real server, and a host whose agent tells.
 */
#[Group('today')]
final class SettingTest extends TestCase
{
    use WatchedServer;

    private const NOW = 1_795_824_000;

    private Warehouse $warehouse;

    private Cluster $fern;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW));
        $this->beforeApplicationDestroyed(static fn () => Carbon::setTestNow());
        config(['fulcrion.practice' => sys_get_temp_dir().'/fulcrion-practice-'.bin2hex(random_bytes(4))]);
        mkdir((string) config('fulcrion.practice'));
        $this->warehouse = Warehouse::create(PracticeClusters::root('fernhill'), 'Fernhill', 12, new HardwareProfile());
        NodeBook::write($this->warehouse, 'fern', [], [
            'fern-04' => ['transparent_hugepage.enabled' => 'always', 'block.data.read_ahead_kb' => '128'],
            'fern-11' => ['limit.open_files' => '1024'],
        ]);
        $this->fern = Cluster::query()->create([
            'slug' => 'fernhill', 'name' => 'Fernhill', 'role' => 'production', 'connector' => 'practice', 'dialect' => Dialect::Ansi,
        ])->refresh();
        $this->actingAs($this->person(Role::Owner));
    }

    private function later(int $seconds): void
    {
        Carbon::setTestNow(Carbon::now()->addSeconds($seconds));
    }

    private function propose(Cluster $cluster, string $host, ?string $setting = null): Change
    {
        $this->post("/tend/settings/{$cluster->slug}/propose", ['host' => $host] + ($setting === null ? [] : ['setting' => $setting]))
            ->assertSessionMissing('failed');

        return Change::query()->latest('id')->firstOrFail();
    }

    private function step(Change $change, string $act): Change
    {
        $this->post("/ledger/changes/{$change->id}/{$act}");

        return $change->refresh();
    }

    private function through(Change $change): Change
    {
        foreach (['rehearse', 'approve', 'apply'] as $act) {
            $this->step($change, $act);
        }

        return $change;
    }

    /**
     * @return list<string>
     */
    private function accused(Cluster $cluster): array
    {
        return array_values(Finding::query()->where('cluster_id', $cluster->id)->where('source', SettingFindings::SOURCE)
            ->whereIn('state', ['open', 'accepted'])->orderBy('object')->get()->map(static fn (Finding $one): string => $one->object)
            ->all());
    }

    public function test_the_two_hosts_that_are_set_otherwise_are_found_and_nobody_else(): void
    {
        Artisan::call('settings:read');
        self::assertSame(['fern-04', 'fern-11'], $this->accused($this->fern));
        $this->get('/tend/settings?cluster=fernhill')->assertOk()
            ->assertSee('fern-04 and fern-11 differ from the desired profile, the other 10 do not')
            ->assertSee('fern-04: transparent_hugepage.enabled is always, not as desired', false)
            ->assertSee('17 other settings are as desired, or the same on all 12 hosts')
            ->assertSee('echo never &gt; /sys/kernel/mm/transparent_hugepage/enabled', false);
        $finding = Finding::query()->where('object', 'fern-04')->firstOrFail();
        $this->get("/ledger/findings/{$finding->id}")->assertOk()->assertSee('as desired on 11 of 12 hosts')
            ->assertSee('Propose the change that sets them as desired');
    }

    public function test_a_practice_node_is_set_proved_and_set_back(): void
    {
        Artisan::call('settings:read');
        $change = $this->propose($this->fern, 'fern-04');
        self::assertSame(['block.data.read_ahead_kb = 1024', 'transparent_hugepage.enabled = never'], $change->sealed_steps);
        self::assertSame(['block.data.read_ahead_kb = 128', 'transparent_hugepage.enabled = always'], $change->sealed_inverse);
        $this->step($change, 'rehearse');
        self::assertSame('always', NodeBook::settings($this->warehouse)['fern-04']['transparent_hugepage.enabled'],
            'rehearsing sets nothing');
        self::assertTrue($change->latestProof('rehearsal')?->holds);
        $this->step($change, 'approve');
        $this->step($change, 'apply');
        self::assertSame([ChangeState::Applied, null], [$change->state, $change->error]);
        self::assertSame('never', NodeBook::settings($this->warehouse)['fern-04']['transparent_hugepage.enabled']);
        self::assertSame('1024', NodeBook::settings($this->warehouse)['fern-04']['block.data.read_ahead_kb']);
        self::assertSame('1048576', NodeBook::settings($this->warehouse)['fern-03']['limit.open_files'], 'others stay');
        self::assertSame(['fern-11'], $this->accused($this->fern), 'what is corrected is no finding any more');
        $proof = $change->latestProof('applied');
        $this->get("/ledger/proofs/{$proof?->id}")->assertOk()->assertSee('transparent_hugepage.enabled on fern-04, as it is read');
        $this->get("/ledger/changes/{$change->id}")->assertOk()->assertSee('echo 1024 &gt; /sys/block/data/queue/read_ahead_kb', false);
        $this->step($change, 'undo');
        self::assertSame(ChangeState::Undone, $change->state);
        self::assertSame('always', NodeBook::settings($this->warehouse)['fern-04']['transparent_hugepage.enabled']);
        self::assertSame(['fern-04', 'fern-11'], $this->accused($this->fern));
    }

    public function test_what_somebody_set_meanwhile_is_not_overwritten(): void
    {
        Artisan::call('settings:read');
        $change = $this->propose($this->fern, 'fern-11', 'limit.open_files');
        NodeBook::set($this->warehouse, 'fern-11', 'limit.open_files', '2048');
        $this->step($change, 'rehearse');
        self::assertFalse($change->latestProof('rehearsal')?->holds);
        $this->step($change, 'approve');
        self::assertSame(ChangeState::Rehearsed, $change->state, 'it cannot be approved');
    }

    public function test_a_dynamic_variable_of_a_real_server_is_corrected_proved_and_undone(): void
    {
        $this->serve();
        $now = static fn (string $name): string => (string) self::admin()->query("SELECT @@GLOBAL.{$name}")->fetchColumn();
        self::admin()->exec('SET GLOBAL max_password_errors = 4000000');
        Artisan::call('settings:read');
        self::assertCount(1, $this->accused($this->cluster));
        $host = $this->accused($this->cluster)[0];
        $change = $this->propose($this->cluster, $host, 'mariadb.max_password_errors');
        self::assertSame(['mariadb.max_password_errors = 1000'], $change->sealed_steps);
        $this->step($change, 'rehearse');
        self::assertTrue($change->latestProof('rehearsal')?->holds, (string) $change->error);
        self::assertSame('4000000', $now('max_password_errors'));
        $this->step($change, 'approve');
        $this->step($change, 'apply');
        self::assertSame([null, ChangeState::Applied], [$change->error, $change->state]);
        self::assertSame('1000', $now('max_password_errors'), 'the server itself says so');
        $this->get("/ledger/changes/{$change->id}")->assertOk()->assertSee('SET GLOBAL max_password_errors = 1000')
            ->assertSee('the configuration of the server')
            ->assertSee('Each setting is set as it was: SET GLOBAL max_password_errors = 4000000.');
        $this->step($change, 'undo');
        self::assertSame([null, ChangeState::Undone], [$change->error, $change->state]);
        self::assertSame('4000000', $now('max_password_errors'));
    }

    public function test_what_the_account_may_not_set_and_what_needs_a_start_are_told_before_anything_is_set(): void
    {
        $this->serve();
        self::admin()->exec('SET GLOBAL max_password_errors = 4000000, GLOBAL slow_query_log = 0');
        $wish = static fn (string $name, string $field): string => "  mariadb.{$name}:\n    {$field}\n    reason: so\n";
        $save = fn (string $settings) => $this->post("/tend/settings/{$this->cluster->slug}/profile",
            ['text' => "name: Servers\nsettings:\n{$settings}"])->assertSessionHasNoErrors();
        foreach ([
            ['log_slow_verbosity', 'is: query_plan', 'may not set log_slow_verbosity'],
            ['innodb_doublewrite', 'is: "OFF"', 'at the start of the server only'],
        ] as [$name, $field, $said]) {
            $save($wish($name, $field).$wish('max_password_errors', 'atMost: 1000'));
            Artisan::call('settings:read');
            $change = $this->propose($this->cluster, $this->accused($this->cluster)[0]);
            $this->step($change, 'rehearse');
            self::assertStringContainsString($said, (string) $change->error);
            self::assertSame(ChangeState::Proposed, $change->state);
        }
        self::assertSame('4000000', (string) self::admin()->query('SELECT @@GLOBAL.max_password_errors')->fetchColumn());
        // A value the server does not take as it is.
        $save($wish('max_connections', 'is: 5'));
        Artisan::call('settings:read');
        $change = $this->through($this->propose($this->cluster, $this->accused($this->cluster)[0]));
        self::assertStringContainsString('did not take the value as it was sent', (string) $change->error);
        self::assertSame(ChangeState::Failed, $change->state);
        self::assertStringContainsString('As last read: mariadb.max_connections is', (string) $change->error);
    }

    public function test_settings_of_a_kernel_are_run_by_people_and_looked_for_in_the_next_reading(): void
    {
        $files = $this->cluster('barn');
        $token = $files->createToken('barn', ['metrics:write'])->plainTextToken;
        $sent = function (string $swappiness) use ($token): void {
            $this->app['auth']->forgetGuards();
            $this->withToken($token)->postJson('/api/hosts', [
                'host' => 'barn-1', 'sent_ms' => Carbon::now()->getTimestampMs(), 'readings' => [[
                    'at_ms' => Carbon::now()->getTimestampMs(), 'files' => ['loadavg' => '0.5 0.4 0.4 1/2 3'],
                    'settings' => ['/proc/sys/vm/swappiness' => "{$swappiness}\n", '/proc/sys/vm/dirty_ratio' => null],
                ]],
            ])->assertOk();
            $this->app['auth']->forgetGuards();
            $this->flushHeaders()->actingAs($this->person(Role::Owner));
        };
        $sent('60');
        app(SettingFindings::class)->report($files);
        self::assertSame(['barn-1'], $this->accused($files));
        $this->get('/tend/settings?cluster=barn')->assertOk()->assertSee('sysctl -w vm.swappiness=10')
            ->assertSee('barn-1 differs from the desired profile in 1 setting');
        $this->later(60);
        $change = $this->propose($files, 'barn-1');
        foreach (['rehearse', 'approve'] as $act) {
            $this->step($change, $act);
        }
        $this->later(60);
        $this->step($change, 'apply');
        self::assertStringContainsString('Run the commands on barn-1 first', (string) $change->error);
        self::assertSame(ChangeState::Failed, $change->state);
        // Asked for again: read, but not done yet; then done.
        $again = $this->propose($files, 'barn-1');
        foreach (['rehearse', 'approve'] as $act) {
            $this->step($again, $act);
        }
        $this->later(60);
        $sent('10');
        $this->step($again, 'apply');
        self::assertSame([null, ChangeState::Applied], [$again->error, $again->state]);
        self::assertSame([], $this->accused($files));
        $this->step($again, 'undo');
        self::assertStringContainsString('vm.swappiness', (string) $again->error, 'undoing is done by people too');
        self::assertSame(ChangeState::Applied, $again->state);
    }

    public function test_what_was_otherwise_on_a_day_is_told(): void
    {
        $store = app(SettingsStore::class);
        $day = 86_400;
        $store->take($this->fern, 'fern-01', 'host', ['vm.swappiness' => '1', 'vm.dirty_ratio' => '10'], self::NOW - 9 * $day);
        self::assertSame(0, $store->take($this->fern, 'fern-01', 'host', ['vm.swappiness' => '7'], self::NOW - 9 * $day),
            'the same reading');
        $store->take($this->fern, 'fern-01', 'server', ['mariadb.x' => '1'], self::NOW - 9 * $day);
        self::assertSame(2, $store->take($this->fern, 'fern-01', 'host', ['vm.swappiness' => '60'], self::NOW - 3 * $day));
        self::assertSame(0, $store->take($this->fern, 'fern-01', 'host', ['vm.swappiness' => '60'], self::NOW - $day));
        self::assertEquals(['fern-01' => ['vm.swappiness' => '60', 'mariadb.x' => '1']], $store->of($this->fern));
        self::assertEquals(['fern-01' => ['vm.swappiness' => '1', 'vm.dirty_ratio' => '10', 'mariadb.x' => '1']],
            $store->of($this->fern, self::NOW - 4 * $day));
        self::assertSame([], $store->of($this->fern, self::NOW - 10 * $day));
        $changed = $store->changed($this->fern->id, self::NOW - 28 * $day, self::NOW);
        self::assertSame([['vm.dirty_ratio', '10', null], ['vm.swappiness', '1', '60']],
            array_map(static fn ($row): array => [$row->name, $row->before, $row->after], $changed));
        self::assertSame([self::NOW - 3 * $day => 'fern-01: vm.swappiness, fern-01: vm.dirty_ratio'],
            app(TimeMarks::class)->kinds($this->fern->id, self::NOW - 28 * $day, self::NOW)['settings']);
        $this->get('/tend/settings?cluster=fernhill&at=last+monday')->assertOk()->assertSee(', as of ');
        $this->get('/tend/settings?cluster=fernhill&at=nonsense')->assertOk()->assertSee('role="alert"', false);
        $this->get('/tend/settings?cluster=fernhill&name=dirty')->assertOk()->assertSee('No setting has that in its name');
        $store->prune(self::NOW + 500 * $day);
        self::assertSame([], $store->changed($this->fern->id, 0, self::NOW));
        self::assertNotSame([], $store->of($this->fern), 'what holds now is kept');
    }

    public function test_a_profile_is_saved_or_each_problem_has_its_line(): void
    {
        Artisan::call('settings:read');
        $this->post('/tend/settings/fernhill/profile',
            ['text' => "name: Ours\nsettings:\n  vm.swappiness:\n    atMost: many\n    reason: so\n"
            ."  vm.dirty_ratio:\n    is: 5\n"])
            ->assertSessionHasErrors(['text' => 'Line 4: vm.swappiness, atMost: it has to be a number.']);
        $this->post('/tend/settings/fernhill/profile', ['text' => "name: Ours\nsettings: [\n"])->assertSessionHasErrors('text');
        $wrong = "name: Ours\nsettings:\n  vm.swappiness:\n    atMost: many\n    reason: so\n";
        $this->post('/tend/settings/fernhill/profile', ['file' => UploadedFile::fake()->createWithContent('p.yaml', $wrong)])
            ->assertSessionHasErrors(['file' => 'Line 4: vm.swappiness, atMost: it has to be a number.']);
        $this->post('/tend/settings/fernhill/profile', ['file' => 'p.yaml'])
            ->assertSessionHasErrors(['file' => 'Choose a file with a profile in YAML.']);
        self::assertNull(app(ProfileBook::class)->saved($this->fern));
        $ours = "name: Ours\nsettings:\n  vm.swappiness:\n    atLeast: 5\n    reason: so\n";
        $this->post('/tend/settings/fernhill/profile', ['file' => UploadedFile::fake()->createWithContent('p.yaml', $ours)])
            ->assertSessionHasNoErrors();
        self::assertCount(12, $this->accused($this->fern), 'all hosts have less');
        self::assertSame($ours, $this->get('/tend/settings/fernhill/profile/file')->assertOk()->getContent());
        self::assertSame(1, LedgerEntry::query()->where('act', 'changed how hosts should be set')->count());
        $this->post('/tend/settings/fernhill/profile/forget')->assertRedirect();
        self::assertSame(['fern-04', 'fern-11'], $this->accused($this->fern));
        $this->post('/tend/settings/fernhill/propose', ['host' => 'fern-03'])
            ->assertSessionHas('failed', 'All settings of fern-03 are as desired.');
        $this->post('/tend/settings/fernhill/propose', ['host' => 'fern-99'])->assertSessionHas('failed');
        $this->post('/tend/settings/nowhere/read')->assertNotFound();
    }

    public function test_what_ships_can_be_read_and_is_met_by_a_node_nobody_touched(): void
    {
        foreach (['nodes', 'mariadb'] as $name) {
            $profile = ProfileBook::read((string) file_get_contents(resource_path("settings/{$name}.yaml")));
            self::assertInstanceOf(SettingsProfile::class, $profile, is_array($profile) ? implode(' ', $profile) : '');
            if ($name === 'nodes') {
                NodeBook::write($this->warehouse, 'fern', []);
                self::assertSame([], SettingTable::of($profile, NodeBook::settings($this->warehouse))->drift());
            }
        }
    }

    public function test_this_host_tells_its_own(): void
    {
        $this->serve();
        app(SettingsReader::class)->read($this->cluster, self::NOW);
        $all = app(SettingsStore::class)->of($this->cluster);
        self::assertCount(1, $all, 'the server and its host are one');
        $own = array_values($all)[0];
        self::assertSame(trim((string) file_get_contents('/proc/sys/vm/swappiness')), $own['vm.swappiness']);
        self::assertSame('33554432', $own['mariadb.innodb_buffer_pool_size']);
        self::assertMatchesRegularExpression('~^\d+$|^unlimited$~D', (string) $own['limit.open_files']);
    }

    /** A server with an account that may set what concerns connections. */
    private function serve(): void
    {
        if (self::started()) {
            self::admin()->exec("CREATE USER ender@'127.0.0.1' IDENTIFIED BY 'e'");
            self::admin()->exec("GRANT CONNECTION ADMIN ON *.* TO ender@'127.0.0.1'");
        }
        $this->watched('orchard', ['ender_username' => 'ender', 'ender_secret' => 'e']);
    }
}
