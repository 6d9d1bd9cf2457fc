<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Cost\Application\BillPage;
use App\Cost\Application\Bills;
use App\Cost\Application\Prices;
use App\Estate\EstateCalendar;
use App\Ledger\Models\LedgerEntry;
use App\Platform\Support\Role;
use Brick\Math\BigDecimal;
use DateTimeZone;
use Fulcrion\Core\Cost\Bill\Agreement;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Tools\Demo\DemoBill;
use Fulcrion\Tools\Demo\DemoPrices;
use Illuminate\Http\UploadedFile;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Testing\TestResponse;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\Attributes\TestWith;
use Symfony\Component\HttpFoundation\Response;
use Tests\TestCase;

/**
 * Bills of providers beside what was computed.
 */
#[Group('today')]
final class BillsTest extends TestCase
{
    private const HEAD = 'BillingAccountId,BilledCost,BillingCurrency,ChargeCategory,ChargePeriodStart,ChargePeriodEnd,ResourceId,'
        .'PricingQuantity,PricingUnit';

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow('2026-11-11 00:00:00');
        $this->cluster();
        $this->actingAs($this->person(Role::Owner));
        $this->price('node_hour', '1', ['quantity' => '2']);
    }

    /**
     * @param  array<string, string>  $more
     */
    private function price(string $kind, string $amount, array $more = []): void
    {
        $this->post('/meter/prices/fernhill', $more + ['kind' => $kind, 'amount' => $amount, 'from' => '2026-11-01'])
            ->assertSessionHas('done');
    }

    /** Executions of a TiB each at eight on all days but the fifth. */
    private function use(): void
    {
        $records = [];
        foreach ([1, 2, 3, 4, 6, 7, 8, 9, 10] as $day) {
            $records[] = [
                'started_at' => (int) strtotime(sprintf('2026-11-%02d 08:00 UTC', $day)), 'duration_us' => 60_000_000, 'sql' => 'SELECT a',
                'user' => 'ada', 'bytes_scanned' => 1_099_511_627_776,
            ];
        }
        Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'fernhill']);
        Artisan::call('usage:close');
    }

    /** Two nodes a day at a price. */
    private static function nodes(int $day, string $amount = '48', string $quantity = '48', string $resource = 'fernhill'): string
    {
        return sprintf(
            "acct,%s,EUR,Usage,2026-11-%02dT00:00:00Z,2026-11-%02dT00:00:00Z,%s,%s,Hours\n", $amount, $day, $day + 1, $resource, $quantity,
        );
    }

    /**
     * @param  array<string, string>  $more
     * @return TestResponse<Response>
     */
    private function read(string $text, array $more = [], string $name = 'bill.csv'): TestResponse
    {
        return $this->post('/meter/bills', $more + ['file' => UploadedFile::fake()->createWithContent($name, $text)]);
    }

    private function page(): BillPage
    {
        $bills = app(Bills::class);

        return BillPage::of($bills->all()[0], $bills, app(Prices::class));
    }

    /**
     * @return array<string, string> difference by what it is
     */
    private function differences(): array
    {
        $told = [];
        foreach ($this->page()->reconciliation->differences() as $match) {
            $told["{$this->page()->what($match)} {$match->agreement->value}"] = (string) $match->difference()->stripTrailingZeros();
        }

        return $told;
    }

    public function test_a_bill_is_explained_day_by_day(): void
    {
        $this->use();
        $this->price('node_hour', '1', ['quantity' => '0', 'from' => '2026-11-05']);
        $this->price('node_hour', '1', ['quantity' => '2', 'from' => '2026-11-06']);
        // The third and fourth at 1.25, the fifth billed though off and nothing ran, the seventh not billed, thanks of ten.
        $this->read(
            self::HEAD."\n".implode('', array_map(self::nodes(...), [1, 2])).self::nodes(3, '60').self::nodes(4, '60')
                .implode('', array_map(self::nodes(...), [5, 6, 8, 9])).self::nodes(10, '72', '72')
                ."acct,-10,EUR,Credit,2026-11-02,2026-11-03,fernhill,,\nacct,5,EUR,Tax,2026-11-02,2026-11-03,fernhill,,\n"
                ."acct,3,EUR,Usage,2026-11-02,2026-11-03,elsewhere,1,Hours\n",
        )->assertSessionHas('done');
        self::assertEqualsCanonicalizing([
            'nodes only_billed' => '3', 'credit only_billed' => '-10', 'tax only_billed' => '5', 'nodes other_price' => '24',
            'nodes only_computed' => '-48', 'nodes other_quantity' => '24',
        ], $this->differences());
        $unused = array_values(array_filter($this->page()->reconciliation->matches, static fn ($match): bool => $match->isUnused));
        self::assertSame(['48', 1], [(string) $unused[0]->difference()->stripTrailingZeros(), count($unused)]);
        $id = (int) DB::table('cost_bills')->value('id');
        $this->get("/meter/bills/{$id}")->assertOk()
            ->assertSee("is 46.00\u{A0}EUR above what was computed; 7 differences explain it")
            ->assertSee('Nothing ran on these days')
            ->assertSee('The bill has 1.25 for each on average, the price book 1:')
            ->assertSee('A credit, which no price book foresees')
            ->assertSee('Resources that are no cluster');
        $rows = json_decode($this->get("/meter/bills/{$id}/export/json")->streamedContent(), true);
        $sum = static fn (string $of): string => (string) BigDecimal::sum(...array_map(
            static fn (array $row): BigDecimal => BigDecimal::of($row[$of]), $rows,
        ))->stripTrailingZeros();
        self::assertSame(['478', '432', '46'], [$sum('billed'), $sum('computed'), $sum('difference')]);
        self::assertEqualsCanonicalizing(
            ['billed_unused', 'bill_other_price', 'bill_only_computed_less', 'bill_other_quantity'],
            DB::table('findings')->where('source', 'bill')->where('state', 'open')->pluck('rule')->all(),
        );
        // Whoever says what the resource is has it compared; nothing is asked any more once the bill is gone.
        $this->post("/meter/bills/{$id}/match", ['resource' => 'elsewhere', 'cluster' => 'fernhill'])->assertSessionHas('done');
        self::assertSame([], $this->page()->unknown());
        $this->post("/meter/bills/{$id}/match", ['resource' => 'nowhere', 'cluster' => 'fernhill'])->assertNotFound();
        self::assertSame('27', $this->differences()['nodes other_quantity'], 'the second day has an hour too many');
        $this->post("/meter/bills/{$id}/remove")->assertRedirect('/meter/bills');
        self::assertSame(0, DB::table('cost_bill_lines')->count());
        self::assertSame(0, DB::table('findings')->where('source', 'bill')->where('state', 'open')->count());
        self::assertSame(
            ['read a bill', 'said which cluster a resource of a bill is', 'removed a bill'],
            LedgerEntry::query()->where('act', 'like', '%bill%')->orderBy('number')->pluck('act')->all(),
        );
    }

    #[TestWith(['csv'])]
    #[TestWith(['parquet'])]
    public function test_what_we_write_out_is_read_in_again_and_agrees_to_the_last_digit(string $format): void
    {
        $this->use();
        $this->price('node_hour', '1.37', ['quantity' => '3', 'from' => '2026-11-04 07:13']);
        $this->price('scanned_tib', '2.10');
        $this->price('scanned_tib', '1.60', ['above' => '4']);
        $this->price('monthly_fee', '99.99');
        $this->price('discount', '3.5', ['from' => '2026-11-06']);
        $response = $this->get("/meter/cost/focus.{$format}?days=2026-11-01+to+2026-11-10")->assertOk();
        $this->read($response->streamedContent(), [], "own.{$format}")->assertSessionHas('done');
        $page = $this->page();
        self::assertTrue($page->reconciliation->difference()->isZero());
        self::assertTrue($page->reconciliation->billed()->isGreaterThan(500));
        self::assertSame([], $page->reconciliation->differences());
        self::assertCount(4, $page->reconciliation->matches);
        foreach ($page->reconciliation->matches as $match) {
            self::assertSame(Agreement::Agrees, $match->agreement);
            self::assertTrue($match->billed->isEqualTo($match->computed));
        }
        $this->get('/meter/bills')->assertOk()->assertSee('The bill agrees with the price book');
        self::assertSame([], DB::table('findings')->where('source', 'bill')->get()->all());
    }

    public function test_a_bill_is_never_read_twice(): void
    {
        $text = self::HEAD."\n".self::nodes(1).self::nodes(2);
        $this->read($text)->assertSessionHas('done');
        $this->read($text, [], 'again.csv')
            ->assertSessionHasErrors(['file' => 'This file was read before, as bill.csv. Nothing was read twice.']);
        $this->read(self::HEAD."\n".self::nodes(2, '50'))->assertSessionHasErrors('file');
        self::assertStringContainsString('bill.csv of the same account covers some of these days', (string) session('errors'));
        self::assertSame([1, 2], [DB::table('cost_bills')->count(), DB::table('cost_bill_lines')->count()]);
        $this->read(self::HEAD."\n".self::nodes(2, '50'), ['in_place' => '1'], 'better.csv')->assertSessionHas('done');
        self::assertSame([['better.csv'], 1], [
            DB::table('cost_bills')->pluck('file_name')->all(), DB::table('cost_bill_lines')->count(),
        ]);
        // Later days of the account are another bill.
        $this->read(self::HEAD."\n".self::nodes(3))->assertSessionHas('done');
        self::assertSame(2, DB::table('cost_bills')->count());
        $this->get('/meter/bills')->assertSee('1 of 2 bills differs from the price book');
    }

    public function test_another_currency_needs_a_rate_and_its_day(): void
    {
        $text = self::HEAD."\n".str_replace('EUR', 'CHF', self::nodes(1, '50'));
        $this->read($text)->assertSessionHasErrors([
            'file' => 'The bill is in CHF, the price book of Fernhill in EUR. Type how many EUR one CHF is, and on which day.',
        ]);
        $this->read($text, ['rate' => '0.96'])->assertSessionHasErrors('rate_on');
        $this->read($text, ['rate' => '0', 'rate_on' => '2026-11-02'])->assertSessionHasErrors('rate');
        $this->read($text, ['rate' => '0,96', 'rate_on' => '2026-11-02'])->assertSessionHasErrors('rate');
        self::assertSame(0, DB::table('cost_bills')->count());
        $this->read($text, ['rate' => '0.96', 'rate_on' => '2026-11-02'])->assertSessionHas('done');
        self::assertSame([], $this->differences(), '50 at 0.96 are 48');
        $this->get('/meter/bills/'.DB::table('cost_bills')->value('id'))
            ->assertSee('It is in CHF')
            ->assertSee('0.96 EUR, the rate of 2026-11-02');
    }

    #[TestWith(['2026-11-29 17:00:00'])]
    #[TestWith(['2026-11-28 01:00:00'])]
    #[TestWith(['2026-12-03 12:00:00'])]
    #[TestWith(['2026-11-29 17:00:00', 'America/New_York'])]
    #[TestWith(['2026-11-29 17:00:00', 'Asia/Tokyo'])]
    public function test_the_bill_of_the_demo_world_shows_its_price_change_its_weekend_and_its_credit(
        string $now,
        string $zone = 'UTC',
    ): void {
        Carbon::setTestNow($now);
        (new EstateCalendar())->set(new Calendar(new DateTimeZone($zone)));
        DB::table('cost_prices')->delete();
        $this->cluster('wren');
        $today = (int) strtotime(substr($now, 0, 10).' UTC');
        foreach (['fernhill', 'wren'] as $slug) {
            $records = [];
            for ($day = $today - 27 * 86_400; $day < $today; $day += 86_400) {
                if ($slug === 'fernhill' || gmdate('N', $day) < '6') {
                    $records[] = [
                        'started_at' => $day + 30_000, 'duration_us' => 60_000_000, 'sql' => 'SELECT a', 'user' => 'ada',
                        'bytes_scanned' => $slug === 'wren' ? 0 : 20 * 1_099_511_627_776,
                    ];
                }
            }
            Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => $slug]);
        }
        Artisan::call('usage:close');
        app(DemoPrices::class)->write($today);
        app(DemoBill::class)->write($today);
        $found = [];
        foreach (DB::table('findings')->where('source', 'bill')->where('state', 'open')->get() as $finding) {
            $found[] = strtok($finding->object, ':')." {$finding->rule}";
        }
        sort($found);
        // Of Wren nothing is asked where the price change fell on a weekend, when it is off, or is too little to ask for.
        self::assertSame([], array_diff($found, ['Fernhill bill_other_price', 'Wren bill_other_price', 'Wren billed_unused']));
        self::assertContains('Fernhill bill_other_price', $found);
        self::assertContains('Wren billed_unused', $found);
        $told = $this->differences();
        self::assertSame('-150', $told['credit only_billed']);
        self::assertArrayNotHasKey('bytes scanned other_price', $told);
        self::assertArrayNotHasKey('bytes scanned other_quantity', $told);
        self::assertArrayNotHasKey('nodes only_computed', $told);
        $fernhill = array_values(array_filter(
            $this->page()->reconciliation->differences(),
            static fn ($match): bool => $match->cluster === 'fernhill' && $match->agreement === Agreement::OtherPrice,
        ));
        // Two days and a half of 288 hours at six cents.
        self::assertSame('43.2', (string) $fernhill[0]->difference()->stripTrailingZeros());
    }

    public function test_what_is_no_bill_leaves_nothing_behind(): void
    {
        $this->read('')->assertSessionHasErrors('file');
        $this->read("a,b\n1,2\n")->assertSessionHasErrors('file');
        $this->read('PAR1'.str_repeat('x', 40), [], 'bill.parquet')->assertSessionHasErrors('file');
        $this->read(self::HEAD."\n".self::nodes(1).self::nodes(2, 'much'))->assertSessionHasErrors([
            'file' => 'Line 3: BilledCost is not a number with a point, as 12.5.',
        ]);
        $this->post('/meter/bills')->assertSessionHasErrors(['file' => 'Choose the file of the bill, as CSV or Parquet.']);
        self::assertSame(0, DB::table('cost_bills')->count());
        $this->get('/meter/bills')->assertOk()->assertSee('No bill has been read yet');
        $this->get('/meter/bills/999')->assertNotFound();
        $this->post('/meter/bills/999/remove')->assertNotFound();
        $this->get('/meter/cost/focus.csv?days=2025-01-01+to+2025-01-02')->assertOk();
        $this->get('/meter/cost/focus.parquet?days=2025-01-01+to+2025-01-02')->assertOk();
    }

    public function test_owners_read_bills_all_see_them_and_limited_viewers_do_not(): void
    {
        $this->read(self::HEAD."\n".self::nodes(1, '49'))->assertSessionHas('done');
        $id = (int) DB::table('cost_bills')->value('id');
        foreach ([Role::Viewer, Role::Engineer, Role::Steward] as $role) {
            $this->actingAs($this->person($role));
            $this->get('/meter/bills')->assertOk()->assertDontSee('Read it');
            $this->get("/meter/bills/{$id}")->assertOk()->assertDontSee('Remove this bill');
            $this->read(self::HEAD."\n".self::nodes(5))->assertForbidden();
            $this->post("/meter/bills/{$id}/match", ['resource' => 'fernhill', 'cluster' => 'fernhill'])->assertForbidden();
            $this->post("/meter/bills/{$id}/remove")->assertForbidden();
        }
        $viewer = $this->person(Role::Viewer);
        DB::table('usage_limits')->insert(['user_id' => $viewer->id, 'teams' => '["lab"]']);
        $this->actingAs($viewer);
        foreach (['bills', "bills/{$id}", "bills/{$id}/export/csv", 'cost/focus.csv', 'cost/focus.parquet'] as $address) {
            $this->get("/meter/{$address}")->assertForbidden();
        }
        self::assertSame(1, DB::table('cost_bills')->count());
    }
}
