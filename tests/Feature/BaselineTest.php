<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Baseline\Application\BaselineBook;
use App\Baseline\Application\BusiestHour;
use App\Baseline\Models\BaselineRun;
use App\Estate\Connectors\PracticeClusters;
use App\Estate\Models\Cluster;
use App\Metrics\Store\PointStore;
use App\Metrics\Store\ThisHost;
use App\Platform\Support\Role;
use Fulcrion\Core\Baseline\ResourceUse;
use Fulcrion\Core\Health\NodeCondition;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\NodeBook;
use Fulcrion\Practice\Storage\Warehouse;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\File;
use Illuminate\Testing\TestResponse;
use PHPUnit\Framework\Attributes\Group;
use Symfony\Component\Process\Process;
use Tests\TestCase;

/**
 * What hardware can do, measured for real here, played by practice clusters, and sent by agents.
 */
#[Group('today')]
final class BaselineTest extends TestCase
{
    private const PLAN = ['seconds' => 1, 'space' => '16 MB', 'load' => '8'];

    protected function setUp(): void
    {
        parent::setUp();
        $this->actingAs($this->person(Role::Owner));
    }

    private function own(): Cluster
    {
        return Cluster::query()->create(['slug' => 'own', 'name' => 'Own store', 'role' => 'own', 'connector' => 'mariadb',
            'dialect' => Dialect::MariaDb, 'is_own' => true, 'host' => '127.0.0.1', 'port' => 1, 'username' => 'x', 'secret' => 'x'])
            ->refresh();
    }

    private function fernhill(): Cluster
    {
        config(['fulcrion.practice' => sys_get_temp_dir().'/fulcrion-practice-'.bin2hex(random_bytes(4))]);
        mkdir((string) config('fulcrion.practice'));
        $warehouse = Warehouse::create(PracticeClusters::root('fernhill'), 'Fernhill', 5,
            new HardwareProfile(16, 10_000_000, 64_000_000_000, 2_000_000_000, 1_000_000_000, 1_000));
        NodeBook::write($warehouse, 'fern', [new NodeCondition(3, 0.5, (time() - 86_400) * 1_000_000)]);

        return Cluster::query()->create(['slug' => 'fernhill', 'name' => 'Fernhill', 'role' => 'production', 'connector' => 'practice',
            'dialect' => Dialect::Ansi])->refresh();
    }

    public function test_this_host_is_really_measured_by_the_named_tools(): void
    {
        $own = $this->own();
        $host = app(ThisHost::class)->name();
        $this->post('/tend/baseline/own', self::PLAN + ['host' => $host])->assertSessionHas('done');
        $run = BaselineRun::query()->firstOrFail();
        self::assertSame(['done', 'complete', []], [$run->state, $run->outcome, $run->notes], (string) $run->error);
        $values = $run->values ?? [];
        self::assertSame(['disk-random', 'disk-read', 'disk-write', 'memory', 'network', 'processors'],
            array_keys(collect($values)->sortKeys()->all()));
        // Whatever machine it is: a disk is no slower than a floppy and no faster than memory.
        foreach (['disk-read', 'disk-write', 'memory', 'network'] as $resource) {
            self::assertGreaterThan(100_000.0, $values[$resource], $resource);
            self::assertLessThan(1e12, $values[$resource], $resource);
        }
        self::assertSame([], File::files(storage_path('app/baseline')), 'the file it was measured with is gone');
        $this->get('/tend/baseline?cluster=own')->assertOk()->assertSee('Disk, read here and there')->assertSee('fio: read in blocks')
            ->assertSee('what is used of it is not known');
        self::assertSame([$host], array_keys(app(BaselineBook::class)->measured($own)));
    }

