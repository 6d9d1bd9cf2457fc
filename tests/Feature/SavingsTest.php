<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Cost\Application\Saved;
use App\Cost\Application\Savings;
use App\Cost\Charts\SavingsFigure;
use App\Estate\Models\Cluster;
use App\Estate\Pricing\MoneyRates;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Ledger\Models\ProofRecord;
use App\Ledger\Proofs\Promise;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use App\Telemetry\Usage\UsageLimits;
use Fulcrion\Core\Proofs\Measured;
use Fulcrion\Core\Proofs\Proof;
use Fulcrion\Core\Proofs\ProofLine;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use Random\Engine\Mt19937;
use Random\Randomizer;
use SimpleXMLElement;
use Tests\TestCase;

/**
 * What time is worth, what proofs promise, and what was really saved.
 */
#[Group('today')]
final class SavingsTest extends TestCase
{
    private Cluster $cluster;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow('2026-11-29 00:00:00');
        $this->cluster = $this->cluster();
    }

    /**
     * On each day from one to another so many executions of a statement, of so many minutes each.
     *
     * @param  array<string, array{int, int, int, float}>  $runs statement => first day of November, last, executions a day, minutes
     * @return list<array<string, mixed>>
     */
    private static function runs(array $runs): array
    {
        $records = [];
        foreach ($runs as $key => [$first, $last, $count, $minutes]) {
            foreach (range($first, $last) as $day) {
                for ($i = 0; $i < $count; $i++) {
                    $records[] = [
                        'started_at' => (int) strtotime(sprintf('2026-11-%02d 08:00 UTC', $day)) + $i * 3_600,
                        'duration_us' => (int) round($minutes * 60e6), 'sql' => explode('|', $key)[0], 'user' => 'ada',
                    ];
                }
            }
        }

        return $records;
    }

    /**
     * @param  array<string, array{int, int, int, float}>  $runs
     */
    private function ran(array $runs): void
    {
        Artisan::call('telemetry:import', ['file' => $this->file(self::runs($runs)), '--cluster' => 'fernhill']);
        Artisan::call('usage:close');
    }

    /** Ten nodes at an hourly price, all of which goes to what runs. */
    private function priced(string $amount = '1'): void
    {
        $this->actingAs($this->person(Role::Owner));
        $this->post('/meter/prices/fernhill', ['kind' => 'node_hour', 'amount' => $amount, 'from' => '2026-01-01', 'quantity' => '10'])
            ->assertSessionHas('done');
        $this->post('/meter/prices/fernhill/rule', ['currency' => 'EUR', 'follows' => 'in_flight_us', 'idle' => 'in_proportion']);
    }

    /**
     * @param  array<string, array{int, int}>  $times statement => milliseconds before and after
     */
    private function applied(string $title, string $at, array $times, ?string $undone = null): Change
    {
        $us = static fn (?string $moment): ?int => $moment === null ? null : (int) strtotime("{$moment} UTC") * 1_000_000;
        $change = Change::query()->create([
            'cluster_id' => $this->cluster->id, 'object' => 'farm.pick', 'title' => $title, 'kind' => 'index', 'inverse' => 'none',
            'sealed_steps' => [], 'sealed_inverse' => [], 'workload' => [], 'asked_us' => 1, 'asked_by' => 'x',
            'state' => $undone === null ? 'applied' : 'undone', 'applied_us' => $us($at), 'undone_us' => $us($undone),
            'expected' => ['savedUs' => 3.6e9, 'savedBytes' => 0, 'costUs' => 0, 'costBytes' => 0, 'worse' => []],
        ]);
        $lines = [];
        foreach ($times as $sql => [$before, $after]) {
            $measured = static fn (int $ms): Measured => new Measured(0, 0, 0, null, $ms * 1000, $ms * 1000, 1.0, 1, 'd');
            $lines[] = new ProofLine($this->fingerprint($sql), $sql, 7.0, $measured($before), $measured($after));
        }
        ProofRecord::keep($change, 'applied', new Proof($lines), 'Owner', []);
        ProofRecord::query()->where('change_id', $change->id)->update(['made_us' => $us($at)]);

        return $change;
    }

    private function fingerprint(string $sql): string
    {
        return (string) DB::table('statements')->where('text', $sql)->value('fingerprint');
    }

    /**
     * @return array<string, Saved> by title
     */
    private function saved(): array
    {
        $all = [];
        foreach (app(Savings::class)->all(Clock::seconds()) as $one) {
            $all[$one->change->title] = $one;
        }

        return $all;
    }

    public function test_an_hour_in_flight_costs_what_the_cluster_cost_over_the_hours_there_were(): void
    {
        // Ten hours in flight in ten days of ten nodes at a euro: 240 euro each.
        $this->ran(['SELECT a' => [19, 28, 1, 60.0]]);
        $rates = static fn (): ?string => app(MoneyRates::class)->of(Cluster::query()->firstOrFail())?->inFlightHour?->stripTrailingZeros()
            ->__toString();
        self::assertNull($rates());
        $this->priced();
        $this->app->forgetScopedInstances();
        self::assertSame('240', $rates());
        // Idle time is not theirs where it has a line of its own: an hour of 24 ran.
        $this->post('/meter/prices/fernhill/rule', ['currency' => 'EUR', 'follows' => 'in_flight_us', 'idle' => 'own_line']);
        $this->app->forgetScopedInstances();
        self::assertSame('10', $rates());
        // Another price, another rate, at once.
        $this->post('/meter/prices/fernhill', ['kind' => 'node_hour', 'amount' => '3', 'from' => '2026-11-01', 'quantity' => '10']);
        $this->app->forgetScopedInstances();
        self::assertSame('30', $rates());
    }

    public function test_what_ran_faster_since_is_saved_however_often_it_ran(): void
    {
        $this->priced();
        // Half an hour each before, ten minutes since, twice as often; and one the change did nothing for.
        $this->ran(['SELECT a' => [1, 14, 1, 30.0], 'SELECT a|' => [16, 28, 2, 10.0], 'SELECT b' => [1, 28, 1, 12.0]]);
        $this->applied('Make an index', '2026-11-15 09:30', ['SELECT a' => [900, 300], 'SELECT b' => [50, 50]]);
        $one = $this->saved()['Make an index'];
        // Promised: of six half hours of the week before to the minute, two thirds.
        self::assertEqualsWithDelta(6 * 30 * 60e6 * 2 / 3, $one->promisedUs, 1.0);
        // Really: 26 executions in 13 days, twenty minutes less each.
        self::assertSame([13, 2, 2], [$one->days, count($one->statements), $one->compared]);
        self::assertEqualsWithDelta(26 * 20 * 60e6 * 7 / 13, $one->savedUs, 1.0);
        self::assertSame(['as promised', 'calm'], [$one->standing(), $one->mark()]);
        // In 28 days 6,720 euro for 7 h + 4 h 20 min + 5 h 36 min in flight.
        $hour = 6720 / (7 + 26 / 6 + 5.6);
        self::assertSame(sprintf('%.2F', round(26 / 3 * 7 / 13 * $hour * 30.436875 / 7, 2)), (string) $one->savedMoney);
        $page = $this->get('/meter/savings')->assertOk()->assertSee('1 change saves')->assertSee('as promised')->assertSee('2 of 2');
        $page->assertSee('class="before-bar"', false)->assertSee('class="after-bar"', false);
        $rows = json_decode($this->get('/meter/savings/export/json')->streamedContent(), true);
        self::assertSame((string) $one->savedMoney, $rows[0]['saved_per_month']);
        self::assertSame((int) round((float) $one->promisedUs), $rows[0]['promised_us_per_week']);
    }

    public function test_days_after_another_change_of_the_same_statement_belong_to_that_one(): void
    {
        $this->priced();
        $this->ran(['SELECT a' => [1, 9, 1, 60.0], 'SELECT a|' => [11, 19, 1, 40.0], 'SELECT a||' => [21, 28, 1, 10.0]]);
        $this->applied('First', '2026-11-10 12:00', ['SELECT a' => [60, 40]]);
        $this->applied('Second', '2026-11-20 12:00', ['SELECT a' => [40, 10]]);
        $all = $this->saved();
        self::assertSame([9, 8], [$all['First']->days, $all['Second']->days]);
        self::assertEqualsWithDelta(7 * 20 * 60e6, $all['First']->savedUs, 1.0);
        self::assertEqualsWithDelta(7 * 30 * 60e6, $all['Second']->savedUs, 1.0);
        $total = Savings::total(array_values($all));
        self::assertSame(2, $total['of'] ?? 0);
        self::assertSame(
            (string) $all['First']->savedMoney?->plus($all['Second']->savedMoney ?? 0),
            (string) ($total['saved'] ?? ''),
        );
        // Of another statement, they do not disturb each other.
        DB::table('proofs')->where('change_id', $all['Second']->change->id)->update(['measured' => '[]']);
        self::assertSame(18, $this->saved()['First']->days);
        self::assertNull($this->saved()['Second']->savedUs);
    }

    public function test_broken_promises_are_told(): void
    {
        $this->priced();
        $this->ran([
            'SELECT a' => [1, 14, 1, 60.0], 'SELECT a|' => [16, 28, 1, 55.0],
            'SELECT b' => [1, 14, 1, 20.0], 'SELECT b|' => [16, 28, 1, 25.0],
            'SELECT c' => [1, 14, 1, 20.0], 'SELECT d' => [1, 14, 1, 20.0], 'SELECT d|' => [16, 28, 1, 10.0],
        ]);
        $this->applied('Little', '2026-11-15 09:30', ['SELECT a' => [60, 30]]);
        $this->applied('Worse', '2026-11-15 09:30', ['SELECT b' => [60, 30]]);
        $this->applied('Never again', '2026-11-15 09:30', ['SELECT c' => [60, 30]]);
        $this->applied('Undone', '2026-11-15 09:30', ['SELECT d' => [60, 30]], '2026-11-18 10:00');
        $this->applied('Today', '2026-11-28 09:30', ['SELECT d' => [60, 30]]);
        $said = array_map(static fn (Saved $one): array => [$one->standing(), $one->mark(), $one->days], $this->saved());
        self::assertEquals([
            'Little' => ['less than promised', 'watch', 13],
            'Worse' => ['takes longer than before', 'act', 13],
            'Never again' => ['none of its statements ran both before and since', 'no data', 13],
            'Undone' => ['undone', 'no data', 2],
            'Today' => ['in force for less than a whole day', 'no data', 0],
        ], $said);
        $this->get('/meter/savings')->assertOk()->assertSee('2 changes save')->assertSee('less than promised')->assertSee('not known yet');
    }

    public function test_nothing_applied_no_price_and_limited_viewers(): void
    {
        $this->actingAs($this->person(Role::Viewer))->get('/meter/savings')->assertOk()->assertSee('No change was applied yet');
        $this->ran(['SELECT a' => [1, 14, 1, 60.0], 'SELECT a|' => [16, 28, 1, 55.0]]);
        $this->applied('Cheap', '2026-11-15 09:30', ['SELECT a' => [60, 55]]);
        // Without a price it is told in time.
        $this->get('/meter/savings')->assertOk()->assertSee('1 change saves 35 min of time in flight a week')
            ->assertSee('30 min a week');
        $viewer = $this->person(Role::Viewer);
        UsageLimits::set($viewer, ['unassigned']);
        $this->actingAs($viewer)->get('/meter/savings')->assertForbidden();
        $this->get('/meter/savings/export/csv')->assertForbidden();
    }

    public function test_findings_changes_and_proofs_say_what_they_are_worth(): void
    {
        $this->ran(['SELECT a' => [1, 28, 1, 60.0]]);
        $finding = Finding::query()->create([
            'cluster_id' => $this->cluster->id, 'source' => 'storage', 'rule' => 'skew', 'object' => 'farm.pick', 'digest' => 'd',
            'severity' => 'act', 'problem' => 'It leans', 'evidence' => [], 'weight' => 3.6e9, 'weight_unit' => 'query time',
            'state' => 'open', 'first_us' => 1, 'last_us' => 1, 'changed_us' => 1, 'remedy' => '',
        ]);
        $change = $this->applied('Make an index', '2026-11-28 09:30', ['SELECT a' => [60, 30]]);
        $this->actingAs($this->person(Role::Viewer));
        $pages = ['/', '/ledger/findings', "/ledger/findings/{$finding->id}", '/ledger/changes', "/ledger/changes/{$change->id}"];
        foreach ($pages as $page) {
            $this->get($page)->assertOk()->assertDontSee('EUR');
        }
        $this->priced('0.7');
        $this->app->forgetScopedInstances();
        // Seven euro an hour, 24 hours for one in flight: 168 a hour; one a week is 4.348125 a month.
        foreach ($pages as $page) {
            $this->get($page)->assertOk()->assertSee("730.49\u{A0}EUR");
        }
        $this->get('/')->assertSee("of query time a week, about 730.49\u{A0}EUR a month");
        // An hour a day is seven a week, less what belongs to the five minutes that are not over.
        $statement = $this->fingerprint('SELECT a');
        $this->get("/tune/statements/{$statement}?cluster=fernhill&window=last+7+days")->assertOk()
            ->assertSee("about 5\u{202F}111\u{A0}EUR a month");
        // Half of seven hours.
        $proof = $change->latestProof('applied');
        $this->get("/ledger/proofs/{$proof?->id}")
            ->assertSee("saves 3 h 30 min of time in flight a week, about 2\u{202F}557\u{A0}EUR a month");
        $this->get("/ledger/proofs/{$proof?->id}/file")->assertSee("about 2\u{202F}557\u{A0}EUR a month");
        $rows = json_decode($this->get('/ledger/findings/export/json')->streamedContent(), true);
        self::assertSame(['730.49', 'EUR'], [$rows[0]['per_month'], $rows[0]['currency']]);
        $rows = json_decode($this->get('/ledger/changes/export/json')->streamedContent(), true);
        self::assertSame(['730.49', 'EUR'], [$rows[0]['expected_saved_per_month'], $rows[0]['currency']]);
        // Time of workers and bytes have prices of their own.
        $finding->update(['weight_unit' => 'worker time']);
        self::assertSame('', Finding::query()->firstOrFail()->worth());
        foreach (['worker_hour' => '0.5', 'storage_gib_month' => '0.02'] as $kind => $amount) {
            $this->post('/meter/prices/fernhill', ['kind' => $kind, 'amount' => $amount, 'from' => '2026-11-01'])->assertSessionHas('done');
        }
        $this->app->forgetScopedInstances();
        self::assertSame("2.17\u{A0}EUR a month", Finding::query()->firstOrFail()->worth());
        $finding->update(['weight_unit' => 'bytes', 'weight' => 1_099_511_627_776.0]);
        self::assertSame("20.48\u{A0}EUR a month", Finding::query()->firstOrFail()->worth());
        $this->get('/meter/cost?days=2026-11-01+to+2026-11-28')->assertSee("4\u{202F}704.00\u{A0}EUR");
    }

    public function test_the_figure_has_a_hollow_and_a_filled_bar_a_change_as_long_as_their_money(): void
    {
        $this->priced();
        $this->ran([
            'SELECT a' => [1, 14, 1, 60.0], 'SELECT a|' => [16, 28, 1, 30.0],
            'SELECT b' => [1, 14, 1, 20.0], 'SELECT b|' => [16, 28, 1, 40.0],
        ]);
        $this->applied('Half', '2026-11-15 00:00', ['SELECT a' => [60, 30]]);
        $this->applied('Worse', '2026-11-15 00:00', ['SELECT b' => [60, 30]]);
        $all = $this->saved();
        $figure = SavingsFigure::draw([$all['Half'], $all['Worse']], 'Said');
        $svg = simplexml_load_string($figure->svg);
        self::assertNotFalse($svg);
        $bars = [];
        foreach ((array) $svg->xpath('//*[local-name()="rect"]') as $bar) {
            self::assertInstanceOf(SimpleXMLElement::class, $bar);
            $bars[] = [(string) $bar['class'], (float) $bar['x'], (float) $bar['width']];
        }
        self::assertSame(['before-bar', 'after-bar', 'before-bar', 'after-bar worse'], array_column($bars, 0));
        // Promised seven half hours a week, and as much was saved; the other was promised a third of that and costs twice it.
        self::assertEqualsWithDelta($bars[0][2], $bars[1][2], 0.2);
        self::assertEqualsWithDelta($bars[0][2] / 3, $bars[2][2], 0.2);
        self::assertEqualsWithDelta($bars[2][2] * 2, $bars[3][2], 0.4);
        self::assertSame($bars[0][1], $bars[2][1], 'both begin at nothing');
        self::assertEqualsWithDelta($bars[0][1], $bars[3][1] + $bars[3][2], 0.2, 'what costs more stands left of it');
        self::assertSame(['Half', 'Worse'], array_column($figure->rows, 0));
        self::assertSame([$all['Half']->promised(), $all['Half']->really(), 'as promised'], array_slice($figure->rows[0], 1));
        self::assertSame('takes longer than before', $figure->rows[1][3]);
        self::assertSame(4, substr_count($figure->svg, '<a href="/ledger/changes/'));
    }

    public function test_savings_of_random_worlds_are_what_one_counts_by_hand(): void
    {
        $this->priced();
        $random = new Randomizer(new Mt19937(20));
        $runs = $expected = $times = [];
        foreach (range('a', 'n') as $name) {
            [$before, $after] = [$random->getInt(0, 4), $random->getInt(0, 4)];
            [$long, $short] = [$random->getInt(1, 40), $random->getInt(1, 40)];
            if ($before > 0) {
                $runs["SELECT {$name}"] = [1, 14, $before, (float) $long];
            }
            if ($after > 0) {
                $runs["SELECT {$name}|"] = [16, 28, $after, (float) $short];
            }
            if ($before + $after > 0) {
                $times["SELECT {$name}"] = [60, 30];
            }
            if ($before > 0 && $after > 0) {
                $expected[$name] = $after * 13 * ($long - $short) * 60e6 * 7 / 13;
            }
        }
        self::assertGreaterThan(3, count($expected));
        $this->ran($runs);
        $this->applied('All', '2026-11-15 12:00', $times);
        $one = $this->saved()['All'];
        self::assertEqualsWithDelta(array_sum($expected), $one->savedUs, 10.0);
        self::assertSame([count($times), count($expected)], [count($one->statements), $one->compared]);
        // One statement at a time they add up to the same.
        $sum = 0.0;
        foreach (array_keys($times) as $sql) {
            Change::query()->delete();
            $this->applied('One', '2026-11-15 12:00', [$sql => [60, 30]]);
            $sum += (float) $this->saved()['One']->savedUs;
        }
        self::assertEqualsWithDelta($one->savedUs, $sum, 10.0);
    }

    public function test_a_promise_is_of_the_load_of_the_week_before_and_the_share_of_the_proof(): void
    {
        $this->ran(['SELECT a' => [1, 28, 2, 10.0], 'SELECT b' => [20, 28, 1, 30.0]]);
        $of = fn (array $times): ?float => app(Promise::class)->usPerWeek(
            $this->applied('P', '2026-11-28 23:00', $times)->latestProof('applied') ?? self::fail('it has a proof'),
        );
        // Fourteen of ten minutes, and seven of thirty.
        self::assertEqualsWithDelta(14 * 10 * 60e6 * 0.75, $of(['SELECT a' => [80, 20]]), 1.0);
        self::assertEqualsWithDelta(7 * 30 * 60e6 * 0.5, $of(['SELECT b' => [80, 40]]), 1.0);
        self::assertEqualsWithDelta(
            14 * 10 * 60e6 * 0.75 - 7 * 30 * 60e6,
            $of(['SELECT a' => [80, 20], 'SELECT b' => [40, 80]]),
            1.0,
        );
        self::assertSame(0.0, $of(['SELECT never' => [80, 20]]));
        self::assertNull($of([]));
    }
}
