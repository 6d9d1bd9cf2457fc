<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\EstateCalendar;
use App\Estate\Models\Cluster;
use App\Estate\Pricing\DailyMoney;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use App\Telemetry\Usage\UsageSeries;
use App\Telemetry\Usage\UsageSums;
use App\Usage\Application\ForecastIf;
use App\Usage\Application\ForecastPage;
use App\Usage\Application\ForecastWhatIf;
use App\Usage\Application\JumpFindings;
use DateTimeZone;
use Fulcrion\Core\Forecast\ForecastModel;
use Fulcrion\Core\Text\TypedBytes;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Http\Request;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use SimpleXMLElement;
use Tests\TestCase;

/**
 * Where the month will end, from facts of use.
 */
#[Group('today')]
final class ForecastTest extends TestCase
{
    private const WEEK = [100, 110, 120, 110, 100, 20, 10];

    private int $cluster;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow('2026-11-21 09:00:00');
        $this->cluster = $this->cluster()->id;
        DB::table('usage_teams')->insert([['id' => 1, 'name' => 'pickers'], ['id' => 2, 'name' => 'lab']]);
        DB::table('origins')->insert([
            'id' => 1, 'digest' => str_repeat('0', 16), 'database_name' => 'd', 'user_name' => 'u', 'application' => 'a',
            'client_host' => 'h',
        ]);
        DB::table('statements')->insert(['id' => 1, 'fingerprint' => md5('1'), 'kind' => 'read', 'text' => 'SELECT 1']);
    }

    /**
     * @param  callable(int, int): ?int  $bytes of a day by its number and the team's
     */
    private function used(string $from, callable $bytes): void
    {
        for ($day = (int) strtotime("{$from} UTC"), $n = 0; $day < Clock::seconds(); $day += Days::DAY, $n++) {
            foreach ([1, 2] as $team) {
                $amount = $bytes($n, $team);
                if ($amount !== null) {
                    DB::table('usage_facts')->insert([
                        'day_at' => $day, 'cluster_id' => $this->cluster, 'team_id' => $team, 'origin_id' => 1, 'statement_id' => 1,
                        'executions' => 1, 'bytes_scanned' => $amount,
                    ]);
                }
            }
            DB::table('usage_days')->insert(['cluster_id' => $this->cluster, 'day_at' => $day]);
            UsageSums::day($this->cluster, $day);
        }
    }

    private function page(): ForecastPage
    {
        return ForecastPage::of(
            UsageScope::within(Days::parse('last 7 days', Clock::seconds()), UsageMeasure::Scanned),
            app(UsageSeries::class),
            app(Calendar::class),
            Clock::seconds(),
        );
    }

    public function test_a_month_that_is_as_all_weeks_ends_as_they_do(): void
    {
        // Monday, 1 June 2026 on.
        $this->used('2026-06-01', static fn (int $n, int $team): int => self::WEEK[$n % 7] * $team);
        $page = $this->page();
        self::assertNotNull($page->all);
        // Twenty days are over, ten are to come; what today had so far is not counted twice.
        self::assertSame(10, $page->all->ahead);
        $month = static fn (int $first, int $count): int => array_sum(array_map(
            static fn (int $n): int => 3 * self::WEEK[($n + 6) % 7],
            range($first, $first + $count - 1),
        ));
        self::assertEqualsWithDelta($month(0, 20), $page->all->used(), 1e-6);
        self::assertEqualsWithDelta($month(0, 30), $page->all->expected(), 1e-6);
        self::assertSame(ForecastModel::SeasonalNaive, $page->all->forecast->model);
        self::assertSame(['lab', 'pickers'], array_keys($page->teams));
        self::assertEqualsWithDelta($page->all->expected(), 1.5 * $page->teams['lab']->expected(), 1e-6);
        // What was to be said one and two weeks before was the same; three weeks ago the month had not begun.
        self::assertCount(2, $page->earlier);
        self::assertEqualsWithDelta($month(0, 30), $page->earlier[0]->expected(), 1e-6);
        self::assertSame(17, $page->earlier[0]->ahead);
        $this->actingAs($this->person(Role::Viewer))->get('/meter/forecast')->assertOk()
            ->assertSee('Bytes scanned will be about')->assertSee('November 2026: four of five such forecasts end between')
            ->assertSee('Nineteen of twenty such forecasts end between')
            ->assertSee('such ranges held')->assertSee('pickers');
        $this->get('/meter/forecast?team=lab')->assertOk()->assertSee('Bytes scanned of lab will be about')->assertDontSee('By team');
        $rows = json_decode($this->get('/meter/forecast/export/json')->streamedContent(), true);
        self::assertSame(['all', 'lab', 'pickers'], array_column($rows, 'team'));
        self::assertSame($month(0, 30), (int) $rows[0]['expected']);
    }

    public function test_a_day_that_was_not_read_is_a_gap_and_one_on_which_nothing_ran_is_not(): void
    {
        $this->used('2026-06-01', static fn (int $n, int $team): ?int => $n % 7 > 4 || ($team === 2 && $n === 100) ? null
            : self::WEEK[$n % 7] + ($n > 160 ? 500 : 0));
        DB::table('clusters')->update(['connector' => 'mariadb', 'created_at' => '2026-01-01', 'polled_at' => now()]);
        $at = static fn (string $moment): int => (int) strtotime("{$moment} UTC");
        DB::table('reading_gaps')->insert([
            ['cluster_id' => $this->cluster, 'from_at' => $at('2026-10-05 20:00'), 'to_at' => $at('2026-10-07 01:00')],
            ['cluster_id' => $this->cluster, 'from_at' => $at('2026-10-20 10:00'), 'to_at' => $at('2026-10-20 11:59')],
        ]);
        $series = app(UsageSeries::class)->byTeam($this->page()->scope, Clock::seconds());
        $place = static fn (string $day): int => intdiv($at($day) - $series['lab']->first, Days::DAY);
        // Four hours of the fifth and all of the sixth; one hour of the seventh is no gap, and a Sunday is nothing.
        self::assertSame([null, null, 120.0], array_slice($series['lab']->values, $place('2026-10-05'), 3));
        self::assertSame(110.0, $series['lab']->values[$place('2026-10-20')]);
        self::assertSame([0.0, 0.0], array_slice($series['lab']->values, $place('2026-10-10'), 2));
        self::assertSame(0.0, $series['lab']->values[100]);
        self::assertSame($place('2026-11-20') + 1, $series['lab']->count(), 'up to yesterday');
        $sum = UsageSeries::sum($series);
        self::assertSame([null, 240.0], [$sum?->values[$place('2026-10-06')], $sum?->values[$place('2026-10-07')]]);
    }

    public function test_who_suddenly_uses_more_is_found_once_with_what_did_it(): void
    {
        $this->used('2026-08-31', static fn (int $n, int $team): int => self::WEEK[$n % 7] * 1_000 * $team + $n % 3);
        $cluster = Cluster::query()->firstOrFail();
        $found = static fn (string $state = 'open'): array => DB::table('findings')->where('source', 'usage')->where('state', $state)
            ->orderBy('id')->pluck('problem', 'rule')->all();
        app(JumpFindings::class)->report($cluster, Clock::seconds());
        self::assertSame([], $found());
        // The last two days of one team have twice as much, by another statement.
        DB::table('statements')->insert(['id' => 2, 'fingerprint' => md5('2'), 'kind' => 'read', 'text' => 'SELECT everything']);
        foreach (['2026-11-19', '2026-11-20'] as $date) {
            DB::table('usage_facts')->insert([
                'day_at' => strtotime("{$date} UTC"), 'cluster_id' => $this->cluster, 'team_id' => 1, 'origin_id' => 1,
                'statement_id' => 2, 'executions' => 3, 'bytes_scanned' => 150_000,
            ]);
            UsageSums::day($this->cluster, (int) strtotime("{$date} UTC"));
        }
        app(JumpFindings::class)->report($cluster, Clock::seconds());
        // The team, and not its person or application as well.
        self::assertSame(['usage-step'], array_keys($found()));
        self::assertStringStartsWith('Team pickers had ', $found()['usage-step']);
        self::assertStringContainsString('bytes scanned on 19 to 20 November 2026, 2.43 times as much as usual', $found()['usage-step']);
        $evidence = (string) json_encode(Finding::query()->sole()->evidence);
        self::assertStringContainsString('SELECT everything', $evidence);
        self::assertStringNotContainsString('SELECT 1"', $evidence, 'which had no more than usual');
        // A limit that would hold it is proposed: a quarter above the week before, of which the team had so much.
        $before = app(UsageReader::class)->totals(
            UsageScope::within(Days::parse('2026-11-12 to 2026-11-18', 0), UsageMeasure::Scanned, null, ['team' => 'pickers']),
            Days::parse('2026-11-12 to 2026-11-18', 0),
        )['bytes_scanned'];
        $limit = JumpFindings::limit(Finding::query()->sole()) ?? self::fail('no limit');
        self::assertSame(['team pickers', 'bytes', 'week'], [$limit['of'], $limit['measure'], $limit['period']]);
        self::assertEqualsWithDelta(1.25 * $before, TypedBytes::of($limit['amount']), 1024, 'to the KiB');
        $this->actingAs($this->person())->get(address('finding.show', Finding::query()->sole()->id))->assertOk()
            ->assertSee('/meter/limits?of=team%20pickers&amp;measure=bytes&amp;period=week', false);
        // Asked again it is the same one; when it is over it is solved.
        app(JumpFindings::class)->report($cluster, Clock::seconds());
        self::assertSame(1, DB::table('findings')->where('source', 'usage')->count());
        DB::table('usage_facts')->where('statement_id', 2)->delete();
        foreach (['2026-11-19', '2026-11-20'] as $date) {
            UsageSums::day($this->cluster, (int) strtotime("{$date} UTC"));
        }
        app(JumpFindings::class)->report($cluster, Clock::seconds());
        self::assertSame([[], ['usage-step']], [$found(), array_keys($found('solved'))]);
        // No other team is accused of any of it.
        self::assertSame(0, DB::table('findings')->where('problem', 'like', '%lab%')->count());
    }

    public function test_what_if_days_have_more_or_a_statement_runs_more_often(): void
    {
        $this->used('2026-06-01', static fn (int $n, int $team): int => 1_000 * $team);
        $this->actingAs($this->person(Role::Viewer));
        // Ten of thirty days are left, of 3,000 each; one execution has 1,500 on the mean, 288 a day in ten days.
        $page = $this->page();
        $of = static fn (array $query): ForecastIf => app(ForecastWhatIf::class)->of(new Request($query), $page,
            (int) strtotime('2026-11-21 UTC'));
        self::assertNotNull($page->all);
        $expected = static fn (ForecastIf $one): float => round($one->expected($page->all), 3);
        self::assertSame([90_000.0, false], [$expected($of([])), $of([])->isAsked()]);
        self::assertSame(96_000.0, $expected($of(['grows' => '20'])));
        self::assertSame(75_000.0, $expected($of(['grows' => '-50 %'])));
        self::assertSame(90_000.0 + 2_880 * 1_500, $expected($of(['also' => md5('1'), 'every' => '5'])));
        self::assertSame(96_000.0 + 10 * 1_500, $expected($of(['grows' => '20', 'also' => md5('1'), 'every' => '1440'])));
        $this->get('/meter/forecast?grows=20&also='.md5('1').'&every=60')->assertOk()
            ->assertSee('if the days that are left have 20% more and statement '.substr(md5('1'), 0, 8).' runs every 60 minutes as well');
        foreach ([
            'grows=much' => 'Growth is a percentage', 'grows=-101' => 'Growth is a percentage', 'grows=1001' => 'Growth is a percentage',
            'every=0' => 'a number of minutes', 'every=1441' => 'a number of minutes', 'also=x' => 'A statement is named by',
            'also='.md5('9') => 'did not run in the last four weeks', 'burst=2' => 'give an hour of a burst cluster a price',
            'price=x&costs=2' => 'Choose one of the prices in force', 'change=7' => 'Choose a change that is not applied yet',
        ] as $query => $said) {
            $this->get("/meter/forecast?{$query}")->assertOk()->assertSee($said)->assertDontSee('if the days');
        }
    }

    public function test_cost_is_forecast_and_what_if_a_price_a_change_or_a_burst_cluster(): void
    {
        $cluster = Cluster::query()->firstOrFail();
        // Two hours of one team and one of the other each day, on four nodes of a euro an hour: 96 a day, a third of it the smaller one's.
        $this->used('2026-06-01', static fn (int $n, int $team): int => 3_600_000_000 * (3 - $team));
        DB::table('usage_facts')->update(['in_flight_us' => DB::raw('bytes_scanned'), 'bytes_scanned' => 0]);
        foreach (DB::table('usage_facts')->distinct()->pluck('day_at') as $day) {
            UsageSums::day($this->cluster, (int) $day);
        }
        $this->actingAs($this->person());
        $this->post("/meter/prices/{$cluster->slug}", ['kind' => 'node_hour', 'amount' => '1', 'quantity' => '4', 'from' => '2026-01-01']);
        $this->post("/meter/prices/{$cluster->slug}/rule", ['currency' => 'EUR', 'follows' => 'in_flight_us', 'idle' => 'in_proportion']);
        app()->forgetScopedInstances();
        $page = fn (array $only = []): ForecastPage => ForecastPage::ofCost(
            UsageScope::within(Days::parse('last 7 days', Clock::seconds()), UsageMeasure::Scanned, null, $only),
            app(DailyMoney::class),
            app(Calendar::class),
            Clock::seconds(),
        );
        self::assertEqualsWithDelta(30 * 96.0, $page()->all?->expected() ?? 0.0, 1e-6);
        self::assertSame(['pickers', 'lab'], array_keys($page()->teams));
        self::assertEqualsWithDelta(30 * 32.0, $page(['team' => 'lab'])->all?->expected() ?? 0.0, 0.05);
        $this->get('/meter/forecast?measure=cost')->assertOk()->assertSee('Cost will be about')->assertSee('EUR');
        $this->get('/meter/forecast?measure=cost&person=ada')->assertOk()->assertSee('Cost is known by team and cluster');
        $if = static fn (ForecastPage $page, array $query): float => app(ForecastWhatIf::class)
            ->of(new Request($query), $page, (int) strtotime('2026-11-21 UTC'))->expected($page->all ?? self::fail('no forecast'));
        // Ten days are left, at half as much again.
        $key = app(DailyMoney::class)->parts(null, Clock::seconds())[0]->key;
        self::assertEqualsWithDelta(20 * 96 + 10 * 144, $if($page(), ['price' => $key, 'costs' => '1.5']), 1e-6);
        self::assertEqualsWithDelta(30 * 96, $if($page(), ['price' => $key]), 1e-6);
        // A dashboard: a run has what three hours in flight a day have by their runs, at 32 euros an hour.
        $perDay = 96 / DB::table('usage_facts')->where('day_at', strtotime('2026-11-20 UTC'))->sum('executions') * 24;
        self::assertEqualsWithDelta(30 * 96 + 10 * $perDay, $if($page(), ['also' => md5('1'), 'every' => '60']), 0.1);
        // A change that saves seven hours a week saves an hour a day; of a measure that is no time it says nothing.
        $change = Change::query()->create([
            'cluster_id' => $cluster->id, 'object' => 'x', 'title' => 'Sort it', 'kind' => 'layout', 'sealed_steps' => [],
            'inverse' => 'none', 'sealed_inverse' => [], 'workload' => [], 'state' => 'rehearsed', 'asked_us' => 1, 'asked_by' => 'x',
            'asked_by_id' => $this->person()->id,
            'expected' => ['savedUs' => 7 * 3_600_000_000.0],
        ]);
        self::assertSame([$change->id => "Sort it, {$cluster->name}"], app(ForecastWhatIf::class)->changes($page()));
        self::assertSame([], app(ForecastWhatIf::class)->changes($this->page()));
        self::assertEqualsWithDelta(30 * 96 - 10 * 32, $if($page(), ['change' => (string) $change->id]), 0.1);
        $this->get("/meter/forecast?measure=in_flight_us&change={$change->id}")->assertOk()->assertSee('is applied: Sort it');
        $change->update(['state' => 'applied']);
        self::assertSame([], app(ForecastWhatIf::class)->changes($page()));
        // Two hours a day of a burst cluster, once it has a price.
        $this->post("/meter/prices/{$cluster->slug}", [
            'kind' => 'burst_hour', 'amount' => '2.5', 'quantity' => '1', 'from' => '2026-01-01',
        ]);
        app()->forgetScopedInstances();
        self::assertEqualsWithDelta(30 * 96 + 10 * 5, $if($page(), ['burst' => '2']), 1e-6);
        $this->get('/meter/forecast?measure=cost&burst=25')->assertOk()->assertSee('A day has 24 hours at most.');
        // Who may see one team only is told of that one.
        DB::table('usage_limits')->insert(['user_id' => $this->person(Role::Viewer)->id, 'teams' => json_encode(['lab'])]);
        $this->actingAs($this->person(Role::Viewer));
        $this->get('/meter/forecast?measure=cost')->assertOk()->assertDontSee('pickers');
        $csv = $this->get('/meter/forecast/export/csv?measure=cost')->streamedContent();
        self::assertStringNotContainsString('pickers', $csv);
        self::assertStringContainsString(',cost,', $csv);
    }

    public function test_a_statement_is_told_where_it_is_nobodys_jump_alone(): void
    {
        // Three people of two teams, and a statement all of them share: a twelfth of what each has, until it has five times as much.
        $this->used('2026-08-31', static fn (int $n, int $team): int => self::WEEK[$n % 7] * 10_000 * $team + $n % 3);
        DB::table('statements')->insert(['id' => 2, 'fingerprint' => md5('2'), 'kind' => 'read', 'text' => 'SELECT shared']);
        $add = function (int $from, int $to, int $times): void {
            for ($day = $from, $n = 0; $day < $to; $day += Days::DAY, $n++) {
                foreach ([1, 2] as $team) {
                    DB::table('usage_facts')->where('statement_id', 2)->where('day_at', $day)->where('team_id', $team)->delete();
                    DB::table('usage_facts')->insert([
                        'day_at' => $day, 'cluster_id' => $this->cluster, 'team_id' => $team, 'origin_id' => 1, 'statement_id' => 2,
                        'executions' => 3, 'bytes_scanned' => $times * 40_000 * $team,
                    ]);
                }
                UsageSums::day($this->cluster, $day);
            }
        };
        $add((int) strtotime('2026-08-31 UTC'), (int) strtotime('2026-11-21 UTC'), 1);
        $cluster = Cluster::query()->firstOrFail();
        app(JumpFindings::class)->report($cluster, Clock::seconds());
        self::assertSame(0, Finding::query()->where('source', 'usage')->count());
        $add((int) strtotime('2026-11-19 UTC'), (int) strtotime('2026-11-21 UTC'), 3);
        app(JumpFindings::class)->report($cluster, Clock::seconds());
        $finding = Finding::query()->where('source', 'usage')->sole();
        self::assertSame('statement:'.md5('2'), $finding->object);
        self::assertStringContainsString('3 times as much as usual', $finding->problem);
        self::assertStringContainsString('SELECT shared', (string) json_encode($finding->evidence));
        $this->actingAs($this->person())->get(address('finding.show', $finding->id))->assertOk()->assertSee('Open the statement')
            ->assertDontSee('Set a limit');
    }

    public function test_a_spike_of_one_person_is_told_by_the_person_where_the_team_is_large(): void
    {
        DB::table('origins')->insert(array_map(static fn (int $i): array => [
            'id' => $i, 'digest' => str_repeat((string) $i, 16), 'database_name' => 'd', 'user_name' => "u{$i}", 'application' => "a{$i}",
            'client_host' => 'h',
        ], [2, 3]));
        $this->used('2026-08-31', static fn (int $n, int $team): int => self::WEEK[$n % 7] * 1_000 * $team + $n % 3);
        $add = function (string $date, int $origin, int $bytes): void {
            DB::table('usage_facts')->insert([
                'day_at' => strtotime("{$date} UTC"), 'cluster_id' => $this->cluster, 'team_id' => 2, 'origin_id' => $origin,
                'statement_id' => 1, 'executions' => 1, 'bytes_scanned' => $bytes,
            ]);
            UsageSums::day($this->cluster, (int) strtotime("{$date} UTC"));
        };
        for ($day = strtotime('2026-08-31 UTC'); $day < strtotime('2026-11-21 UTC'); $day += Days::DAY) {
            $add(gmdate('Y-m-d', $day), 2, 20_000);
        }
        // Sixty thousand beside two hundred and twenty: no jump of the team, but one of the person.
        $friday = DB::table('usage_facts')->where('day_at', strtotime('2026-11-20 UTC'));
        $friday->where('origin_id', 2)->update(['bytes_scanned' => 80_000]);
        UsageSums::day($this->cluster, (int) strtotime('2026-11-20 UTC'));
        app(JumpFindings::class)->report(Cluster::query()->firstOrFail(), Clock::seconds());
        $found = Finding::query()->where('source', 'usage')->get();
        self::assertSame(['usage-spike'], $found->pluck('rule')->all());
        self::assertStringStartsWith('Person u2 had ', (string) $found[0]?->problem);
        self::assertStringContainsString('4 times as much as usual', (string) $found[0]?->problem);
        self::assertSame('user:u2', $found[0]?->object);
        self::assertSame('person u2', JumpFindings::limit($found->firstOrFail())['of'] ?? '');
        // Somebody who is new has no usual amount, and is not accused.
        $add('2026-11-19', 3, 50_000);
        $add('2026-11-20', 3, 50_000);
        app(JumpFindings::class)->report(Cluster::query()->firstOrFail(), Clock::seconds());
        self::assertSame(0, Finding::query()->where('object', 'user:u3')->count());
    }

    public function test_series_of_one_cluster_begin_with_it(): void
    {
        $this->used('2026-09-01', static fn (): int => 10);
        $other = $this->cluster('wren');
        $day = (int) strtotime('2026-11-10 UTC');
        DB::table('usage_facts')->insert([
            'day_at' => $day, 'cluster_id' => $other->id, 'team_id' => 1, 'origin_id' => 1, 'statement_id' => 1, 'executions' => 1,
            'bytes_scanned' => 5,
        ]);
        DB::table('usage_days')->insert(['cluster_id' => $other->id, 'day_at' => $day]);
        UsageSums::day($other->id, $day);
        $of = static fn (?Cluster $cluster): array => app(UsageSeries::class)->byTeam(
            UsageScope::within(Days::parse('last 7 days', Clock::seconds()), UsageMeasure::Scanned, $cluster), Clock::seconds(),
        );
        self::assertSame(['pickers'], array_keys($of($other)));
        self::assertSame([$day, 11, 5.0, 0.0], [
            $of($other)['pickers']->first, $of($other)['pickers']->count(), $of($other)['pickers']->values[0],
            $of($other)['pickers']->values[1],
        ]);
        self::assertSame(15.0, $of(null)['pickers']->values[70]);
        $this->actingAs($this->person(Role::Viewer))->get('/meter/forecast?cluster=wren')->assertOk()
            ->assertSee('too little of the past is known')->assertDontSee('By team');
        $this->get('/meter/forecast?cluster=fernhill')->assertOk()->assertSee('By team');
        self::assertNull(UsageSeries::sum([]));
    }

    public function test_with_little_known_it_says_so(): void
    {
        $viewer = $this->person(Role::Viewer);
        $this->actingAs($viewer)->get('/meter/forecast')->assertOk()->assertSee('Nothing is known of bytes scanned before today')
            ->assertSee('A forecast needs days that are over');
        $this->used('2026-11-21', static fn (): int => 5);
        $this->get('/meter/forecast')->assertOk()->assertSee('Nothing is known of bytes scanned before today');
        DB::table('usage_days')->delete();
        DB::table('usage_facts')->delete();
        $this->used('2026-11-19', static fn (): int => 5);
        $this->get('/meter/forecast')->assertOk()->assertSee('too little of the past is known to say how sure that is');
        $this->get('/meter/forecast?measure=nonsense&cluster=none')->assertOk();
        $this->get('/meter/forecast/export/pdf')->assertNotFound();
        // The first of a month: nothing of it is over.
        Carbon::setTestNow('2026-12-01 00:10:00');
        $this->get('/meter/forecast')->assertOk()->assertSee('December 2026');
        // The last day of a month is one day ahead, where it is still the month before.
        (new EstateCalendar())->set(new Calendar(new DateTimeZone('America/New_York')));
        self::assertSame([1, '2026-11-01 to 2026-11-30'], [$this->page()->all?->ahead, $this->page()->month->text()]);
    }

    public function test_the_figure_widens_and_whoever_is_limited_sees_their_team_only(): void
    {
        mt_srand(5);
        $this->used('2026-06-01', static fn (int $n, int $team): int => self::WEEK[$n % 7] * $team * mt_rand(60, 140));
        $svg = new SimpleXMLElement($this->page()->figure()->svg ?? '');
        $heights = [];
        foreach (['p95', 'p80', 'p50'] as $part) {
            $found = (array) $svg->xpath("//*[@class='fan {$part}']");
            self::assertCount(1, $found);
            preg_match_all('~[ML]([\d.]+) ([\d.]+)~', (string) $found[0]['d'], $points);
            $last = max($points[1]);
            $ends = array_map(floatval(...), array_intersect_key($points[2], array_filter($points[1],
                static fn (string $x): bool => $x === $last)));
            $heights[] = max($ends) - min($ends);
        }
        self::assertTrue($heights[0] > $heights[1] && $heights[1] > $heights[2] && $heights[2] > 0);
        $viewer = $this->person(Role::Viewer);
        DB::table('usage_limits')->insert(['user_id' => $viewer->id, 'teams' => '["lab"]']);
        $this->actingAs($viewer)->get('/meter/forecast')->assertOk()->assertDontSee('pickers');
        $this->get('/meter/forecast?team=pickers')->assertOk()->assertSee('Nothing is known');
        $rows = json_decode($this->get('/meter/forecast/export/json')->streamedContent(), true);
        self::assertSame(['all'], array_column($rows, 'team'), 'one team is all of it');
    }
}
