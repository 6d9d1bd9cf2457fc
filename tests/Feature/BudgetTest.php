<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Cost\Application\Budget;
use App\Cost\Application\BudgetFindings;
use App\Cost\Application\Budgets;
use App\Cost\Application\DailyCosts;
use App\Estate\Models\Cluster;
use App\Ledger\Models\Finding;
use App\Ledger\Models\LedgerEntry;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\TeamMembership;
use Fulcrion\Tools\Demo\DemoBudgets;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * What people plan to spend, and how fast they do.
 */
#[Group('today')]
final class BudgetTest extends TestCase
{
    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow('2026-11-16 00:00:00');
        $this->cluster();
        $this->belong(new TeamMembership('ada', 'pickers', 0, null), new TeamMembership('bren', 'lab', 0, null));
        // On each day since October a half hour of ada's and a quarter of bren's, so that of a day's 24 euro 16 and 8 are theirs.
        $records = [];
        for ($at = (int) strtotime('2026-10-01 08:00 UTC'); $at < Clock::seconds(); $at += 86_400) {
            foreach (['ada' => 1_800, 'bren' => 900] as $who => $seconds) {
                $records[] = ['started_at' => $at, 'duration_us' => $seconds * 1_000_000, 'sql' => "SELECT {$who}", 'user' => $who];
            }
        }
        Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'fernhill']);
        Artisan::call('usage:close');
        $this->actingAs($this->person(Role::Owner));
        $this->post('/meter/prices/fernhill', ['kind' => 'node_hour', 'amount' => '1', 'quantity' => '1', 'from' => '2026-01-01']);
        $this->post('/meter/prices/fernhill/rule', ['currency' => 'EUR', 'follows' => 'in_flight_us', 'idle' => 'in_proportion']);
    }

    /**
     * @param  array<string, string>  $more
     */
    private function budget(string $of, string $amount, array $more = []): void
    {
        $this->post('/meter/budgets', $more + [
            'of' => $of, 'amount' => $amount, 'period' => 'month', 'currency' => 'EUR', 'from' => '2026-11',
        ])->assertRedirect('/meter/budgets')->assertSessionHas('done');
    }

    /**
     * @return array<string, list<string|float|null>> amount, spent, share of the time and mark by whose it is
     */
    private function standing(): array
    {
        $standing = [];
        foreach (app(Budgets::class)->all(Clock::seconds()) as $one) {
            $standing["{$one->whose()} {$one->period->value}"] = [
                (string) $one->amount, $one->use === null ? null : (string) $one->use->used, $one->use?->gone, $one->mark(),
            ];
        }

        return $standing;
    }

    public function test_what_was_spent_of_each_budget_by_the_time_that_is_over(): void
    {
        $this->get('/meter/budgets')->assertOk()->assertSee('No budget is set')->assertSee('It stops nothing');
        $this->budget('team:pickers', '500');
        $this->budget('team:lab', '200');
        $this->budget('cluster:fernhill', '360');
        $this->budget('estate', '3000', ['period' => 'quarter']);
        // Fifteen of thirty days: 240 and 120; and 46 of 92 days of the quarter at 24.
        self::assertSame([
            'lab month' => ['200.00', '120.00', 0.5, 'watch'],
            'pickers month' => ['500.00', '240.00', 0.5, 'calm'],
            'cluster fernhill month' => ['360.00', '360.00', 0.5, 'watch'],
            'all clusters quarter' => ['3000.00', '1104.00', 0.5, 'calm'],
        ], $this->standing());
        $this->get('/meter/budgets')->assertOk()->assertSee('2 budgets of 4 will be passed: cluster fernhill about 16 Nov')
            ->assertSee('within it');
        // The latest of the same holds, from its month on.
        $this->budget('team:lab', '100');
        $this->budget('team:lab', '900', ['from' => '2026-12']);
        self::assertSame(['100.00', '120.00', 0.5, 'act'], $this->standing()['lab month']);
        $this->get('/meter/budgets')->assertSee('1 budget of 4 is passed: lab spent 120% of it');
        Carbon::setTestNow('2026-12-01 06:00:00');
        app()->forgetScopedInstances();
        self::assertSame('900.00', (string) app(Budgets::class)->all(Clock::seconds())[0]->amount);
        // Nothing ends it.
        $this->budget('team:lab', '0', ['from' => '2026-12']);
        self::assertArrayNotHasKey('lab month', $this->standing());
    }

    public function test_the_page_of_a_team_and_its_statement_of_account_say_so(): void
    {
        $this->budget('team:lab', '100');
        $said = "100.00\u{A0}EUR for November 2026: 120.00\u{A0}EUR spent, 120% of it, when 50% of the time is over.";
        foreach (['/meter/team?team=lab&days=this+month', '/meter/team/account.html?team=lab&days=this+month'] as $address) {
            $text = (string) preg_replace('~\s+~u', ' ', strip_tags((string) $this->get($address)->assertOk()->getContent()));
            self::assertStringContainsString((string) preg_replace('~\s+~u', ' ', $said), $text, $address);
        }
        $this->get('/meter/team?team=pickers&days=this+month')->assertDontSee('All budgets');
        // A month that is over is told as it ended, by the budget it had.
        $this->budget('team:lab', '300', ['from' => '2026-10']);
        $of = app(Budgets::class)->ofTeam('lab', Days::month('2026-10'), Clock::seconds());
        self::assertCount(1, $of);
        self::assertSame(['300.00', '248.00'], [(string) $of[0]->amount, (string) $of[0]->use?->used]);
        self::assertEqualsWithDelta(1.0, $of[0]->use?->gone, 1e-5);
    }

    public function test_what_is_not_priced_in_its_currency_is_not_known(): void
    {
        $this->budget('team:lab', '100', ['currency' => 'CHF']);
        self::assertSame([null, null, 'no data'], array_slice($this->standing()['lab month'], 1));
        $this->get('/meter/budgets')->assertOk()->assertSee('Nothing is priced in the currency of any budget');
        $this->get('/meter/team?team=lab')->assertOk()->assertSee('nothing is priced in its currency');
        DB::table('budgets')->insert(['of' => 'cluster', 'name' => 'gone', 'period' => 'month', 'amount' => 5, 'currency' => 'EUR',
            'from_at' => 0, 'made_by' => 'x', 'made_us' => 1]);
        self::assertNull($this->standing()['cluster gone month'][1]);
    }

    public function test_where_they_will_end_and_when_they_are_passed(): void
    {
        $this->budget('team:pickers', '500');
        $this->budget('team:lab', '200');
        $this->budget('estate', '600');
        $of = [];
        foreach (app(Budgets::class)->all(Clock::seconds(), null, true) as $one) {
            $of[$one->whose()] = $one;
        }
        // Every day costs the same: 8 of 24 a day are the lab's, of 30 days 240; 200 are passed on the 26th.
        self::assertEqualsWithDelta(240.0, $of['lab']->forecast?->expected(), 0.5);
        self::assertSame(['will be passed about 26 Nov', 'watch'], [$of['lab']->standing(), $of['lab']->mark()]);
        self::assertEqualsWithDelta(1.2, $of['lab']->expected(), 0.01);
        self::assertSame(['within it', 'calm'], [$of['pickers']->standing(), $of['pickers']->mark()]);
        self::assertSame((int) strtotime('2026-11-26 UTC'), $of['all clusters']->passes());
        // Nothing of the first of a month is over, and all of it is ahead.
        $this->get('/meter/budgets')->assertOk()->assertSee('2 budgets of 3 will be passed: lab about 26 Nov')->assertSee('expected-bar');
        self::assertSame(0, Artisan::call('budget:check'));
        $found = static fn (string $state = 'open'): array => DB::table('findings')->where('source', 'budget')->where('state', $state)
            ->orderBy('id')->pluck('problem')->all();
        self::assertSame([
            "lab will pass its budget of 200.00\u{A0}EUR about 26 Nov", "all clusters will pass its budget of 600.00\u{A0}EUR about 26 Nov",
        ], $found());
        // A limit of that amount is proposed where a limit can say whose it is.
        [$lab, $all] = Finding::query()->where('source', 'budget')->orderBy('id')->get()->all();
        self::assertSame(
            ['of' => 'team lab', 'measure' => 'cost', 'period' => 'month', 'amount' => '200.00'],
            BudgetFindings::limit($lab),
        );
        self::assertNull(BudgetFindings::limit($all));
        $this->get(address('finding.show', $lab->id))->assertOk()->assertSee('of=team%20lab&amp;measure=cost', false);
        $this->get(address('finding.show', $all->id))->assertOk()->assertSee('Set another budget')->assertDontSee('Set a limit');
        $this->get('/meter/budgets')->assertSee('of=team%20lab&amp;measure=cost&amp;period=month&amp;amount=200.00', false);
        // Whoever is within it is not accused, and a budget that is raised solves it.
        $this->budget('team:lab', '300');
        app()->forgetScopedInstances();
        Artisan::call('budget:check');
        self::assertCount(1, $found());
        self::assertCount(1, $found('solved'));
        $this->budget('team:lab', '110');
        Artisan::call('budget:check');
        self::assertContains("lab passed its budget of 110.00\u{A0}EUR on 14 Nov", $found());
        $this->get('/')->assertSee('lab passed its budget');
    }

    public function test_what_a_day_cost_is_computed_once_and_again_when_a_price_changes(): void
    {
        // All days up to yesterday are closed.
        Carbon::setTestNow('2026-11-16 02:00:00');
        Artisan::call('usage:close');
        $costs = static fn (): array => app(DailyCosts::class)->series(null, 'EUR', Clock::seconds());
        $series = $costs();
        self::assertEqualsCanonicalizing(['lab', 'pickers', DailyCosts::ALL], array_keys($series));
        // From the first of October up to yesterday, each day alike and the teams all of it.
        self::assertSame([46, (int) strtotime('2026-10-01 UTC')], [$series['lab']->count(), $series['lab']->first]);
        foreach (array_keys($series['lab']->values) as $place) {
            self::assertEqualsWithDelta(8.0, $series['lab']->values[$place], 1e-9);
            self::assertEqualsWithDelta(24.0, $series[DailyCosts::ALL]->values[$place], 1e-9);
        }
        // What is kept is asked for again, without a question to the facts.
        $facts = 0;
        DB::listen(static function ($query) use (&$facts): void {
            $facts += str_contains($query->sql, 'usage_origin_days') ? 1 : 0;
        });
        app()->forgetScopedInstances();
        self::assertEquals($series, $costs());
        self::assertSame(0, $facts);
        // Another price, another cost of all its days; and a correction of one day changes that day.
        $this->post('/meter/prices/fernhill', ['kind' => 'node_hour', 'amount' => '2', 'quantity' => '1', 'from' => '2026-11-01']);
        self::assertSame([24.0, 48.0], [$costs()[DailyCosts::ALL]->values[30], $costs()[DailyCosts::ALL]->values[31]]);
        $facts = 0;
        DB::table('usage_days')->where('day_at', strtotime('2026-11-05 UTC'))->update(['corrected_at' => Clock::seconds()]);
        $costs();
        self::assertGreaterThan(0, $facts);
        self::assertSame([], app(DailyCosts::class)->series(null, 'CHF', Clock::seconds()));
        self::assertSame($costs()['lab']->values, app(DailyCosts::class)->series(Cluster::query()->firstOrFail(), 'EUR',
            Clock::seconds())['lab']->values);
    }

    public function test_a_letter_is_written_once_for_each_share_and_period(): void
    {
        $this->budget('team:lab', '150', ['shares' => '50, 80%,100, 50', 'recipient' => 'ada@example.org']);
        $this->budget('team:pickers', '250', ['shares' => '', 'recipient' => 'ada@example.org']);
        $this->budget('estate', '600', ['shares' => '50', 'recipient' => 'ada@example.org']);
        $letters = static fn (): array => DB::table('notifications')->orderBy('id')->pluck('subject')->all();
        // 120 of 150 are spent, and 360 of 600.
        Artisan::call('budget:check');
        self::assertStringContainsString('3 letters', Artisan::output());
        self::assertSame([
            '50% of the budget of lab is spent, November 2026', '80% of the budget of lab is spent, November 2026',
            '50% of the budget of all clusters is spent, November 2026',
        ], $letters());
        Artisan::call('budget:check');
        self::assertCount(3, $letters(), 'once');
        self::assertStringContainsString('It will be passed about 19 Nov.', (string) DB::table('notifications')->value('body'));
        self::assertSame('price', DB::table('notifications')->value('ability'), 'only owners read it');
        // And once more in the next month, of which 19 days are over.
        Carbon::setTestNow('2026-12-20 00:00:00');
        app()->forgetScopedInstances();
        Artisan::call('budget:check');
        self::assertSame('50% of the budget of all clusters is spent, December 2026', DB::table('notifications')->orderByDesc('id')
            ->value('subject'));
        foreach (['shares' => ['x', '50;80', '1,2,3,4,5,6', '1000'], 'recipient' => ['nobody', 'a@']] as $field => $wrong) {
            foreach ($wrong as $value) {
                $this->post('/meter/budgets', [$field => $value] + [
                    'of' => 'team:lab', 'amount' => '1', 'period' => 'month', 'currency' => 'EUR', 'from' => '2026-11',
                ])->assertSessionHasErrors([$field]);
            }
        }
    }

    public function test_owners_set_them_and_limited_viewers_see_their_own_only(): void
    {
        $this->budget('team:lab', '100');
        $this->budget('team:pickers', '777');
        $this->budget('estate', '999');
        $data = ['of' => 'team:lab', 'amount' => '1', 'period' => 'month', 'currency' => 'EUR', 'from' => '2026-11'];
        foreach ([
            'of' => ['', 'team:nobody', 'cluster:none', 'lab', 'estate:'], 'amount' => ['', '-1', '1,5', '1e3'], 'period' => ['', 'year'],
            'currency' => ['', 'eur', 'EURO'], 'from' => ['', '2026-13', 'soon', '2026-11-01'],
        ] as $field => $wrong) {
            foreach ($wrong as $value) {
                $this->post('/meter/budgets', [$field => $value] + $data)->assertSessionHasErrors([$field]);
            }
        }
        self::assertSame(3, LedgerEntry::query()->where('act', 'set a budget')->count());
        foreach ([Role::Viewer, Role::Engineer, Role::Steward] as $role) {
            $this->actingAs($this->person($role))->post('/meter/budgets', $data)->assertForbidden();
            $this->get('/meter/budgets')->assertOk()->assertSee('pickers')->assertSee('Owners set budgets');
        }
        $viewer = $this->person(Role::Viewer);
        DB::table('usage_limits')->insert(['user_id' => $viewer->id, 'teams' => '["lab"]']);
        $this->actingAs($viewer)->get('/meter/budgets')->assertOk()->assertSee('lab')->assertDontSee('pickers')->assertDontSee('777')
            ->assertDontSee('999');
    }

    public function test_one_budget_of_the_demo_world_is_passed_on_about_the_21st(): void
    {
        $this->belong(new TeamMembership('ada', 'boards', 0, null), new TeamMembership('bren', 'forecast_lab', 0, null));
        foreach (['usage_hours', 'usage_facts', 'usage_days', 'usage_origin_days', 'usage_statement_days'] as $table) {
            DB::table($table)->delete();
        }
        app()->forgetScopedInstances();
        Artisan::call('usage:close --from=2026-10-01');
        app(DemoBudgets::class)->write(Clock::seconds());
        $marks = static fn (): array => array_map(
            static fn (Budget $one): bool => $one->use?->isPassed() === true,
            array_column(array_map(
                static fn (Budget $one): array => [$one->whose(), $one], app(Budgets::class)->all(Clock::seconds()),
            ), 1, 0),
        );
        self::assertSame(['boards' => false, 'forecast_lab' => false, 'all clusters' => false], $marks());
        // 21 days at 8 a day: it is passed on the 22nd if nothing changes.
        self::assertSame('168.00', (string) app(Budgets::class)->all(Clock::seconds())[1]->amount);
    }
}
