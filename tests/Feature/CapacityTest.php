<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Capacity\Application\CapacityFindings;
use App\Capacity\Application\CapacityMeter;
use App\Capacity\Application\CapacityStore;
use App\Capacity\Application\StoragePlaces;
use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\PracticeClusters;
use App\Estate\Models\Cluster;
use App\Ledger\Models\Finding;
use App\Metrics\Signals\SignalSources;
use App\Metrics\Store\PointStore;
use App\Platform\Support\Role;
use Fulcrion\Core\Capacity\PartKind;
use Fulcrion\Core\Capacity\StorageReading;
use Fulcrion\Core\Capacity\StoredPart;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\ProcText;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\NodeBook;
use Fulcrion\Practice\Storage\Warehouse;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\File;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * How full everything is, when it is full, what grew, and when nobody was answered.
 */
#[Group('today')]
final class CapacityTest extends TestCase
{
    private const DAY = 86_400;

    private const GB = 1e9;

    /** A Wednesday. */
    private const NOW = 1_795_564_800 + 12 * 3_600;

    private Cluster $fern;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW));
        $this->beforeApplicationDestroyed(static fn () => Carbon::setTestNow());
        $this->fern = $this->cluster();
        $this->actingAs($this->person(Role::Owner));
    }

    /** Four weeks by the hour, a step of ten each Sunday at two. */
    private function history(float $limit): void
    {
        $store = app(CapacityStore::class);
        $used = 100.0;
        $readings = [];
        for ($at = self::NOW - 28 * self::DAY - 12 * 3_600; $at <= self::NOW; $at += 3_600) {
            $used += gmdate('N G', $at) === '7 2' ? 10.0 : 0.0;
            $readings[] = new StorageReading($at, $used * self::GB, $limit * self::GB);
            $store->keepParts($this->fern->id, $at, [
                new StoredPart(PartKind::Table, 'field.pick', ($used - 50) * self::GB),
                new StoredPart(PartKind::Versions, 'trade.pallet', 50 * self::GB),
            ]);
        }
        $store->keep($this->fern->id, CapacityStore::WHOLE, ...$readings);
    }

    /**
     * @return list<string>
     */
    private function found(): array
    {
        app(CapacityFindings::class)->report($this->fern, self::NOW);

        return array_values(Finding::query()->where('source', CapacityFindings::SOURCE)->where('state', 'open')->orderBy('object')->get()
            ->map(static fn (Finding $one): string => $one->problem)->all());
    }

    public function test_what_is_full_in_weeks_is_found_with_its_steps_and_their_cause(): void
    {
        $this->history(185.0);
        // 140 are used: the fifth step from now, the first one on Sunday in four days.
        self::assertSame(['The storage of Fernhill will be full in about 5 weeks'], $this->found());
        $place = app(StoragePlaces::class)->of($this->fern, self::NOW)[0];
        self::assertSame([32, 32, 32], [$place->forecast?->days, $place->forecast?->earliest, $place->forecast?->latest]);
        self::assertSame([10 * self::GB],
            array_values(array_unique(array_map(static fn ($one): float => round($one->bytes), $place->steps))));
        self::assertCount(4, $place->steps);
        $causes = app(StoragePlaces::class)->causes($this->fern, $place->steps);
        self::assertSame(['field.pick'],
            array_values(array_unique(array_map(static fn (StoredPart $one): string => $one->name(), $causes))));
        Finding::query()->create([
            'cluster_id' => $this->fern->id, 'source' => 'storage', 'rule' => 'expired-versions', 'object' => 'trade.pallet',
            'digest' => 'x',
            'severity' => 'watch', 'problem' => '4 old versions of trade.pallet keep files nobody else needs', 'evidence' => [],
            'weight' => 1.0,
            'weight_unit' => 'bytes', 'spare_bytes' => 50 * self::GB, 'remedy' => 'expiry', 'state' => 'open', 'first_us' => 1,
            'last_us' => 1,
            'changed_us' => 1,
        ]);
        $this->get('/tend/storage?cluster=fernhill')->assertOk()->assertSee('The storage of Fernhill will be full in about 5 weeks')
            ->assertSee('46.6 GiB could go')->assertSee('4 old versions of trade.pallet')->assertSee('+9.31 GiB');
    }

    public function test_what_has_room_for_years_is_no_finding_and_what_is_nearly_full_is_urgent(): void
    {
        $this->history(1_000.0);
        self::assertSame([], $this->found());
        app(CapacityStore::class)
            ->keep($this->fern->id, CapacityStore::WHOLE, new StorageReading(self::NOW, 140 * self::GB, 145 * self::GB));
        self::assertCount(1, $this->found());
        self::assertTrue(Finding::query()->where('source', CapacityFindings::SOURCE)->firstOrFail()->urgent);
        // A file system that was made larger: it is said, and the finding is over.
        app(CapacityStore::class)
            ->keep($this->fern->id, CapacityStore::WHOLE, new StorageReading(self::NOW, 140 * self::GB, 2_000 * self::GB));
        self::assertSame([], $this->found());
        $this->get('/tend/storage?cluster=fernhill')->assertOk()->assertSee('Its size was another one before');
    }

    public function test_twelve_minutes_without_an_answer_are_found_with_their_minutes(): void
    {
        self::assertSame([], $this->found());
        $from = self::NOW - 3 * self::DAY;
        $rows = [[60, 1], [60, 36], [60, 60], [60, 48], [60, 0]];
        foreach ($rows as $place => [$executions, $errors]) {
            $values = ['cluster_id' => $this->fern->id, 'bucket_at' => $from + 300 * $place, 'statement_id' => 1, 'origin_id' => 1,
                'executions' => $executions, 'errors' => $errors, 'min_us' => 1, 'max_us' => 1, 'sketch' => ''];
            DB::table('load_five_minute')->insert($values);
        }
        $found = $this->found();
        self::assertCount(1, $found);
        self::assertStringStartsWith('Fernhill answered nobody for about 12 minutes, between ', $found[0]);
        $this->get('/tend/storage?cluster=fernhill')->assertOk()->assertSee('Fernhill answered nobody for 12 minutes in this window')
            ->assertSee('What happened then');
        $this->get('/tend/storage?cluster=fernhill&window=yesterday')->assertOk()
            ->assertSee('Whenever somebody asked, somebody was answered');
        $this->get('/tend/storage?cluster=fernhill&window=nonsense')->assertOk()->assertSee('The last 28 days are shown instead');
    }

    public function test_file_systems_of_hosts_are_measured_by_the_hour(): void
    {
        $points = app(PointStore::class);
        foreach (['fern-01' => 40.0, 'fern-02' => 90.0] as $host => $used) {
            $points->take($this->fern->id, $host, (self::NOW - 60) * 1_000,
                ProcText::fileSystem('/data', 100 * self::GB, (100 - $used) * self::GB));
            $points->take($this->fern->id, $host, (self::NOW - 30) * 1_000, ProcText::fileSystem('/', 10 * self::GB, 9 * self::GB));
        }
        $points->take($this->fern->id, 'fern-03', (self::NOW - 2 * 3_600) * 1_000, ProcText::fileSystem('/data', 100.0, 1.0));
        self::assertSame(4, app(CapacityMeter::class)->measure($this->fern, self::NOW), 'what was read two hours ago is not of now');
        self::assertSame(4, app(CapacityMeter::class)->measure($this->fern, self::NOW + 60));
        self::assertSame(4, DB::table('capacity_readings')->count(), 'one an hour');
        $places = app(StoragePlaces::class)->of($this->fern, self::NOW + 60);
        self::assertSame(['fern-02 /data', 'fern-01 /data', 'fern-01 /', 'fern-02 /'],
            array_map(static fn ($one): string => $one->name, $places));
        self::assertSame(0.9, $places[0]->share());
        $this->get('/tend/storage?cluster=fernhill&place=fern-01+/')->assertOk()->assertSee('fern-01 /')->assertSee('not known yet');
    }

    public function test_a_practice_cluster_says_what_takes_its_space(): void
    {
        config(['fulcrion.practice' => sys_get_temp_dir().'/fulcrion-practice-'.bin2hex(random_bytes(4))]);
        mkdir((string) config('fulcrion.practice'));
        $warehouse = Warehouse::create(PracticeClusters::root('wren'), 'Wren', 4, new HardwareProfile());
        $warehouse->createSchema('field');
        $wren = Cluster::query()->create(['slug' => 'wren', 'name' => 'Wren', 'role' => 'rehearsal', 'connector' => 'practice',
            'dialect' => Dialect::Ansi])->refresh();
        $run = static fn (string $sql) => app(Clusters::class)->as(Actor::system(SystemActor::Demo, 'a test'))
            ->runner($wren)?->run($sql, 'field');
        $run('CREATE TABLE field.pick (id bigint) PLACED EVERYWHERE');
        $run('INSERT INTO field.pick VALUES (1), (2), (3)');
        self::assertSame(0, app(CapacityMeter::class)->measure($wren, self::NOW), 'nobody said how much it can store');
        $table = app(CapacityStore::class)->parts($wren->id, self::NOW)[0];
        self::assertSame(['field.pick', PartKind::Table], [$table->object, $table->kind]);
        $bytes = array_sum(array_map(static fn (string $file): int => (int) filesize($file),
            File::glob(PracticeClusters::root('wren').'/data/*/*.parquet')));
        self::assertGreaterThan(0, $bytes);
        self::assertSame((float) $bytes * 4 * 1_000, $table->bytes,
            'a copy on each of four nodes, a thousand times as large as it is here');
        NodeBook::setStorageBytes($warehouse, (int) ($table->bytes * 4));
        $run('DELETE FROM field.pick WHERE id = 1');
        self::assertSame(1, app(CapacityMeter::class)->measure($wren, self::NOW));
        $parts = [];
        foreach (app(CapacityStore::class)->parts($wren->id, self::NOW) as $part) {
            $parts[$part->kind->value] = $part->bytes;
        }
        self::assertSame($table->bytes, $parts['versions'], 'the version before has its own file still');
        $signals = app(SignalSources::class);
        self::assertNotNull($signals->find($wren, 'capacity:share'));
        $hour = self::NOW - self::NOW % 3_600;
        $values = $signals->values($wren, 'capacity:share', $hour - 3_600, $hour + 4 * 3_600, 3_600)[''];
        self::assertEqualsWithDelta(array_sum($parts) / (4 * $table->bytes), $values[1], 1e-9);
        self::assertSame([null, null], [$values[0], $values[4]], 'nothing is known before, and after two hours no more');
        self::assertNull($signals->find($this->fern, 'capacity:share'));
    }

    public function test_nothing_is_known_of_a_cluster_without_hosts(): void
    {
        Artisan::call('capacity:measure');
        $this->get('/tend/storage?cluster=fernhill')->assertOk()->assertSee('How full Fernhill is, is not known yet')
            ->assertSee('count its requests and errors');
        $points = app(PointStore::class);
        foreach ([[0, 100.0], [3_600, 700.0]] as [$after, $value]) {
            $points->take($this->fern->id, 'fern-01', (self::NOW - self::DAY + $after) * 1_000, [
                new Metric('store_requests_total', '1', $value, ['method' => 'GET'], true),
                new Metric('store_errors_total', '1', $value / 100, [], true),
            ]);
        }
        $this->get('/tend/storage?cluster=fernhill&window=last+28+days')->assertOk()->assertSee('The store counted');
        app(CapacityStore::class)->prune(self::NOW + 500 * self::DAY);
        self::assertSame(0, DB::table('capacity_readings')->count());
    }
}
