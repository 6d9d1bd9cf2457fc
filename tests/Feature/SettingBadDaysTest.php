<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Connectors\PracticeClusters;
use App\Estate\Models\Cluster;
use App\Ledger\Changes\ChangeAction;
use App\Ledger\Changes\ChangeState;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Ledger\Models\ProofRecord;
use App\Platform\Support\Role;
use App\Settings\Application\SettingChanges;
use App\Settings\Application\SettingFindings;
use App\Settings\Application\SettingsReader;
use App\Settings\Application\SettingsStore;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\NodeBook;
use Fulcrion\Practice\Storage\Warehouse;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;
use Tests\WatchedServer;

/**
 * Settings on bad days: a server that takes one value and not the other, a worker that is killed, hosts with odd names, a cluster whose
 * files are broken, readings that come late or twice.
 */
#[Group('today')]
final class SettingBadDaysTest extends TestCase
{
    use WatchedServer;

    private const NOW = 1_795_824_000;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW));
        $this->beforeApplicationDestroyed(static fn () => Carbon::setTestNow());
        $this->actingAs($this->person(Role::Owner));
    }

    /** A server whose account may set what concerns connections. */
    private function serve(): Cluster
    {
        if (self::started()) {
            self::admin()->exec("CREATE USER ender@'127.0.0.1' IDENTIFIED BY 'e'");
            self::admin()->exec("GRANT CONNECTION ADMIN ON *.* TO ender@'127.0.0.1'");
        }

        return $this->watched('orchard', ['ender_username' => 'ender', 'ender_secret' => 'e']);
    }

    private function practice(int $nodes = 4): Cluster
    {
        config(['fulcrion.practice' => sys_get_temp_dir().'/fulcrion-practice-'.bin2hex(random_bytes(4))]);
        mkdir((string) config('fulcrion.practice'));
        $warehouse = Warehouse::create(PracticeClusters::root('wren'), 'Wren', $nodes, new HardwareProfile());
        NodeBook::write($warehouse, 'wren', [], ['wren-02' => ['vm.swappiness' => '60', 'vm.dirty_ratio' => '80']]);

        return Cluster::query()->create(['slug' => 'wren', 'name' => 'Wren', 'role' => 'rehearsal', 'connector' => 'practice',
            'dialect' => Dialect::Ansi])->refresh();
    }

    /**
     * @param  list<string>  $steps
     * @param  list<string>  $inverse
     */
    private function approved(Cluster $cluster, string $host, array $steps, array $inverse): Change
    {
        return Change::query()->create([
            'cluster_id' => $cluster->id, 'object' => "host {$host}", 'title' => 'x', 'kind' => SettingChanges::KIND,
            'sealed_steps' => $steps,
            'inverse' => 'statements', 'sealed_inverse' => $inverse, 'workload' => [], 'state' => ChangeState::Approved, 'expected' => [],
            'asked_us' => 1, 'asked_by' => 'x', 'approved_us' => 1, 'approved_by' => 'x',
        ])->refresh();
    }

    private function apply(Change $change): Change
    {
        $this->post("/ledger/changes/{$change->id}/apply");

        return $change->refresh();
    }

    public function test_where_a_server_refuses_the_second_value_the_first_one_is_set_back(): void
    {
        $server = $this->serve();
        self::admin()->exec('SET GLOBAL max_password_errors = 4000000');
        $host = app(SettingsReader::class)->server($server);
        $change = $this->apply($this->approved($server, $host,
            ['mariadb.max_password_errors = 100', 'mariadb.log_slow_verbosity = query_plan'],
            ['mariadb.max_password_errors = 4000000', 'mariadb.log_slow_verbosity = ']));
        self::assertSame(ChangeState::Failed, $change->state);
        self::assertStringContainsString('may not set log_slow_verbosity', (string) $change->error);
        self::assertStringContainsString('mariadb.max_password_errors is 4000000', (string) $change->error);
        self::assertSame('4000000', (string) self::admin()->query('SELECT @@GLOBAL.max_password_errors')->fetchColumn());
        self::assertSame(0, ProofRecord::query()->where('change_id', $change->id)->count());
    }

    public function test_a_variable_that_is_not_there_and_a_value_that_is_a_statement(): void
    {
        $server = $this->serve();
        $host = app(SettingsReader::class)->server($server);
        $change = $this->apply($this->approved($server, $host, ['mariadb.no_such_variable = 1'], ['mariadb.no_such_variable = 0']));
        self::assertSame(ChangeState::Failed, $change->state);
        self::assertStringContainsString('no_such_variable', (string) $change->error);
        $change = $this->apply($this->approved($server, $host, ['mariadb.max_password_errors = 1; SET GLOBAL connect_timeout = 77'],
            ['mariadb.max_password_errors = 2']));
        self::assertSame(ChangeState::Failed, $change->state);
        self::assertNotSame('77', (string) self::admin()->query('SELECT @@GLOBAL.connect_timeout')->fetchColumn());
    }

    public function test_a_server_that_is_away_is_told_and_others_are_read(): void
    {
        $server = $this->serve();
        $this->practice();
        $server->update(['port' => 1]);
        self::assertSame(1, Artisan::call('settings:read'));
        self::assertSame(['wren-02'], Finding::query()->where('source', SettingFindings::SOURCE)->pluck('object')->all());
        $this->post('/tend/settings/orchard/read')->assertSessionHas('failed');
        $this->get('/tend/settings?cluster=orchard')->assertOk()->assertSee('No host has told its settings yet');
    }

    public function test_a_worker_that_was_killed_leaves_each_setting_set_wholly_or_not_at_all(): void
    {
        $wren = $this->practice();
        Artisan::call('settings:read');
        $change = $this->approved($wren, 'wren-02', ['vm.swappiness = 10'], ['vm.swappiness = 60']);
        NodeBook::set(Warehouse::open(PracticeClusters::root('wren')), 'wren-02', 'vm.swappiness', '10');
        app(SettingsReader::class)->read($wren, self::NOW + 60);
        $said = app(SettingChanges::class)->recover($change, ChangeAction::Apply);
        self::assertStringContainsString('The worker was killed.', $said);
        self::assertStringContainsString('vm.swappiness is 10', $said);
    }

    public function test_two_changes_of_one_host_do_not_run_at_once(): void
    {
        $wren = $this->practice();
        Artisan::call('settings:read');
        $one = $this->approved($wren, 'wren-02', ['vm.swappiness = 10'], ['vm.swappiness = 60']);
        $other = $this->approved($wren, 'wren-02', ['vm.dirty_ratio = 20'], ['vm.dirty_ratio = 80']);
        $one->update(['doing' => ChangeAction::Apply, 'claim' => "{$wren->id}:host wren-02", 'heartbeat_us' => self::NOW * 1_000_000]);
        $this->apply($other);
        self::assertSame(ChangeState::Approved, $other->state);
        self::assertSame('80', NodeBook::settings(Warehouse::open(PracticeClusters::root('wren')))['wren-02']['vm.dirty_ratio']);
    }

    public function test_nodes_whose_file_is_broken_are_told_of_in_words(): void
    {
        $wren = $this->practice();
        Artisan::call('settings:read');
        file_put_contents(PracticeClusters::root('wren').'/nodes.json', '{broken');
        self::assertSame(1, Artisan::call('settings:read'));
        self::assertStringContainsString('nodes.json is no JSON', Artisan::output());
        $change = $this->apply($this->approved($wren, 'wren-02', ['vm.swappiness = 10'], ['vm.swappiness = 60']));
        self::assertStringContainsString('cannot be read', (string) $change->error);
        $this->get('/tend/settings?cluster=wren')->assertOk()->assertSee('wren-02 differs from the desired profile');
    }

    public function test_a_host_that_is_gone_is_no_finding_any_more_and_its_past_is_kept(): void
    {
        $wren = $this->practice();
        Artisan::call('settings:read');
        self::assertSame(1, Finding::query()->where('source', SettingFindings::SOURCE)->where('state', 'open')->count());
        $store = app(SettingsStore::class);
        $store->take($wren, 'wren-02', 'host', [], self::NOW + 60);
        app(SettingFindings::class)->report($wren);
        self::assertSame(0, Finding::query()->where('source', SettingFindings::SOURCE)->where('state', 'open')->count());
        self::assertSame('60', $store->of($wren, self::NOW + 30)['wren-02']['vm.swappiness'] ?? null);
        $store->take($wren, 'wren-02', 'host', ['vm.swappiness' => '60'], self::NOW + 120);
        self::assertSame('60', $store->of($wren)['wren-02']['vm.swappiness'] ?? null, 'it is back');
        self::assertArrayNotHasKey('vm.dirty_ratio', $store->of($wren)['wren-02']);
    }

    public function test_readings_that_come_late_or_twice_change_nothing(): void
    {
        $wren = $this->practice();
        $store = app(SettingsStore::class);
        self::assertSame(1, $store->take($wren, 'a', 'host', ['vm.x' => '2'], self::NOW));
        self::assertSame(0, $store->take($wren, 'a', 'host', ['vm.x' => '1'], self::NOW - 60));
        self::assertSame(0, $store->take($wren, 'a', 'host', ['vm.x' => '3'], self::NOW));
        self::assertSame(['a' => ['vm.x' => '2']], $store->of($wren));
        self::assertSame(1, DB::table('host_settings')->count());
    }

    public function test_long_names_and_values_are_cut_and_shown(): void
    {
        $wren = $this->practice();
        $host = str_repeat('h', 120);
        $store = app(SettingsStore::class);
        $store->take($wren, $host, 'host', [str_repeat('n', 400) => str_repeat('v', 2_000), 'vm.swappiness' => '<b>60</b>'], self::NOW);
        app(SettingFindings::class)->report($wren);
        $this->get('/tend/settings?cluster=wren')->assertOk()->assertSee($host)->assertSee('&lt;b&gt;60', false)
            ->assertDontSee('<b>60', false);
        self::assertSame(500, strlen((string) DB::table('host_settings')->where('name', 'like', 'nnn%')->value('value')));
        $this->post('/tend/settings/wren/propose', ['host' => $host])->assertSessionMissing('failed');
        $change = Change::query()->latest('id')->firstOrFail();
        self::assertSame(['vm.swappiness = 10'], $change->sealed_steps);
        $this->post("/ledger/changes/{$change->id}/rehearse");
        $this->get("/ledger/changes/{$change->id}")->assertOk()->assertSee('sysctl -w vm.swappiness=10');
    }

    public function test_a_removed_cluster_takes_its_settings_along(): void
    {
        $wren = $this->practice();
        Artisan::call('settings:read');
        self::assertGreaterThan(0, DB::table('host_settings')->count());
        $wren->forceDelete();
        self::assertSame(0, DB::table('host_settings')->count() + DB::table('host_setting_reads')->count());
    }
}
