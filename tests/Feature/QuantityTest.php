<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Cost\Application\ClusterCost;
use App\Cost\Application\CostPage;
use App\Cost\Application\Prices;
use App\Cost\Application\Reservations;
use App\Cost\Application\StoredBytes;
use App\Cost\Application\TeamAccounts;
use App\Estate\Authorization\Actor;
use App\Estate\Authorization\Clusters;
use App\Estate\Authorization\SystemActor;
use App\Estate\Connectors\PracticeClusters;
use App\Estate\Models\Cluster;
use App\Ledger\Models\LedgerEntry;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageScope;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\Allocation;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\TeamMembership;
use Fulcrion\Core\Usage\UsageMeasure;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Warehouse;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\Attributes\TestWith;
use Tests\TestCase;

/**
 * Storage, backups, bytes sent out and burst clusters as parts of what a cluster costs; and idle time of those who reserved it.
 */
#[Group('today')]
final class QuantityTest extends TestCase
{
    private const GIB = 1_073_741_824;

    private Cluster $cluster;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow('2026-11-11 00:00:00');
        $this->cluster = $this->cluster();
        $this->belong(new TeamMembership('ada', 'pickers', 0, null), new TeamMembership('bren', 'lab', 0, null));
        // On each of ten days six hours of ada's and two of bren's, one after the other: a third of the day.
        $records = [];
        foreach (range(1, 10) as $day) {
            $at = (int) strtotime(sprintf('2026-11-%02d 02:00 UTC', $day));
            foreach (['ada' => 6, 'bren' => 2] as $who => $hours) {
                for ($i = 0; $i < $hours; $i++, $at += 3_600) {
                    $records[] = [
                        'started_at' => $at, 'duration_us' => 3_600_000_000, 'sql' => "SELECT {$who} FROM field.{$who}", 'user' => $who,
                    ];
                }
            }
        }
        Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'fernhill']);
        Artisan::call('usage:close');
        $this->actingAs($this->person(Role::Owner));
    }

    /**
     * @param  array<string, string>  $more
     */
    private function price(string $kind, string $amount, array $more = []): void
    {
        $this->post('/meter/prices/fernhill', $more + ['kind' => $kind, 'amount' => $amount, 'from' => '2026-10-01'])
            ->assertSessionHas('done');
    }

    private function idle(string $rule): void
    {
        $this->post('/meter/prices/fernhill/rule', ['currency' => 'EUR', 'follows' => 'in_flight_us', 'idle' => $rule]);
    }

    /**
     * @param  array<string, string>  $data
     */
    private function quantity(array $data): void
    {
        $this->post('/meter/prices/fernhill/quantities', $data)->assertRedirect('/meter/prices?cluster=fernhill')
            ->assertSessionHas('done');
    }

    /**
     * @param  array<string, int>  $gib by table
     */
    private function stored(string $date, array $gib): void
    {
        foreach ($gib as $path => $size) {
            DB::table('stored_tables')->insert([
                'cluster_id' => $this->cluster->id, 'day_at' => strtotime("{$date} UTC"), 'path' => $path, 'bytes' => $size * self::GIB,
            ]);
        }
    }

    private function cost(string $days = '2026-11-01 to 2026-11-10'): ClusterCost
    {
        $cost = ClusterCost::of($this->cluster, Days::parse($days, Clock::seconds()), app(Prices::class), Clock::seconds());
        self::assertNotNull($cost);
        self::assertTrue(BigDecimal::sum(...array_values($cost->allocation->full()))->isEqualTo($cost->allocation->total));

        return $cost;
    }

    /**
     * @return array<string, string>
     */
    private function full(string $days = '2026-11-01 to 2026-11-10'): array
    {
        return array_map(static fn (BigDecimal $one): string => (string) $one, $this->cost($days)->allocation->full());
    }

    public function test_storage_is_paid_for_day_by_day_as_it_was_measured(): void
    {
        // November has thirty days: a GiB at three euro is ten cents a day.
        $this->price('storage_gib_month', '3');
        self::assertSame('0.00', (string) $this->cost()->allocation->total, 'nothing was measured yet');
        // Nothing is known of the first two days; on the third ten GiB, from the sixth on thirty.
        $this->stored('2026-11-03', ['field.ada' => 8, 'field.bren' => 2]);
        $this->stored('2026-11-06', ['field.ada' => 18, 'field.bren' => 12]);
        self::assertSame('18.00', (string) $this->cost()->allocation->total);
        self::assertSame(['pickers' => '13.50', 'lab' => '4.50'], $this->full());
        self::assertSame('1.00', (string) $this->cost('2026-11-04')->allocation->total);
        self::assertSame('3.00', (string) $this->cost('2026-11-09')->allocation->total);
        // What was measured goes before what somebody wrote down, which counts where nothing was measured.
        $this->quantity(['kind' => 'storage_gib_month', 'quantity' => '10', 'from' => '2026-11-02']);
        self::assertSame('19.00', (string) $this->cost()->allocation->total);
        $this->get('/meter/prices?cluster=fernhill')->assertOk()->assertSee('30 GiB on 6 Nov 2026');
    }

    public function test_storage_of_a_table_is_its_own(): void
    {
        $this->price('node_hour', '1', ['quantity' => '1']);
        $this->idle('in_proportion');
        $this->price('storage_gib_month', '3');
        $this->stored('2026-11-01', ['field.ada' => 1, 'field.bren' => 9, 'field.cold' => 10]);
        $scope = fn (): UsageScope => UsageScope::within(Days::parse('2026-11-01 to 2026-11-10', Clock::seconds()), UsageMeasure::InFlight);
        $page = CostPage::of($scope(), app(Prices::class), Clock::seconds(), UsageField::Statement, true);
        // 240 of nodes three to one, and 20 of storage one to nine to ten.
        self::assertSame(
            ['field.ada' => '181.00', 'field.bren' => '69.00', 'field.cold' => '10.00'],
            array_map(static fn (array $part): string => (string) $part['all'], $page->parts),
        );
        self::assertSame('260.00', (string) $page->total());
        self::assertSame('260.00', (string) $page->clusters[0]->total());
        $this->get('/meter/cost?days=2026-11-01+to+2026-11-10&by=table')->assertOk()->assertSee('Storage is each table')
            ->assertSee("Fernhill cost 260.00\u{A0}EUR");
        $this->get('/meter/cost?days=2026-11-01+to+2026-11-10&by=table&team=lab')->assertOk()->assertSee('of some of them it follows');
        $sum = CostPage::of($scope(), app(Prices::class), Clock::seconds(), UsageField::Team)->total();
        self::assertSame('260.00', (string) $sum, 'whatever it is by');
    }

    public function test_what_somebody_wrote_down_is_counted_on_its_days(): void
    {
        // Twenty GiB of backups from the sixth on, forty from the ninth on; at 1.50 a GiB is five cents a day.
        $this->price('backup_gib_month', '1.5');
        $this->quantity(['kind' => 'backup_gib_month', 'quantity' => '20', 'from' => '2026-11-06']);
        $this->quantity(['kind' => 'backup_gib_month', 'quantity' => '40', 'from' => '2026-11-09']);
        self::assertSame('7.00', (string) $this->cost()->allocation->total);
        // A hundred GiB were sent on five days; the first sixty of a month cost ten cents, what is above five.
        $this->price('network_out_gib', '0.10');
        $this->price('network_out_gib', '0.05', ['above' => '60']);
        $this->quantity(['kind' => 'network_out_gib', 'quantity' => '100', 'from' => '2026-11-01', 'to' => '2026-11-05']);
        self::assertSame('15.00', (string) $this->cost()->allocation->total);
        self::assertSame('6.00', (string) $this->cost('2026-11-01 to 2026-11-03')->allocation->total);
        self::assertSame('1.00', (string) $this->cost('2026-11-04')->allocation->total, 'in the tier the month has come to');
        // Three hours of burst clusters on one day, ten per cent off everything.
        $this->price('burst_hour', '7');
        $this->quantity(['kind' => 'burst_hour', 'quantity' => '3', 'from' => '2026-11-10']);
        $this->price('discount', '10');
        self::assertSame('32.40', (string) $this->cost()->allocation->total);
        // None of it is idle, and the page has a line of each.
        self::assertArrayNotHasKey(Allocation::IDLE, $this->full());
        $this->get('/meter/cost?days=2026-11-01+to+2026-11-10')->assertOk()
            ->assertSee('GiB of backups, a month')->assertSee('burst cluster, an hour')->assertSee('GiB sent out');
        // Its costs as lines of the open format have the same sum.
        $csv = trim($this->get('/meter/cost/focus.csv?days=2026-11-01+to+2026-11-10')->streamedContent());
        $rows = array_map(static fn (string $line): array => str_getcsv($line, ',', '"', ''), explode("\n", $csv));
        $at = (int) array_search('BilledCost', $rows[0], true);
        self::assertEqualsWithDelta(32.4, array_sum(array_map(floatval(...), array_column(array_slice($rows, 1), $at))), 1e-6);
        // Of another name there is nothing.
        $this->price('backup_gib_month', '100', ['name' => 'abroad']);
        self::assertSame('32.40', (string) $this->cost()->allocation->total);
    }

    public function test_who_reserved_pays_for_what_was_left(): void
    {
        // 240 in ten days; a third of the time something ran: 60 are the pickers', 20 the lab's, 160 idle.
        $this->price('node_hour', '1', ['quantity' => '1']);
        $this->idle('own_line');
        self::assertSame([Allocation::IDLE => '160.00', 'pickers' => '60.00', 'lab' => '20.00'], $this->full());
        $reserve = fn (string $team, string $percent, string $from = '2026-11-01', ?string $to = null) => $this->post(
            '/meter/prices/fernhill/reservations',
            ['team' => $team, 'percent' => $percent, 'from' => $from] + ($to === null ? [] : ['to' => $to]),
        );
        $reserve('lab', '50')->assertSessionHas('done', 'It is reserved.');
        self::assertSame('160.00', $this->full()[Allocation::IDLE], 'only where the owner chose so');
        $this->idle('to_reservers');
        // The lab used a twelfth of it, and left 41.6667 percent of 240.
        self::assertSame(['lab' => '120.00', Allocation::IDLE => '60.00', 'pickers' => '60.00'], $this->full());
        // A team that never used anything may reserve; for half of the days it is half of it.
        $reserve('growers', '20', '2026-11-06');
        self::assertSame(['lab' => '120.00', 'pickers' => '60.00', Allocation::IDLE => '36.00', 'growers' => '24.00'], $this->full());
        $reserve('growers', '31', '2026-11-10', '2026-11-10')->assertSessionHasErrors(['percent' =>
            'Together 101 percent of Fernhill would be reserved at once. End another one first.']);
        $reserve('growers', '30', '2026-11-10', '2026-11-10')->assertSessionHas('done');
        $this->get('/meter/prices?cluster=fernhill')->assertOk()->assertSee('from 6 Nov 2026 on')->assertSee('10 November 2026');
        // Their page says so, and why it changed adds up.
        $this->get('/meter/team?team=growers&days=2026-11-01+to+2026-11-10')->assertOk()
            ->assertSee('growers used nothing, 1 to 10 November 2026; what it reserved cost');
        $account = app(TeamAccounts::class)->of('lab', Days::parse('2026-11-06 to 2026-11-10', Clock::seconds()), Clock::seconds());
        // Both left more than the 80 that were idle: 41.6667 and 26 percent of them.
        self::assertSame(['59.26', '60.00'], [(string) $account->total(), (string) $account->totalBefore()]);
        self::assertSame(['-0.74', '-0.74'], [
            (string) BigDecimal::sum(...array_column($account->why() ?? [], 1)), (string) ($account->why()[6][1] ?? ''),
        ]);
        $first = app(TeamAccounts::class)->of('lab', Days::parse('2026-11-02', Clock::seconds()), Clock::seconds());
        self::assertSame(['2.00', '10.00'], [(string) $first->costs[0]->shared, (string) $first->costs[0]->reserved]);
        // By statement it stands on a line of its own, of one team and of all.
        $this->get('/meter/cost?days=2026-11-01+to+2026-11-05&by=statement&team=lab')->assertOk()->assertSee('reserved and not used');
        $rows = json_decode($this->get('/meter/cost/export/json?days=2026-11-01+to+2026-11-05&by=statement')->streamedContent(), true);
        self::assertSame('50.00', array_column($rows, 'all', 'statement')['reserved and not used']);
        self::assertEqualsWithDelta(120.0, array_sum(array_column($rows, 'all')), 1e-9);
        // Without the reservation nobody is charged for it.
        $this->post('/meter/prices/fernhill/reservations/'.DB::table('cost_reservations')->where('team', 'lab')->value('id').'/remove')
            ->assertSessionHas('done');
        self::assertSame('20.00', $this->full()['lab']);
        foreach (DB::table('cost_reservations')->pluck('id') as $id) {
            $this->post("/meter/prices/fernhill/reservations/{$id}/remove")->assertSessionHas('done');
        }
        self::assertSame(['lab', 'pickers'], TeamAccounts::teams(), 'who only reserved is no team any more');
    }

    public function test_who_may_write_them_and_what(): void
    {
        $quantity = ['kind' => 'backup_gib_month', 'quantity' => '20', 'from' => '2026-11-06'];
        $reservation = ['team' => 'lab', 'percent' => '5', 'from' => '2026-11-06'];
        foreach ([Role::Viewer, Role::Engineer, Role::Steward] as $role) {
            $this->actingAs($this->person($role));
            $this->post('/meter/prices/fernhill/quantities', $quantity)->assertForbidden();
            $this->post('/meter/prices/fernhill/reservations', $reservation)->assertForbidden();
            $this->post('/meter/prices/fernhill/quantities/1/remove')->assertForbidden();
            $this->post('/meter/prices/fernhill/reservations/1/remove')->assertForbidden();
            $this->get('/meter/prices?cluster=fernhill')->assertOk()->assertSee('How much there is')->assertDontSee('Write it down');
        }
        $this->actingAs($this->person(Role::Owner));
        foreach ([
            'kind' => ['node_hour', '', 'x'], 'quantity' => ['', '-1', '1,5', '1e3', '1234567890123'], 'from' => ['', 'soon', '2026-02-30'],
            'to' => ['2026-11-05', 'x'],
        ] as $field => $wrong) {
            foreach ($wrong as $value) {
                $this->post('/meter/prices/fernhill/quantities', [$field => $value] + $quantity)->assertSessionHasErrors([$field]);
            }
        }
        foreach ([
            'team' => ['', str_repeat('x', 121)], 'percent' => ['0', '0.0000', '100.1', '-5', 'half', '1.23456'], 'from' => ['', 'x'],
            'to' => ['2026-11-05'],
        ] as $field => $wrong) {
            foreach ($wrong as $value) {
                $this->post('/meter/prices/fernhill/reservations', [$field => $value] + $reservation)->assertSessionHasErrors([$field]);
            }
        }
        self::assertSame([0, 0], [DB::table('cost_quantities')->count(), DB::table('cost_reservations')->count()]);
        $this->quantity($quantity);
        $this->post('/meter/prices/fernhill/quantities/'.DB::table('cost_quantities')->value('id').'/remove')->assertSessionHas('done');
        $this->post('/meter/prices/fernhill/quantities/99/remove')->assertNotFound();
        $this->post('/meter/prices/fernhill/reservations/99/remove')->assertNotFound();
        self::assertSame(['wrote down a quantity', 'removed a quantity'], LedgerEntry::query()->orderBy('number')->pluck('act')->all());
    }

    #[TestWith(['2026-11-01', null, 100.0])]
    #[TestWith(['2026-11-01', '2026-11-09', 50.0])]
    #[TestWith(['2026-11-20', '2026-11-25', 100.0])]
    #[TestWith(['2026-11-27', null, 50.0])]
    #[TestWith(['2026-10-01', '2026-10-02', 20.0])]
    public function test_how_much_is_reserved_at_once(string $from, ?string $to, float $most): void
    {
        $at = static fn (?string $date): ?int => $date === null ? null : (int) strtotime("{$date} UTC");
        $rows = [['a', '30', '2026-11-01', null], ['b', '40', '2026-11-12', '2026-11-26'], ['c', '10', '2026-11-10', '2026-11-27']];
        foreach ($rows as $one) {
            Reservations::add($this->cluster, $one[0], $one[1], (int) $at($one[2]), $at($one[3]), 'x');
        }
        $end = $to === null ? null : (int) strtotime("{$to} UTC") + Days::DAY;
        $found = Reservations::most($this->cluster, 20.0, (int) strtotime("{$from} UTC"), $end);
        // Day by day, as slowly as can be.
        $slow = 20.0;
        for ($day = (int) strtotime("{$from} UTC"); $day < ($end ?? strtotime('2027-01-01 UTC')); $day += Days::DAY) {
            $slow = max($slow, 20.0 + (float) DB::table('cost_reservations')->where('from_at', '<=', $day)
                ->where(static fn ($q) => $q->whereNull('to_at')->orWhere('to_at', '>', $day))->sum('percent'));
        }
        self::assertSame($slow, $found);
        self::assertSame($most, $found);
    }

    public function test_clusters_are_asked_how_large_their_tables_are(): void
    {
        self::assertSame(0, app(StoredBytes::class)->measure($this->cluster, Clock::seconds()), 'it does not tell');
        config(['fulcrion.practice' => $root = sys_get_temp_dir().'/fulcrion-practice-'.bin2hex(random_bytes(4))]);
        mkdir($root);
        $this->cluster->update(['connector' => 'practice']);
        $warehouse = Warehouse::create(PracticeClusters::root('fernhill'), 'Fernhill', 2, new HardwareProfile(rowFactor: 1_000));
        $runner = app(Clusters::class)->as(Actor::system(SystemActor::Demo, 'test'))->runner($this->cluster) ?? self::fail('no runner');
        foreach ([
            'CREATE SCHEMA field', 'CREATE TABLE field.pick (a bigint NOT NULL) PLACED EVENLY',
            'CREATE TABLE field.bare (a bigint NOT NULL) PLACED EVENLY', 'INSERT INTO field.pick VALUES (1), (2), (3)',
            'CREATE VIEW field.seen AS SELECT a FROM field.pick',
        ] as $sql) {
            $runner->run($sql, '');
        }
        Artisan::call('cost:measure-storage');
        self::assertStringContainsString('Fernhill: 2 tables.', Artisan::output());
        $bytes = DB::table('stored_tables')->orderBy('path')->pluck('bytes', 'path')->all();
        self::assertSame(['field.bare', 'field.pick'], array_keys($bytes));
        self::assertSame(0, $bytes['field.bare']);
        $told = array_column(app(Clusters::class)->as(Actor::system(SystemActor::Demo, 'test'))->objects($this->cluster) ?? [], 'bytes',
            'name');
        self::assertSame($told['pick'], $bytes['field.pick']);
        // What it told last of a day is kept: one row a table and day.
        $runner->run('DROP TABLE field.bare', '');
        Artisan::call('cost:measure-storage');
        self::assertSame(['field.pick'], DB::table('stored_tables')->pluck('path')->all());
        Carbon::setTestNow('2026-11-12 00:00:00');
        Artisan::call('cost:measure-storage');
        self::assertSame([(int) strtotime('2026-11-11 UTC'), (int) strtotime('2026-11-12 UTC')],
            DB::table('stored_tables')->orderBy('day_at')->pluck('day_at')->all());
        $warehouse->destroy();
        @rmdir($root);
    }
}