    public function test_a_host_at_work_is_not_measured_and_one_broken_off_tells_what_it_has(): void
    {
        $this->own();
        $agent = base_path('bin/agent');
        $refused = new Process([PHP_BINARY, $agent, '--measure', '--folder=/tmp', '--seconds=1', '--load=0']);
        $refused->run();
        $result = json_decode($refused->getOutput(), true);
        // On a machine that does nothing at all nothing is refused.
        if (is_array($result) && (sys_getloadavg()[0] ?? 0) > 0.05) {
            self::assertSame('refused', $result['state']);
            self::assertStringContainsString('The host is at work', $result['notes'][0]);
        }
        $folder = sys_get_temp_dir().'/fulcrion-baseline-'.bin2hex(random_bytes(4));
        mkdir($folder);
        $broken = new Process([PHP_BINARY, $agent, '--measure', "--folder={$folder}", '--seconds=2', '--space=16000000', '--load=99']);
        $broken->start();
        for ($i = 0; $i < 200 && ! str_contains($broken->getErrorOutput(), 'step fio-read'); $i++) {
            usleep(50_000);
        }
        $broken->signal(SIGTERM);
        $broken->wait();
        $result = json_decode($broken->getOutput(), true);
        self::assertIsArray($result);
        self::assertSame('broken off', $result['state']);
        self::assertSame(['fio-write'], array_keys($result['outputs']), 'what was through is kept');
        self::assertSame([], File::files($folder));
        $kept = BaselineBook::kept($result);
        self::assertSame('broken off', $kept['outcome']);
        self::assertArrayHasKey('disk-write', $kept['values']);
        File::deleteDirectory($folder);
        // No room, and tools that are missing, are told and stop nothing else.
        $none = new Process([PHP_BINARY, $agent, '--measure', '--folder=/nowhere', '--seconds=1', '--load=99'], null,
            ['PATH' => '/nowhere']);
        $none->run();
        $result = json_decode($none->getOutput(), true);
        self::assertIsArray($result);
        self::assertStringContainsString('/nowhere has no room', $result['notes'][0]);
        self::assertStringContainsString('sysbench is not installed', $result['notes'][1]);
    }

    public function test_the_profile_plays_the_nodes_and_the_slow_disk_is_seen_beside_the_others(): void
    {
        $fern = $this->fernhill();
        $this->post('/tend/baseline/fernhill', self::PLAN + ['host' => '*'])->assertSessionHas('done', '5 hosts are measured.');
        $measured = app(BaselineBook::class)->measured($fern);
        self::assertCount(5, $measured);
        self::assertEquals([1e9, 2e9],
            [$measured['fern-04'][0]->values['disk-read'] ?? 0.0, $measured['fern-03'][0]->values['disk-read'] ?? 0.0]);
        $this->get('/tend/baseline?cluster=fernhill')->assertOk()->assertSee('50% of the others');
        $this->post('/tend/baseline/fernhill', self::PLAN + ['host' => 'fern-99'])->assertSessionHas('failed');
        $other = $this->cluster('wren');
        $this->get('/tend/baseline?cluster=fernhill&other=wren')->assertOk()->assertSee('middle of Wren');
        $this->get('/tend/baseline?cluster='.$other->slug)->assertOk()->assertSee('was not measured yet');
    }

    public function test_what_is_used_is_held_against_what_was_measured(): void
    {
        $fern = $this->fernhill();
        $this->post('/tend/baseline/fernhill', self::PLAN + ['host' => '*']);
        $hour = time() - time() % 3_600 - 7_200;
        foreach ([[$hour, 50], [$hour - 3_600, 20]] as [$at, $load]) {
            DB::table('load_by_origin_hour')
                ->insert(['cluster_id' => $fern->id, 'bucket_at' => $at, 'origin_id' => 1, 'kind' => 'select', 'executions' => 1,
                    'duration_us' => 1, 'load_us' => $load, 'lock_us' => 0, 'queued_us' => 0, 'cpu_us' => 0, 'bytes_scanned' => 0]);
        }
        self::assertSame($hour, app(BusiestHour::class)->find($fern, $hour - 86_400, time()));
        $points = app(PointStore::class);
        foreach (['fern-01' => 0.2, 'fern-04' => 0.8] as $host => $share) {
            for ($at = $hour - 300; $at <= $hour + 3_600; $at += 300) {
                $since = $at - $hour + 300;
                $points->take($fern->id, $host, $at * 1_000, [
                    new Metric('system.disk.io', 'By', $share * 0.75e9 * $since, ['disk.io.direction' => 'read'], true),
                    new Metric('system.disk.io', 'By', $share * 0.25e9 * $since, ['disk.io.direction' => 'write'], true),
                    new Metric('system.network.io', 'By', 0.1e9 * $since, ['network.io.direction' => 'receive'], true),
                    new Metric('system.network.io', 'By', 0.3e9 * $since, ['network.io.direction' => 'transmit'], true),
                    ...array_map(static fn (string $mode): Metric => new Metric('system.cpu.time', 's', $mode === 'user' ? 4.0 * $since
                        : 0.0,
                        ['cpu.mode' => $mode], true), ['user', 'nice', 'system', 'interrupt', 'softirq']),
                    new Metric('system.cpu.logical.count', '{cpu}', 16.0),
                ]);
            }
        }
        $baselines = array_map(static fn (array $runs): array => $runs[0]->values ?? [], app(BaselineBook::class)->measured($fern));
        $uses = [];
        foreach (app(BusiestHour::class)->uses($fern, $hour, $baselines) as $use) {
            $uses["{$use->host} {$use->resource}"] = round($use->high, 6);
        }
        self::assertSame(0.8, $uses['fern-04 disk'] ?? null, 'a gigabyte a second is all that disk can do');
        self::assertSame(0.1, $uses['fern-01 disk'] ?? null, 'the other can do two');
        self::assertSame(0.3, $uses['fern-01 network'] ?? null, 'the fuller way');
        self::assertSame(0.25, $uses['fern-01 processors'] ?? null);
        $this->get('/tend/baseline?cluster=fernhill')->assertOk()
            ->assertSee('The disks of fern-04 hold Fernhill back: in the busiest hour 80% of what they can do is used');
        self::assertSame('fern-04', ResourceUse::bottleneck(app(BusiestHour::class)->uses($fern, $hour, $baselines))?->host);
    }

