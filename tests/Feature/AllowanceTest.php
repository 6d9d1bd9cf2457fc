<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Models\Cluster;
use App\Ledger\Models\LedgerEntry;
use App\Limits\Application\Allowances;
use App\Limits\Application\KeptAllowance;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use Fulcrion\Core\Usage\Days;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * What accrues with each day a cluster is in use, and is used up first.
 */
#[Group('today')]
final class AllowanceTest extends TestCase
{
    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow('2026-11-16 12:00:00');
        $this->cluster();
        // Ten executions of a second on each weekday since the first of October.
        $records = [];
        for ($at = (int) strtotime('2026-10-01 08:00 UTC'); $at < Clock::seconds(); $at += Days::DAY) {
            for ($i = 0; gmdate('N', $at) < 6 && $i < 10; $i++) {
                $records[] = ['started_at' => $at + $i, 'duration_us' => 1_000_000, 'sql' => 'SELECT 1', 'user' => 'ada',
                    'bytes_scanned' => 1024 ** 4];
            }
        }
        Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'fernhill']);
        Artisan::call('usage:close');
        $this->actingAs($this->person(Role::Owner));
    }

    protected function tearDown(): void
    {
        Carbon::setTestNow();
        parent::tearDown();
    }

    /**
     * @param  array<string, string>  $more
     */
    private function allowance(array $more): KeptAllowance
    {
        $this->post('/meter/allowances', $more + [
            'cluster' => 'fernhill', 'measure' => 'executions', 'per_day' => '10', 'cap' => '100', 'start' => '0', 'from' => '2026-10-05',
            'price' => '', 'currency' => 'EUR',
        ])->assertSessionHasNoErrors()->assertRedirect('/meter/allowances');

        return app(Allowances::class)->all(Clock::seconds())[0];
    }

    public function test_it_accrues_on_days_in_use_only(): void
    {
        // Thirty weekdays, each adding what it uses: nothing is left and nothing is missing.
        $even = $this->allowance([]);
        self::assertSame(42, $even->outlook->known);
        self::assertSame(0.0, $even->outlook->balance());
        self::assertSame([0.0, 'lasts'], [$even->outlook->beyond($even->month)[0], $even->standing()]);
        DB::table('allowances')->delete();
        $ample = $this->allowance(['per_day' => '12']);
        self::assertSame(60.0, $ample->outlook->balance());
        $this->get('/meter/allowances')->assertOk()->assertSee('60 of 100 executions are left on Fernhill, which will last');
    }

    public function test_it_runs_out_and_what_comes_after_costs(): void
    {
        $short = $this->allowance(['per_day' => '8', 'start' => '64', 'price' => '0.5']);
        // Four left; each weekday takes two more than it adds, and today is not over.
        self::assertSame(4.0, $short->outlook->balance());
        self::assertSame('2026-11-18', gmdate('Y-m-d', (int) $short->outlook->runsOut()));
        [$was, $will] = $short->outlook->beyond($short->month);
        self::assertSame(0.0, $was);
        self::assertEqualsWithDelta(18.0, $will, 1.0);
        self::assertEqualsWithDelta(9.0, $short->cost(true) ?? 0.0, 0.5);
        $this->get('/meter/allowances')->assertOk()->assertSee('they will be used up about 18 Nov, and what comes after costs about 9')
            ->assertSee('EUR in Nov 2026');
        // Used up: what was beyond it this month is paid for already.
        $short = $this->allowance(['per_day' => '5', 'start' => '0', 'price' => '0.5', 'from' => '2026-11-01']);
        self::assertSame('act', $short->mark());
        self::assertEqualsWithDelta(25.0, $short->cost(false) ?? 0.0, 1e-6);
    }

    public function test_bytes_and_hours_are_counted_in_their_units(): void
    {
        $bytes = $this->allowance(['measure' => 'scanned', 'per_day' => '11', 'cap' => '1000']);
        self::assertSame(30.0, $bytes->outlook->balance());
        DB::table('allowances')->delete();
        $hours = $this->allowance(['measure' => 'in_flight', 'per_day' => '1', 'cap' => '1000']);
        self::assertEqualsWithDelta(30 * (1 - 10 / 3_600), $hours->outlook->balance(), 1e-6);
    }

    public function test_hours_of_burst_clusters_are_those_written_down(): void
    {
        $cluster = Cluster::query()->firstOrFail();
        foreach ([['burst_hour', '2026-11-02', '2026-11-04', 6], ['burst_hour', '2026-11-10', '2026-11-11', 30],
            ['network_out_gib', '2026-11-02', '2026-11-03', 500]] as [$kind, $from, $to, $quantity]) {
            DB::table('cost_quantities')->insert([
                'cluster_id' => $cluster->id, 'kind' => $kind, 'name' => '', 'from_at' => strtotime("{$from} UTC"),
                'to_at' => strtotime("{$to} UTC"), 'quantity' => $quantity, 'made_by' => 'x', 'made_us' => 1,
            ]);
        }
        $burst = $this->allowance(['measure' => 'burst', 'per_day' => '2', 'cap' => '20', 'from' => '2026-11-02', 'price' => '3']);
        // 2 - 3, 2 - 3, then two on each of 2 weekdays and none at the weekend, two on Monday, and thirty on Tuesday.
        $balances = array_map(static fn ($day): float => $day->balance, array_slice($burst->outlook->days, 0, 10));
        self::assertSame([0.0, 0.0, 2.0, 4.0, 6.0, 6.0, 6.0, 8.0, 0.0, 2.0], $balances);
        self::assertEqualsWithDelta(3.0 * (1 + 1 + 20), $burst->cost(false) ?? 0.0, 1e-9);
    }

    public function test_it_is_set_and_removed_by_owners_and_the_ledger_keeps_it(): void
    {
        $this->get('/meter/allowances')->assertOk()->assertSee('No allowance is set');
        $one = $this->allowance(['from' => '2027-01-01']);
        self::assertSame('no data', $one->mark());
        $this->get('/meter/allowances')->assertOk()->assertSee('nothing is known yet');
        self::assertSame(1, LedgerEntry::query()->where('act', 'set an allowance')->count());
        $this->actingAs($this->person(Role::Engineer));
        $this->get('/meter/allowances')->assertOk()->assertSee('Owners set allowances.');
        $this->post("/meter/allowances/{$one->id}/remove")->assertForbidden();
        $this->actingAs($this->person(Role::Owner));
        $this->post("/meter/allowances/{$one->id}/remove")->assertRedirect('/meter/allowances');
        $this->post("/meter/allowances/{$one->id}/remove")->assertNotFound();
        self::assertSame(0, DB::table('allowances')->count());
    }
}
