<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Cost\Application\ClusterCost;
use App\Cost\Application\CostPage;
use App\Cost\Application\Prices;
use App\Estate\Models\Cluster;
use App\Ledger\Models\LedgerEntry;
use App\Platform\Models\User;
use App\Platform\Support\Clock;
use App\Platform\Support\Money;
use App\Platform\Support\Role;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageScope;
use Brick\Math\BigDecimal;
use Brick\Math\RoundingMode;
use Fulcrion\Core\Cost\Allocation;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\TeamMembership;
use Illuminate\Http\Request;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Route;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\Attributes\TestWith;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\HttpFoundation\StreamedResponse;
use Tests\TestCase;
use ZipArchive;

/**
 * What clusters cost, and whose it is.
 */
#[Group('today')]
final class CostTest extends TestCase
{
    private Cluster $cluster;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow('2026-11-11 00:00:00');
        $this->cluster = $this->cluster();
        $this->belong(new TeamMembership('ada', 'pickers', 0, null), new TeamMembership('bren', 'lab', 0, null));
        // On each of ten days one hour of ada's, reading a TiB, and half an hour of bren's two hours later.
        $records = [];
        foreach (range(1, 10) as $day) {
            $at = (int) strtotime(sprintf('2026-11-%02d 08:00 UTC', $day));
            $records[] = [
                'started_at' => $at, 'duration_us' => 3_600_000_000, 'sql' => 'SELECT a', 'user' => 'ada',
                'bytes_scanned' => 1_099_511_627_776,
            ];
            $records[] = [
                'started_at' => $at + 7_200, 'duration_us' => 1_800_000_000, 'sql' => 'SELECT b', 'user' => 'bren', 'bytes_scanned' => 0,
            ];
        }
        Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'fernhill']);
        Artisan::call('usage:close');
    }

    /**
     * @param  array<string, string>  $more
     */
    private function price(string $kind, string $amount, string $from = '2026-11-01', array $more = []): void
    {
        $this->actingAs($this->person(Role::Owner))
            ->post('/meter/prices/fernhill', $more + ['kind' => $kind, 'amount' => $amount, 'from' => $from])
            ->assertRedirect('/meter/prices?cluster=fernhill')
            ->assertSessionHas('done');
    }

    /**
     * @return array<string, string>
     */
    private function full(string $days = '2026-11-01 to 2026-11-10'): array
    {
        $now = Clock::seconds();
        $cost = ClusterCost::of($this->cluster, Days::parse($days, $now), app(Prices::class), $now);
        self::assertNotNull($cost);
        $full = $cost->allocation->full();
        self::assertTrue(BigDecimal::sum(...array_values($full))->isEqualTo($cost->allocation->total));

        return array_map(static fn (BigDecimal $one): string => (string) $one, $full);
    }

    public function test_a_cluster_worked_by_hand(): void
    {
        // Ten days of ten nodes at one euro: 2,400. Something ran in 1.5 of 24 hours: 150 follow time in flight, two to one.
        $this->price('node_hour', '1', more: ['quantity' => '10']);
        self::assertSame([Allocation::IDLE => '2250.00', 'pickers' => '100.00', 'lab' => '50.00'], $this->full());
        // Ten TiB at two euro up to four and at one above: all of it ada's.
        $this->price('scanned_tib', '2');
        $this->price('scanned_tib', '1', more: ['above' => '4']);
        self::assertSame([Allocation::IDLE => '2250.00', 'pickers' => '114.00', 'lab' => '50.00'], $this->full());
        $this->post('/meter/prices/fernhill/rule', ['currency' => 'EUR', 'follows' => 'in_flight_us', 'idle' => 'in_proportion']);
        self::assertSame(['pickers' => '1614.00', 'lab' => '800.00'], $this->full());
        $this->post('/meter/prices/fernhill/rule', ['currency' => 'EUR', 'follows' => 'bytes_scanned', 'idle' => 'in_proportion']);
        self::assertSame(['pickers' => '2414.00', 'lab' => '0.00'], $this->full());
        // Since the middle of an hour it costs twice as much: half of a day at one, half at two.
        $this->price('node_hour', '2', '2026-11-05 12:00', ['quantity' => '10']);
        self::assertSame((string) BigDecimal::of('14')->plus(240 * 4.5 + 480 * 5.5)->toScale(2), $this->full()['pickers']);
    }

    public function test_a_day_that_is_not_over_has_cost_what_is_over_of_it(): void
    {
        $this->price('node_hour', '1', more: ['quantity' => '10']);
        Carbon::setTestNow('2026-11-11 06:00:00');
        self::assertSame('2460.00', (string) BigDecimal::sum(...array_map(BigDecimal::of(...), array_values($this->full('this month')))));
    }

    public function test_the_page_says_what_it_cost_and_every_table_adds_up(): void
    {
        $this->actingAs($this->person(Role::Viewer))->get('/meter/cost')->assertOk()->assertSee('No cluster has a price yet');
        $this->price('node_hour', '1.23', more: ['quantity' => '7']);
        $this->price('monthly_fee', '99.99');
        $this->price('discount', '3.5');
        $this->actingAs($this->person(Role::Viewer));
        $page = $this->get('/meter/cost?days=2026-11-01+to+2026-11-10')
            ->assertOk()
            ->assertSee('Fernhill cost')
            ->assertSee('the largest team is pickers')
            ->assertSee('something ran in 6.3% of its time')
            ->assertSee('discount, in percent');
        self::assertStringContainsString('−', (string) $page->getContent());
        $rows = json_decode($this->get('/meter/cost/export/json?days=2026-11-01+to+2026-11-10')->streamedContent(), true);
        $sum = BigDecimal::sum(...array_map(static fn (array $row): BigDecimal => BigDecimal::of($row['all']), $rows));
        // 240 hours of seven nodes, a third of a fee, less 3.5 in a hundred.
        $exact = BigDecimal::of('1.23')->multipliedBy(7 * 240)->plus('33.33')->multipliedBy('0.965')->toScale(2, RoundingMode::HALF_UP);
        self::assertSame((string) $exact, (string) $sum);
        foreach ($rows as $row) {
            self::assertSame($row['all'], (string) BigDecimal::of($row['fixed'])->plus($row['by_use']));
        }
        $this->get('/meter/cost?days=never')->assertOk()->assertSee('is no span of days');
    }

    public function test_the_cost_of_statements_people_and_applications_adds_up_to_the_same(): void
    {
        $this->price('node_hour', '1', more: ['quantity' => '10']);
        $this->price('scanned_tib', '2.01');
        $this->actingAs($this->person(Role::Viewer));
        $days = 'days=2026-11-01+to+2026-11-10';
        foreach (['team', 'person', 'statement', 'application', 'queue', 'database', 'on', 'nonsense'] as $by) {
            $rows = json_decode($this->get("/meter/cost/export/json?{$days}&by={$by}")->streamedContent(), true);
            $sum = BigDecimal::sum(...array_map(static fn (array $row): BigDecimal => BigDecimal::of($row['all']), $rows));
            self::assertSame('2420.10', (string) $sum, $by);
            $column = in_array($by, ['on', 'nonsense'], true) ? 'team' : $by;
            $named = array_column($rows, 'all', $column);
            self::assertSame('2250.00', $named['idle']);
            self::assertSame(match ($column) {
                'team' => ['pickers' => '120.10', 'lab' => '50.00'],
                'person' => ['ada' => '120.10', 'bren' => '50.00'],
                'statement' => ['120.10', '50.00'],
                default => ['(none)' => '170.10'],
            }, $column === 'statement' ? array_values(array_diff_key($named, ['idle' => 1])) : array_diff_key($named, ['idle' => 1]));
            $this->get("/meter/cost?{$days}&by={$by}")->assertOk()->assertSee("By {$column}");
        }
        $this->get("/meter/cost?{$days}&by=statement")->assertSee('SELECT a');
    }

    /**
     * @param  array<string, mixed>  $more
     */
    private function job(string $from, string $to, int $workers, string $owner, array $more = []): void
    {
        $us = static fn (string $moment): int => $moment === '' ? -1 : (int) strtotime("{$moment} UTC") * 1_000_000;
        DB::table('job_runs')->insert($more + [
            'cluster_id' => $this->cluster->id, 'external_id' => "{$owner} {$from}", 'name' => 'nightly', 'owner' => $owner,
            'state' => 'done', 'submitted_us' => $us($from), 'started_us' => $us($from), 'ended_us' => $us($to), 'deadline_us' => -1,
            'workers' => $workers, 'asked_us' => 1, 'asked_by' => 'x', 'heartbeat_us' => 1, 'currency' => 'EUR',
        ]);
    }

    public function test_workers_of_jobs_are_paid_for_from_start_to_end_by_whoever_owns_the_job(): void
    {
        $this->price('worker_hour', '0.50');
        $paid = fn (string $days = '2026-11-01 to 2026-11-10'): array => array_filter(
            $this->full($days),
            static fn (string $amount): bool => $amount !== '0.00',
        );
        // Four hours of ten workers, half of them on each side of midnight; one that was refused; one that goes on.
        $this->job('2026-11-03 22:00', '2026-11-04 02:00', 10, 'ada');
        $this->job('2026-11-05 08:00', '2026-11-05 09:00', 4, 'loaders');
        $this->job('2026-11-05 08:00', '2026-11-05 09:00', 400, 'bren', ['state' => 'refused']);
        $this->job('2026-10-31 23:00', '2026-11-01 01:00', 2, 'bren');
        self::assertSame(['pickers' => '20.00', 'unassigned' => '2.00', 'lab' => '1.00'], $paid());
        self::assertSame(['pickers' => '10.00'], $paid('2026-11-03'));
        // From the fourth on a worker costs twice as much; a discount takes a tenth of it.
        $this->price('worker_hour', '1', '2026-11-04');
        self::assertSame(['pickers' => '10.00'], $paid('2026-11-03'));
        self::assertSame(['pickers' => '20.00'], $paid('2026-11-04'));
        $this->price('discount', '10');
        self::assertSame(['pickers' => '18.00'], $paid('2026-11-04'));
        // What goes on is paid for so far.
        Carbon::setTestNow('2026-11-11 06:00:00');
        $this->job('2026-11-11 04:00', '', 3, 'ada', ['state' => 'running']);
        self::assertSame(['pickers' => '5.40'], $paid('2026-11-11'));
        // In ten days 31.50 for 46 hours of workers, at their mean price: four of them are the loaders'.
        // By person it is the owner's, by statement the jobs' own; all of them add up.
        $this->actingAs($this->person(Role::Viewer));
        $days = 'days=2026-11-01+to+2026-11-10';
        foreach (['person' => 'loaders', 'statement' => 'jobs', 'table' => 'jobs', 'application' => 'jobs'] as $by => $key) {
            $rows = array_column(json_decode($this->get("/meter/cost/export/json?{$days}&by={$by}")->streamedContent(), true), 'all', $by);
            self::assertSame($by === 'person' ? '2.74' : '31.50', $rows[$key], $by);
            self::assertSame('31.50', (string) BigDecimal::sum(...array_values($rows)), $by);
            $this->get("/meter/cost?{$days}&by={$by}")->assertOk()->assertSee($by === 'person' ? 'loaders' : 'workers of jobs');
        }
        $this->get("/meter/cost?{$days}")->assertSee('worker of jobs, an hour');
        $file = $this->get("/meter/cost/focus.csv?{$days}")->streamedContent();
        self::assertStringContainsString('Worker-Hours', $file);
    }

    public function test_hours_of_workers_are_what_one_counts_minute_by_minute(): void
    {
        $this->price('worker_hour', '0.60', '2026-10-01');
        $random = new Randomizer(new Mt19937(12));
        $start = (int) strtotime('2026-11-01 UTC');
        $runs = [];
        for ($i = 0; $i < 25; $i++) {
            $from = $start + 60 * $random->getInt(-2_000, 12_000);
            $to = $from + 60 * $random->getInt(1, 3_000);
            $workers = $random->getInt(1, 40);
            $owner = ['ada', 'bren', 'cleo'][$random->getInt(0, 2)];
            $runs[] = [$from, $to, $workers, $owner];
            $this->job(gmdate('Y-m-d H:i', $from), gmdate('Y-m-d H:i', $to), $workers, $owner, ['external_id' => "run {$i}"]);
        }
        foreach (['2026-11-02', '2026-11-01 to 2026-11-07', '2026-11-05 to 2026-11-06'] as $text) {
            $days = Days::parse($text, Clock::seconds());
            $minutes = [];
            for ($at = $days->from; $at < $days->to; $at += 60) {
                foreach ($runs as [$from, $to, $workers, $owner]) {
                    if ($from <= $at && $at < $to) {
                        $minutes[$owner] = ($minutes[$owner] ?? 0) + $workers;
                    }
                }
            }
            $cost = ClusterCost::of($this->cluster, $days, app(Prices::class), Clock::seconds(), UsageField::Person);
            self::assertNotNull($cost);
            $own = array_map(static fn (BigDecimal $one): float => $one->toFloat(), $cost->allocation->own);
            foreach ($minutes as $owner => $count) {
                self::assertEqualsWithDelta($count / 60 * 0.60, $own[$owner], 0.011, "{$owner}, {$text}");
            }
            self::assertEqualsWithDelta(array_sum($minutes) / 60 * 0.60, array_sum($own), 0.006, $text);
            // A day at a time it is the same.
            $sum = 0.0;
            foreach ($days->starts() as $day) {
                $one = ClusterCost::of($this->cluster, new Days($day, $day + 86_400), app(Prices::class), Clock::seconds());
                $sum += $one?->allocation->total->toFloat() ?? 0.0;
            }
            self::assertEqualsWithDelta(array_sum($own), $sum, 0.005 * count($days->starts()) + 0.005, $text);
        }
    }

    public function test_what_statements_cost_is_shared_among_their_tables_to_the_cent(): void
    {
        $this->price('node_hour', '1', more: ['quantity' => '10']);
        $this->price('scanned_tib', '2.01');
        $at = (int) strtotime('2026-11-10 20:00 UTC');
        $tables = array_map(static fn (int $i): array => [
            'started_at' => $at + $i, 'duration_us' => 700_000_000, 'user' => 'bren', 'bytes_scanned' => 333_333_333_333,
            'sql' => 'SELECT x FROM s.a, s.b JOIN s.c ON 1 = 1 WHERE '.str_repeat('1 = 1 AND ', $i).'2 = 2',
        ], range(1, 5));
        Artisan::call('telemetry:import', ['file' => $this->file($tables), '--cluster' => 'fernhill']);
        Artisan::call('usage:close --from=2026-11-10');
        $this->actingAs($this->person(Role::Viewer));
        $days = 'days=2026-11-01+to+2026-11-10';
        foreach (['', '&team=lab'] as $more) {
            $of = fn (string $by): array => array_column(
                json_decode($this->get("/meter/cost/export/json?{$days}&by={$by}{$more}")->streamedContent(), true),
                'all',
                $by,
            );
            $rows = $of('table');
            self::assertArrayHasKey('s.a', $rows);
            self::assertSame(
                (string) BigDecimal::sum(...array_values($of('statement'))),
                (string) BigDecimal::sum(...array_values($rows)),
                $more,
            );
            // Alike, but for the cents that are left over.
            self::assertLessThanOrEqual(0.1, abs((float) $rows['s.a'] - (float) $rows['s.c']));
            self::assertGreaterThan(1.0, (float) $rows['s.b']);
        }
        $this->get("/meter/cost?{$days}&by=table")->assertOk()->assertSee('By table')->assertSee('s.a')
            ->assertSee('shared among the tables');
    }

    public function test_a_teams_statements_are_shown_with_the_finding_that_would_save_most(): void
    {
        $this->price('node_hour', '1', more: ['quantity' => '10']);
        $this->price('scanned_tib', '2.01');
        $fingerprint = (string) DB::table('statements')->where('text', 'SELECT a')->value('fingerprint');
        // In flight ten hours in ten days: a half of it is three and a half hours a week; what was dismissed, or saves less, is not told.
        foreach ([['open', 12_600_000_000, 'half'], ['open', 1_000_000_000, 'little'], ['dismissed', 20_000_000_000, 'gone']] as $i => $f) {
            DB::table('findings')->insert([
                'id' => $i + 1, 'cluster_id' => $this->cluster->id, 'source' => 'storage', 'rule' => 'skew', 'object' => "s.t{$i}",
                'digest' => md5((string) $i), 'severity' => 'act', 'problem' => "it would be {$f[2]}", 'evidence' => '', 'state' => $f[0],
                'first_us' => 1, 'last_us' => 1, 'changed_us' => 1,
            ]);
            DB::table('finding_statements')->insert(['finding_id' => $i + 1, 'fingerprint' => $fingerprint, 'weight_us' => $f[1]]);
        }
        $this->actingAs($this->person(Role::Viewer));
        $days = 'days=2026-11-01+to+2026-11-10';
        // 120.10 in ten days, half of it, in a month of 30.436875 days: 182.77.
        $this->get("/meter/cost?{$days}&team=pickers&by=statement")->assertOk()
            ->assertSee("pickers cost 120.10\u{A0}EUR")
            ->assertSee('1 of 1 statement makes 100% of it')
            ->assertSee("about 182.77\u{A0}EUR a month")
            ->assertSee('it would be half')
            ->assertDontSee('it would be little')
            ->assertDontSee('it would be gone')
            ->assertDontSee('SELECT b');
        $this->get("/meter/cost?{$days}&team=lab&by=statement")->assertSee("lab cost 50.00\u{A0}EUR")->assertDontSee('a month</a>', false);
        $this->get("/meter/cost?{$days}&team=nobody")->assertOk()->assertSee('nobody used nothing that has a price');
        // A finding never saves more than the whole.
        DB::table('finding_statements')->where('finding_id', 1)->update(['weight_us' => 90_000_000_000]);
        $this->get("/meter/cost?{$days}&by=statement")->assertSee("about 365.55\u{A0}EUR a month");
    }

    public function test_more_parts_than_a_page_shows_are_summed_behind_the_largest(): void
    {
        $this->price('node_hour', '1', more: ['quantity' => '10']);
        $page = $this->costPage(UsageField::Person);
        self::assertSame(['ada', 'bren', Allocation::IDLE], array_keys($page->foremost(2)));
        $two = $page->foremost(1);
        self::assertSame(['ada', CostPage::OTHER, Allocation::IDLE], array_keys($two));
        self::assertSame('50.00', (string) $two[CostPage::OTHER]['all']);
        self::assertTrue(BigDecimal::sum(...array_column($two, 'all'))->isEqualTo($page->total()));
    }

    private function costPage(UsageField $by): CostPage
    {
        $request = new Request(['days' => '2026-11-01 to 2026-11-10']);
        $request->setUserResolver(fn () => $this->person(Role::Owner));

        return CostPage::of(UsageScope::of($request, Clock::seconds()), app(Prices::class), Clock::seconds(), $by);
    }

    public function test_clusters_of_other_currencies_are_named_and_not_added(): void
    {
        $this->price('node_hour', '1', more: ['quantity' => '10']);
        $this->cluster('wren');
        $this->post('/meter/prices/wren', ['kind' => 'node_hour', 'amount' => '5', 'from' => '2026-11-01']);
        $this->post('/meter/prices/wren/rule', ['currency' => 'CHF', 'follows' => 'cpu_us', 'idle' => 'own_line']);
        $this->get('/meter/cost?days=2026-11-01+to+2026-11-10')
            ->assertOk()
            ->assertSee("Fernhill cost 2\u{202F}400.00\u{A0}EUR")
            ->assertSee('In another currency and not added: Wren.');
        $this->get('/meter/cost?days=2026-11-01+to+2026-11-10&cluster=wren')->assertOk()->assertSee("Wren cost 1\u{202F}200.00\u{A0}CHF");
    }

    public function test_owners_write_prices_and_the_ledger_knows_of_it(): void
    {
        $this->price('node_hour', '1.25', '2026-11-01 10:30', ['quantity' => '12', 'name' => 'ra']);
        $id = (int) DB::table('cost_prices')->value('id');
        $this->get('/meter/prices?cluster=fernhill')->assertOk()->assertSee('Fernhill has 1 price, in EUR')->assertSee('2026-11-01 10:30');
        foreach ([Role::Viewer, Role::Engineer, Role::Steward] as $role) {
            $this->actingAs($this->person($role));
            $this->get('/meter/prices?cluster=fernhill')->assertOk()->assertSee('Owners write prices')->assertDontSee('Add it');
            $this->post('/meter/prices/fernhill', ['kind' => 'node_hour', 'amount' => '1', 'from' => '2026-11-01'])->assertForbidden();
            $this->post("/meter/prices/fernhill/{$id}/remove")->assertForbidden();
            $rule = ['currency' => 'EUR', 'follows' => 'cpu_us', 'idle' => 'own_line'];
            $this->post('/meter/prices/fernhill/rule', $rule)->assertForbidden();
        }
        $this->actingAs($this->person(Role::Owner));
        $this->post('/meter/prices/fernhill', ['kind' => 'node_hour', 'amount' => '1,25', 'from' => 'soon'])
            ->assertSessionHasErrors(['amount', 'from']);
        $this->post("/meter/prices/fernhill/{$id}/remove")->assertSessionHas('done');
        $this->post("/meter/prices/fernhill/{$id}/remove")->assertNotFound();
        self::assertSame(0, DB::table('cost_prices')->count());
        self::assertSame(['added a price', 'removed a price'], LedgerEntry::query()->orderBy('number')->pluck('act')->all());
        $this->get('/meter/prices')->assertOk()->assertSee('has no price yet');
    }

    #[TestWith(['1234567.891', 'EUR', "1\u{202F}234\u{202F}567.89\u{A0}EUR"])]
    #[TestWith(['-0.004', 'EUR', "0.00\u{A0}EUR"])]
    #[TestWith(['-12.5', 'EUR', "−12.50\u{A0}EUR"])]
    #[TestWith(['999.995', 'EUR', "1\u{202F}000.00\u{A0}EUR"])]
    #[TestWith(['1200', 'JPY', "1\u{202F}200\u{A0}JPY"])]
    #[TestWith(['1.2345', 'KWD', "1.235\u{A0}KWD"])]
    public function test_money_is_said_to_its_last_decimal(string $amount, string $currency, string $said): void
    {
        self::assertSame($said, Money::exact(BigDecimal::of($amount), $currency));
    }

    public function test_a_viewer_who_is_told_of_one_team_sees_no_other_in_any_page_or_export(): void
    {
        $this->price('node_hour', '1', more: ['quantity' => '10']);
        $this->price('scanned_tib', '2');
        $viewer = $this->person(Role::Viewer);
        $this->actingAs($this->person(Role::Owner));
        $this->get('/meter/viewers')->assertOk()->assertSee('Every viewer sees the use and cost of all teams');
        $this->post("/meter/viewers/{$viewer->id}", ['teams' => ['lab', 'nobody']])
            ->assertSessionHas('done', 'Viewer sees lab only.');
        $this->get('/meter/viewers')->assertSee('1 of 1 viewer sees some teams only');
        $this->post('/meter/viewers/'.$this->person(Role::Engineer)->id, ['teams' => ['lab']])->assertStatus(422);
        $days = 'days=2026-11-01+to+2026-11-10';
        $addresses = [];
        foreach (Route::getRoutes()->getRoutes() as $route) {
            if (str_starts_with($route->uri(), 'meter/') && $route->methods()[0] === 'GET') {
                foreach (str_contains($route->uri(), '{format}') ? ['csv', 'json', 'xlsx'] : [''] as $format) {
                    $addresses[] = '/'.str_replace(['{format}', '{document}'], [$format, 'html'], $route->uri());
                }
            }
        }
        $addresses[] = '/meter/explore/export/parquet';
        self::assertGreaterThan(12, count($addresses));
        $read = function (User $person, string $address): string {
            $response = $this->actingAs($person)->get($address);
            $content = $response->baseResponse instanceof StreamedResponse
                ? $response->streamedContent() : (string) $response->getContent();
            if (! str_starts_with($content, 'PK')) {
                return $content;
            }
            $path = (string) tempnam(sys_get_temp_dir(), 'x');
            file_put_contents($path, $content);
            $archive = new ZipArchive();
            $archive->open($path);
            $content = (string) $archive->getFromName('xl/worksheets/sheet1.xml');
            unlink($path);

            return $content;
        };
        $others = 0;
        foreach ($addresses as $address) {
            foreach (['', '&by=person', '&rows=person&columns=statement', '&rows=statement&columns=team', '&team=pickers', '&filter=team',
                '&person=ada', '&filter=person&rows=application'] as $more) {
                // What was asked for in the address is no news to who asked.
                $seen = str_replace(['team=pickers', 'person=ada'], '', html_entity_decode($read($viewer, "{$address}?{$days}{$more}")));
                $seen = (string) preg_replace(
                    '~name="(team|person)" value="\w+"|(team|person): (pickers|ada)|>(pickers|ada)</a>~', '', $seen);
                self::assertDoesNotMatchRegularExpression('~pickers|\bada\b|SELECT a\b~', $seen, "{$address} {$more}");
                $others += (int) preg_match('~pickers~', $read($this->person(Role::Engineer), "{$address}?{$days}{$more}"));
            }
        }
        self::assertGreaterThan(30, $others, 'which all others see');
        $this->actingAs($viewer)->get("/meter/cost?{$days}")
            ->assertSee("Your part of the cost is 50.00\u{A0}EUR")
            ->assertDontSee('2\u{202F}4', false)
            ->assertDontSee('of its time');
        $this->assertKeptTo($viewer);
        $this->actingAs($this->person(Role::Owner))->post("/meter/viewers/{$viewer->id}", ['all' => '1'])->assertSessionHas('done');
        $this->actingAs($viewer)->get("/meter/cost?{$days}")->assertSee('pickers');
        self::assertSame(0, DB::table('usage_limits')->count());
    }

    /** What is of all teams is refused in words, wherever it is, and no way leads there. */
    private function assertKeptTo(User $viewer): void
    {
        $statement = (string) DB::table('statements')->where('text', 'SELECT a')->value('fingerprint');
        $fill = [
            '{fingerprint}' => $statement, '{cluster}' => 'fernhill', '{slug}' => 'fernhill', '{format}' => 'csv', '{document}' => 'html',
            '{rule}' => 'skew', '{name}' => 'field.t', '{key}' => '01234567-89ab-4cde-8f01-23456789abcd', '{kind}' => 'rules',
        ];
        $refused = 0;
        foreach (Route::getRoutes()->getRoutes() as $route) {
            if ($route->methods()[0] !== 'GET' || str_starts_with($route->uri(), 'api/') || $route->uri() === 'up') {
                continue;
            }
            $address = '/'.ltrim((string) preg_replace('~\{\w+\??\}~', '1', strtr($route->uri(), $fill)), '/');
            $response = $this->actingAs($viewer)->get($address);
            $content = $response->baseResponse instanceof StreamedResponse ? $response->streamedContent()
                : (string) $response->getContent();
            self::assertDoesNotMatchRegularExpression('~pickers|\bada\b|SELECT a\b~', $content, $address);
            $refused += $response->getStatusCode() === 403 ? 1 : 0;
        }
        self::assertGreaterThan(80, $refused);
        $this->get('/')->assertRedirect('/meter/usage');
        $this->get("/tune/statements/{$statement}?cluster=fernhill")->assertForbidden()
            ->assertSee('You see the use and cost of some teams');
        $this->get('/ledger/findings')->assertForbidden();
        $this->get('/account')->assertOk()->assertSee('Meter')->assertDontSee('href="/tune', false)->assertDontSee('/meter/bills');
    }
}