    public function test_an_agent_is_asked_once_and_what_nobody_asked_for_does_not_count(): void
    {
        $barn = $this->cluster('barn');
        $token = $barn->createToken('barn', ['metrics:write'])->plainTextToken;
        $send = function (string $host, array $more = []) use ($token): TestResponse {
            $this->app['auth']->forgetGuards();
            $answer = $this->withToken($token)->postJson('/api/hosts', ['host' => $host, 'sent_ms' => time() * 1_000, 'readings' => [
                $more + ['at_ms' => time() * 1_000, 'files' => ['loadavg' => '0.5 0.4 0.4 1/2 3']]]])->assertOk();
            $this->app['auth']->forgetGuards();
            $this->flushHeaders()->actingAs($this->person(Role::Owner));

            return $answer;
        };
        self::assertNull($send('barn-1')->json('asked'));
        $send('barn-2');
        $this->post('/tend/baseline/barn', self::PLAN + ['host' => 'barn-1', 'partner' => 'barn-2'])->assertSessionHas('done');
        $this->post('/tend/baseline/barn', self::PLAN + ['host' => 'barn-1'])->assertSessionHas('failed', 'It is being measured already.');
        self::assertSame('serve', $send('barn-2')->json('asked.kind'), 'the other end listens');
        $asked = $send('barn-1')->json('asked');
        self::assertSame(['measure', 'barn-2'], [$asked['kind'], $asked['partner']]);
        self::assertNull($send('barn-1')->json('asked'), 'once');
        $outputs = ['sysbench-cpu' => 'events per second: 1428.89', 'iperf3' => '{"end":{"sum_received":{"bits_per_second":8e8}}}'];
        $result = ['id' => $asked['id'] + 50, 'at_ms' => time() * 1_000, 'state' => 'complete', 'outputs' => $outputs, 'notes' => []];
        $send('barn-1', ['baseline' => $result]);
        self::assertSame([], app(BaselineBook::class)->measured($barn), 'nobody asked for that');
        $send('barn-1', ['baseline' => ['id' => $asked['id'], 'notes' => ['fio is not installed', 7], 'state' => 'marvellous'] + $result]);
        $run = app(BaselineBook::class)->measured($barn)['barn-1'][0];
        self::assertEquals(['processors' => 1_428.89, 'network' => 1e8], $run->values);
        self::assertSame(['broken off', ['fio is not installed']], [$run->outcome, $run->notes]);
        // Asked for, and its agent never comes.
        $this->post('/tend/baseline/barn', self::PLAN + ['host' => 'barn-1']);
        $last = BaselineRun::query()->latest('id')->firstOrFail();
        $this->get('/tend/baseline?cluster=barn')->assertOk()->assertSee('is measured when its agent comes by');
        $this->post("/tend/baseline/runs/{$last->id}/stop");
        self::assertNull($send('barn-1')->json('asked'));
        $this->post('/tend/baseline/barn', self::PLAN + ['host' => 'barn-1'])->assertSessionHas('done');
        BaselineRun::query()->latest('id')->firstOrFail()->update(['asked_us' => (time() - 1_000) * 1_000_000]);
        self::assertNull($send('barn-1')->json('asked'), 'nobody expects to be measured a quarter of an hour later');
    }

    public function test_limits_are_asked_for_clearly(): void
    {
        $this->cluster('barn');
        foreach ([['host' => ''], ['seconds' => 61], ['space' => '1 TB'], ['space' => 'much'], ['load' => 0],
            ['partner' => 'a b; rm']] as $wrong) {
            $this->post('/tend/baseline/barn', $wrong + self::PLAN + ['host' => 'x'])->assertSessionHasErrors(array_keys($wrong));
        }
        $this->post('/tend/baseline/nowhere', self::PLAN + ['host' => 'x'])->assertNotFound();
    }
}
