<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Cost\Application\ClusterCost;
use App\Cost\Application\Prices;
use App\Estate\Models\Cluster;
use App\Estate\Pricing\DailyMoney;
use App\Estate\Pricing\PricedPart;
use App\Estate\Pricing\WrittenFlows;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use Fulcrion\Core\Cost\PriceKind;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\TeamMembership;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * What other capabilities are told of cost: by day, by price, and what was written down.
 */
#[Group('today')]
final class MoneyDaysTest extends TestCase
{
    private Cluster $fernhill;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow('2026-11-16 00:00:00');
        $this->fernhill = $this->cluster();
        $this->cluster('wren');
        $this->belong(new TeamMembership('ada', 'pickers', 0, null), new TeamMembership('bren', 'lab', 0, null));
        $records = [];
        for ($at = (int) strtotime('2026-10-01 08:00 UTC'); $at < Clock::seconds(); $at += Days::DAY) {
            foreach (['ada' => 1_800, 'bren' => 900] as $who => $seconds) {
                $records[] = ['started_at' => $at, 'duration_us' => $seconds * 1_000_000, 'sql' => "SELECT {$who}", 'user' => $who,
                    'bytes_scanned' => 1024 ** 4];
            }
        }
        Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'fernhill']);
        Artisan::call('usage:close');
        $this->actingAs($this->person(Role::Owner));
        $this->price('fernhill', 'node_hour', '0.5', '2');
        $this->price('fernhill', 'scanned_tib', '3', '1');
        $this->post('/meter/prices/fernhill/rule', ['currency' => 'EUR', 'follows' => 'in_flight_us', 'idle' => 'in_proportion']);
    }

    protected function tearDown(): void
    {
        Carbon::setTestNow();
        parent::tearDown();
    }

    private function price(string $cluster, string $kind, string $amount, string $quantity): void
    {
        $this->post("/meter/prices/{$cluster}", ['kind' => $kind, 'amount' => $amount, 'quantity' => $quantity, 'from' => '2026-01-01'])
            ->assertSessionHasNoErrors();
    }

    public function test_days_add_up_to_what_the_cluster_cost(): void
    {
        [$all, $teams] = app(DailyMoney::class)->series($this->fernhill, Clock::seconds());
        self::assertNotNull($all);
        // 24 of nodes and 6 of bytes a day.
        self::assertEqualsWithDelta(array_fill(0, $all->count(), 30.0), $all->values, 1e-6);
        self::assertSame(46, $all->count());
        self::assertEqualsCanonicalizing(['lab', 'pickers'], array_keys($teams));
        self::assertEqualsWithDelta(8.0 + 3.0, $teams['lab']->values[40], 0.01);
        self::assertEqualsWithDelta(16.0 + 3.0, $teams['pickers']->values[40], 0.01);
        $days = new Days((int) strtotime('2026-10-01 UTC'), (int) strtotime('2026-11-16 UTC'));
        $cost = ClusterCost::of($this->fernhill, $days, app(Prices::class), Clock::seconds());
        self::assertEqualsWithDelta($cost?->total()->toFloat() ?? 0.0, array_sum($all->values), 0.01);
    }

    public function test_prices_are_told_with_the_part_they_have_of_it(): void
    {
        $this->price('fernhill', 'burst_hour', '9', '1');
        $parts = app(DailyMoney::class)->parts($this->fernhill, Clock::seconds());
        self::assertSame(['node, an hour', 'TiB scanned', 'burst cluster, an hour'], array_map(
            static fn (PricedPart $one): string => $one->label,
            $parts,
        ));
        self::assertEqualsWithDelta([0.8, 0.2, 0.0], array_map(static fn (PricedPart $one): float => $one->share, $parts), 1e-6);
        self::assertSame([false, false, true], array_map(static fn (PricedPart $one): bool => $one->isBurst, $parts));
        self::assertSame(0.5, $parts[0]->price);
        // Of all clusters each says whose it is; one that is priced in another currency is none of them.
        $this->price('wren', 'node_hour', '1', '1');
        $this->post('/meter/prices/wren/rule', ['currency' => 'CHF', 'follows' => 'in_flight_us', 'idle' => 'in_proportion']);
        app()->forgetScopedInstances();
        $all = app(DailyMoney::class)->parts(null, Clock::seconds());
        self::assertSame('node, an hour, Fernhill', $all[0]->label);
        self::assertCount(3, $all);
        self::assertSame(['EUR', 'CHF'], [
            app(DailyMoney::class)->currency($this->fernhill),
            app(DailyMoney::class)->currency(Cluster::query()->where('slug', 'wren')->firstOrFail()),
        ]);
    }

    public function test_nothing_is_priced(): void
    {
        DB::table('cost_prices')->delete();
        app()->forgetScopedInstances();
        self::assertSame([], app(DailyMoney::class)->parts(null, Clock::seconds()));
        [$all, $teams] = app(DailyMoney::class)->series(null, Clock::seconds());
        self::assertSame([null, []], [$all, $teams]);
        $this->get('/meter/forecast?measure=cost')->assertOk()->assertSee('Nothing is known of cost before today');
    }

    public function test_what_was_written_down_of_several_days_is_spread_over_them(): void
    {
        $add = fn (string $kind, string $from, ?string $to, float $quantity) => DB::table('cost_quantities')->insert([
            'cluster_id' => $this->fernhill->id, 'kind' => $kind, 'name' => '', 'from_at' => strtotime("{$from} UTC"),
            'to_at' => $to === null ? null : strtotime("{$to} UTC"), 'quantity' => $quantity, 'made_by' => 'x', 'made_us' => 1,
        ]);
        $add('burst_hour', '2026-11-02', '2026-11-06', 8.0);
        $add('burst_hour', '2026-11-05', '2026-11-06', 1.5);
        $add('network_out_gib', '2026-11-03', '2026-11-04', 70.0);
        $add('backup_gib_month', '2026-11-01', null, 300.0);
        $days = new Days((int) strtotime('2026-11-04 UTC'), (int) strtotime('2026-11-08 UTC'));
        $flows = app(WrittenFlows::class);
        self::assertSame([2.0, 3.5, 0.0, 0.0], array_values($flows->daily($this->fernhill, PriceKind::BurstHour, $days)));
        self::assertSame([0.0, 0.0, 0.0, 0.0], array_values($flows->daily($this->fernhill, PriceKind::NetworkOut, $days)));
        self::assertSame([0.0, 0.0, 0.0, 0.0], array_values($flows->daily($this->fernhill, PriceKind::BackupMonth, $days)));
        self::assertSame($days->starts(), array_keys($flows->daily($this->fernhill, PriceKind::BurstHour, $days)));
    }
}
