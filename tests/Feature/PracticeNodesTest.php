<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\PracticeClusters;
use App\Estate\Models\Cluster;
use App\Health\Application\PracticeNodes;
use App\Ledger\Models\Finding;
use App\Metrics\Store\HostReadings;
use App\Platform\Support\Role;
use Fulcrion\Core\Health\NodeCondition;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\NodeBook;
use Fulcrion\Practice\Storage\Warehouse;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * What nodes of a practice cluster did, from the executions that were in flight.
 */
#[Group('today')]
final class PracticeNodesTest extends TestCase
{
    private const HOUR = 3_600;

    /** Monday. */
    private const FROM = 1_795_392_000;

    private const DAYS = 5;

    /** On the third day from six o'clock on. */
    private const SICK = self::FROM + 2 * 86_400 + 6 * self::HOUR;

    private const TO = self::FROM + self::DAYS * 86_400;

    private const NAMES = ['disk.read', 'disk.write', 'disk.busy', 'cpu.user'];

    private Warehouse $warehouse;

    private Cluster $cluster;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow(Carbon::createFromTimestamp(self::TO));
        config(['fulcrion.practice' => sys_get_temp_dir().'/fulcrion-practice-'.bin2hex(random_bytes(4))]);
        mkdir((string) config('fulcrion.practice'));
        $profile = new HardwareProfile(16, 10_000_000, 64_000_000_000, 2_000_000_000, 2_000_000_000, 1_000);
        $this->warehouse = Warehouse::create(PracticeClusters::root('fernhill'), 'Fernhill', 5, $profile);
        $this->warehouse->createSchema('field');
        NodeBook::write($this->warehouse, 'fern', [new NodeCondition(3, 0.5, self::SICK * 1_000_000)]);
        $this->cluster = Cluster::query()->create([
            'slug' => 'fernhill', 'name' => 'Fernhill', 'role' => 'production', 'connector' => 'practice', 'dialect' => Dialect::Ansi,
        ])->refresh();
        // One table lies about evenly, all rows of the other on one node.
        $rows = implode(', ', array_map(static fn (int $i): string => "({$i}, 1)", range(1, 2_000)));
        foreach (['pick' => 'id', 'reading' => 'bay'] as $table => $column) {
            $this->ask("CREATE TABLE field.{$table} (id bigint, bay bigint) PLACED BY ({$column})");
            $this->ask("INSERT INTO field.{$table} VALUES {$rows}");
        }
    }

    protected function tearDown(): void
    {
        Carbon::setTestNow();
        $this->warehouse->destroy();
        @rmdir((string) config('fulcrion.practice'));
        parent::tearDown();
    }

    private function ask(string $sql): void
    {
        $runner = app(Clusters::class)->as(Actor::system(SystemActor::Demo, 'tests'))->runner($this->cluster);
        self::assertNotNull($runner);
        $runner->run($sql, 'field');
    }

    /**
     * @param  string  $table every ten minutes, a little more each time
     */
    private function history(string $table = 'pick', int $from = self::FROM, int $to = self::TO, int $bytes = 60_000_000_000): int
    {
        $records = [];
        $sum = 0;
        for ($at = $from + 30; $at < $to; $at += 600) {
            $sum += $read = $bytes + $at % 7_777;
            $records[] = ['started_at' => $at, 'duration_us' => 400_000_000, 'sql' => "SELECT id FROM {$table}", 'user' => 'boards',
                'bytes_scanned' => $read, 'cpu_us' => 100_000_000, 'database' => 'field'];
        }
        Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'fernhill']);
        Artisan::call('usage:close');

        return $sum;
    }

    /**
     * @return array<string, array<string, float>> what each counter grew by, by host
     */
    private function grown(int $from = self::FROM, int $to = self::TO): array
    {
        $grown = [];
        foreach (app(HostReadings::class)->ofAll($this->cluster->id, self::NAMES, $from, $to, 301) as $host => $readings) {
            foreach (self::NAMES as $name) {
                $rate = $readings[$name]->rates($from + 300, $to, $to - $from - 300)[0] ?? 0.0;
                $grown[$host][$name] = $rate * ($to - $from - 300);
            }
        }

        return $grown;
    }

    public function test_all_nodes_together_read_what_executions_read(): void
    {
        $sum = $this->history();
        self::assertGreaterThan(0, app(PracticeNodes::class)->span($this->cluster, self::FROM - 600, self::TO));
        $grown = $this->grown(self::FROM - 600);
        self::assertSame(['fern-01', 'fern-02', 'fern-03', 'fern-04', 'fern-05'], array_keys($grown));
        // Nodes count whole bytes.
        $read = array_sum(array_column($grown, 'disk.read'));
        self::assertEqualsWithDelta($sum, $read, 5.0 * self::DAYS * 288);
        foreach ($grown as $one) {
            self::assertEqualsWithDelta($read / 5, $one['disk.read'], 0.03 * $read);
        }
        // A hundred seconds with sixteen processors each time, beside 1.2% of them.
        $runs = self::DAYS * 144;
        $seconds = self::DAYS * 86_400;
        $most = max(array_column($grown, 'cpu.user'));
        self::assertEqualsWithDelta(100 * 16 * $runs + 0.012 * 16 * $seconds, $most, 0.003 * 1_600 * $runs);
        // Twice as long for the same since the third day.
        $after = $this->grown(self::SICK);
        $cost = static fn (array $one): float => $one['disk.busy'] / ($one['disk.read'] + $one['disk.write']);
        self::assertEqualsWithDelta(2.0, $cost($after['fern-04']) / $cost($after['fern-01']), 0.03);
        $before = $this->grown(self::FROM, self::SICK);
        self::assertEqualsWithDelta(1.0, $cost($before['fern-04']) / $cost($before['fern-01']), 0.03);
    }

    public function test_a_table_on_one_node_is_read_there(): void
    {
        $this->history('reading', self::FROM, self::FROM + 6 * self::HOUR, 10_000_000_000);
        app(PracticeNodes::class)->span($this->cluster, self::FROM - 600, self::FROM + 7 * self::HOUR);
        $read = array_column($this->grown(self::FROM - 600, self::FROM + 7 * self::HOUR), 'disk.read');
        sort($read);
        self::assertSame([0.0, 0.0], [$read[0], $read[3]]);
        self::assertEqualsWithDelta(36 * 10e9, $read[4], 1e7);
    }

    public function test_going_on_says_the_same_as_all_at_once_and_nothing_is_counted_twice(): void
    {
        $this->history(to: self::FROM + 12 * self::HOUR);
        $nodes = app(PracticeNodes::class);
        $to = self::FROM + 12 * self::HOUR;
        foreach ([1, 2, 5, 5, 12] as $hours) {
            $nodes->span($this->cluster, self::FROM - 600, self::FROM + $hours * self::HOUR + 900);
        }
        self::assertSame(0, $nodes->span($this->cluster, self::FROM, self::FROM + self::HOUR));
        $parts = $this->grown(self::FROM - 600, $to);
        DB::table('practice_nodes')->delete();
        DB::table('metric_series')->delete();
        $this->app->forgetInstance(PracticeNodes::class);
        app(PracticeNodes::class)->span($this->cluster, self::FROM - 600, $to + 900);
        foreach ($this->grown(self::FROM - 600, $to) as $host => $one) {
            foreach ($one as $name => $value) {
                self::assertEqualsWithDelta($value, $parts[$host][$name], 1e-6 * $value + 10, "{$host} {$name}");
            }
        }
        // What is kept agrees with what executions read, and says so.
        $this->actingAs($this->person(Role::Engineer));
        $this->post('/tend/setup/fernhill')->assertRedirect('/tend/setup/fernhill')->assertSessionHas('compared');
        self::assertTrue(session('compared')[0]['agrees']);
        $this->get('/tend/setup/fernhill')->assertOk()->assertSee('All of it agrees');
        DB::table('load_five_minute')->update(['bytes_scanned' => DB::raw('bytes_scanned * 2')]);
        $this->post('/tend/setup/fernhill');
        self::assertFalse(session('compared')[0]['agrees']);
        // The schedule's way: what there is of it is computed already.
        Carbon::setTestNow(Carbon::createFromTimestamp($to + 1_200));
        self::assertSame(0, Artisan::call('health:nodes'));
        self::assertStringContainsString('Fernhill: 0 values were kept', Artisan::output());
    }

    public function test_the_sick_node_is_found_and_nobody_else_and_silence_is_told(): void
    {
        $this->history();
        $nodes = app(PracticeNodes::class);
        $silent = self::FROM + 86_400 + 9 * self::HOUR;
        $nodes->span($this->cluster, self::FROM, $silent);
        $nodes->span($this->cluster, self::FROM, $silent + 6 * self::HOUR, $silent + 6 * self::HOUR);
        $nodes->span($this->cluster, self::FROM, self::TO);
        Artisan::call('health:judge');
        $found = Finding::query()->where('source', 'hosts')->orderBy('rule')->get();
        self::assertSame([['not-read', '5 hosts of Fernhill'], ['slow-disk', 'fern-04']],
            $found->map(static fn (Finding $one): array => [$one->rule, $one->object])->all());
        self::assertStringContainsString('from Tue 24 Nov 09:00 UTC to Tue 24 Nov 15:05 UTC, for 6 h 5 min', $found[0]->problem);
        self::assertMatchesRegularExpression('~ (1\.9\d|2|2\.0\d) times as long as its neighbours~', $found[1]->problem);
        self::assertStringContainsString('since Wed 25 Nov 06:00 UTC', $found[1]->problem);

        $this->actingAs($this->person(Role::Viewer));
        $page = (string) $this->get('/tend/beside?window=last+7+days')->assertOk()->assertSee('The disks of fern-04 take')->getContent();
        self::assertSame(1, substr_count($page, 'strip odd'));
        self::assertMatchesRegularExpression('~fern-04</a>.*?× (1\.9|2\.0)\d<~s', $page);
        $this->get('/tend/beside?measure=processor')->assertOk()->assertSee('are much alike: processors at work');
        $this->get('/tend/beside?measure=nothing&window=some+day&cluster=none')->assertOk()->assertSee('The last 7 days are shown instead')
            ->assertSee('fern-04');
        $this->get('/tend/beside?window=2026-01-01+to+2026-01-02')->assertOk()->assertSee('Nothing is known of the hosts of Fernhill');
        $this->get('/tend/hosts?cluster=fernhill&host=fern-04&window=last+7+days')->assertOk()->assertSee('fern-04 was')
            ->assertSee('and nothing is known of')->assertSee('Modelled from the executions');
        // When it is mended, or out of sight, the finding is solved.
        Carbon::setTestNow(Carbon::createFromTimestamp(self::TO + 40 * 86_400));
        Artisan::call('health:judge');
        self::assertSame(0, Finding::query()->where('source', 'hosts')->where('rule', 'slow-disk')->where('state', 'open')->count());
    }

    public function test_a_cluster_that_cannot_say_what_its_nodes_are_is_told_of_and_others_go_on(): void
    {
        $this->history(to: self::FROM + self::HOUR);
        file_put_contents("{$this->warehouse->root}/nodes.json", 'no json');
        Carbon::setTestNow(Carbon::createFromTimestamp(self::FROM + 2 * self::HOUR));
        self::assertSame(1, Artisan::call('health:nodes'));
        self::assertStringContainsString('nodes.json is no JSON', Artisan::output());
        $this->cluster->update(['connector' => 'files']);
        self::assertSame(0, app(PracticeNodes::class)->compute($this->cluster, self::TO));
        $this->actingAs($this->person(Role::Viewer));
        $this->get('/tend/beside')->assertOk()->assertSee('No host is read yet');
    }
}
