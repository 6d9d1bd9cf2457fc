<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Models\Cluster;
use App\Estate\Pricing\MoneyRates;
use App\Ledger\Models\Change;
use App\Ledger\Models\Finding;
use App\Ledger\Models\ProofRecord;
use App\Overview\Application\Gain;
use App\Overview\Application\Gains;
use App\Overview\Charts\RoundFigure;
use App\Platform\Support\Clock;
use App\Platform\Support\Money;
use App\Platform\Support\Role;
use Brick\Math\BigDecimal;
use Fulcrion\Core\Cost\Rates;
use Fulcrion\Core\Proofs\Measured;
use Fulcrion\Core\Proofs\Proof;
use Fulcrion\Core\Proofs\ProofLine;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\Attributes\TestWith;
use SimpleXMLElement;
use Tests\TestCase;

/**
 * What the first page draws: what could be gained, what is rehearsed, what is proven, and promises that were broken.
 */
#[Group('today')]
final class RoundTest extends TestCase
{
    private const HOUR_US = 3.6e9;

    private Cluster $cluster;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow('2026-11-29 12:00:00');
        $this->cluster = $this->cluster();
        // An hour of each statement a day, so seven a week.
        $records = [];
        foreach (range(15, 28) as $day) {
            foreach (['SELECT a', 'SELECT b'] as $i => $sql) {
                $records[] = [
                    'started_at' => (int) strtotime("2026-11-{$day} 0".(4 + $i).':00 UTC'), 'duration_us' => 3_600_000_000, 'sql' => $sql,
                    'user' => 'ada',
                ];
            }
        }
        Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'fernhill']);
    }

    /**
     * @param  array<int, string>  $currencies by cluster; those without have no price
     */
    private function priced(array $currencies): void
    {
        $this->app->instance(MoneyRates::class, new class($currencies) implements MoneyRates
        {
            /** @param  array<int, string>  $currencies */
            public function __construct(private array $currencies)
            {
            }

            public function of(Cluster $cluster): ?Rates
            {
                return isset($this->currencies[$cluster->id])
                    ? new Rates($this->currencies[$cluster->id], BigDecimal::of(10), BigDecimal::of(2)) : null;
            }

            public function currency(): string
            {
                return 'EUR';
            }
        });
    }

    /**
     * @param  array<string, float>  $byStatement hours a week by text
     */
    private function found(
        string $object,
        float $hours,
        array $byStatement = [],
        string $unit = 'query time',
        ?Cluster $cluster = null,
    ): Finding {
        static $n = 0;
        $finding = Finding::query()->create([
            'cluster_id' => ($cluster ?? $this->cluster)->id, 'source' => 'storage', 'rule' => 'skew', 'object' => $object,
            'digest' => 'd'.$n++, 'severity' => 'act', 'problem' => "About {$object}", 'evidence' => [], 'weight' => $hours * self::HOUR_US,
            'weight_unit' => $unit, 'state' => 'open', 'first_us' => 1, 'last_us' => 1, 'changed_us' => 1, 'remedy' => '',
        ]);
        foreach ($byStatement as $sql => $us) {
            DB::table('finding_statements')->insert([
                'finding_id' => $finding->id, 'fingerprint' => $this->fingerprint($sql), 'weight_us' => $us * self::HOUR_US,
            ]);
        }

        return $finding;
    }

    private function fingerprint(string $sql): string
    {
        return (string) DB::table('statements')->where('text', $sql)->value('fingerprint');
    }

    /**
     * @param  array<string, array{int, int}>  $times statement => milliseconds before and after
     */
    private function change(string $object, string $state, array $times, ?Finding $finding = null, int $daysAgo = 0): Change
    {
        $at = ((int) strtotime('2026-11-28 12:00 UTC') - $daysAgo * 86_400) * 1_000_000;
        $change = Change::query()->create([
            'cluster_id' => $this->cluster->id, 'object' => $object, 'title' => "Mend {$object}", 'kind' => 'index', 'inverse' => 'none',
            'sealed_steps' => [], 'sealed_inverse' => [], 'workload' => [], 'asked_us' => 1, 'asked_by' => 'x', 'state' => $state,
            'applied_us' => $state === 'applied' ? $at : null, 'finding_id' => $finding?->id,
            'expected' => ['savedUs' => 3.6e9, 'savedBytes' => 0, 'costUs' => 0, 'costBytes' => 0, 'worse' => []],
        ]);
        $lines = [];
        foreach ($times as $sql => [$before, $after]) {
            $measured = static fn (int $ms): Measured => new Measured(0, 0, 0, null, $ms * 1000, $ms * 1000, 1.0, 1, 'd');
            $lines[] = new ProofLine($this->fingerprint($sql), $sql, 7.0, $measured($before), $measured($after));
        }
        ProofRecord::keep($change, $state === 'applied' ? 'applied' : 'rehearsal', new Proof($lines), 'Owner', []);
        ProofRecord::query()->where('change_id', $change->id)->update(['made_us' => $at]);

        return $change;
    }

    /**
     * @return array<string, list<float|string>> possible, rehearsed and proven by object, rounded; and the day a promise broke
     */
    private function drawn(): array
    {
        $drawn = [];
        foreach (app(Gains::class)->all(Clock::microseconds())[0] as $one) {
            $drawn[$one->name] = [
                round($one->possible, 2), round($one->rehearsed, 2), round($one->proven, 2),
                ...$one->brokenUs === null ? [] : [gmdate('j M', intdiv($one->brokenUs, 1_000_000))],
            ];
        }

        return $drawn;
    }

    public function test_nothing_found_draws_nothing(): void
    {
        $this->actingAs($this->person(Role::Viewer))->get('/')->assertOk()->assertDontSee('What could be gained');
    }

    public function test_the_time_of_a_statement_is_gained_once(): void
    {
        // Both findings of the table cost the same statement its time; one of them costs two more hours nobody is named for.
        $this->found('farm.pick', 3, ['SELECT a' => 3]);
        $this->found('farm.pick', 6, ['SELECT a' => 4]);
        // So many hours a week are so many a month.
        $month = static fn (float $hours): float => round($hours * 30.436875 / 7, 2);
        self::assertSame(['farm.pick' => [$month(6), 0.0, 0.0]], $this->drawn());
        // Half of what the statement itself is accused of comes of the table.
        $this->found('statement:'.$this->fingerprint('SELECT a'), 8);
        self::assertSame([$month(6), $month(4)], array_column($this->drawn(), 0));
        // In money: ten an hour in flight, and what is no time in flight counts by its own price.
        $this->found('job:fold', 5, unit: 'worker time');
        self::assertCount(2, $this->drawn(), 'worker time is not added to query time');
        $this->priced([$this->cluster->id => 'EUR']);
        self::assertSame(
            [[260.89, 0.0, 0.0], [173.93, 0.0, 0.0], [43.48, 0.0, 0.0]],
            array_values($this->drawn()),
        );
    }

    public function test_what_is_rehearsed_is_hatched_and_what_is_proven_is_filled(): void
    {
        $this->priced([$this->cluster->id => 'EUR']);
        $this->found('farm.pick', 7, ['SELECT a' => 7]);
        // Two ways to save the same statement its time, the better one two thirds of seven hours; the other one also mends another.
        $this->change('farm.pick', 'rehearsed', ['SELECT a' => [900, 300]]);
        $this->change('farm.pick', 'approved', ['SELECT a' => [900, 450], 'SELECT b' => [100, 75]]);
        $month = static fn (float $hours): float => round($hours * 10 * 30.436875 / 7, 2);
        self::assertEqualsWithDelta([$month(7 - 7 * 2 / 3 - 7 / 4), $month(7 * 2 / 3 + 7 / 4), 0.0], $this->drawn()['farm.pick'], 0.02);
        // Applied within four weeks it is proven, before that it is what is usual.
        $this->change('farm.bay', 'applied', ['SELECT b' => [100, 50]]);
        $this->change('farm.old', 'applied', ['SELECT b' => [100, 50]], daysAgo: 28);
        self::assertEqualsWithDelta([0.0, 0.0, $month(3.5)], $this->drawn()['farm.bay'], 0.02);
        self::assertArrayNotHasKey('farm.old', $this->drawn());
        // What costs more than before gains nothing.
        $this->change('farm.worse', 'rehearsed', ['SELECT b' => [100, 300]]);
        self::assertArrayNotHasKey('farm.worse', $this->drawn());
    }

    public function test_a_promise_that_was_broken_stands_first_with_its_day(): void
    {
        $this->found('farm.large', 50);
        $finding = $this->found('farm.pick', 1);
        $this->change('farm.pick', 'applied', ['SELECT a' => [900, 300]], $finding, 5);
        // A finding from before the change waits for its next check.
        self::assertSame('farm.large', (string) array_key_first($this->drawn()));
        $finding->update(['changed_us' => (int) strtotime('2026-11-26 UTC') * 1_000_000]);
        self::assertSame('26 Nov', $this->drawn()['farm.pick'][3]);
        self::assertSame('farm.pick', (string) array_key_first($this->drawn()));
        // Dismissed or solved it is no promise that is broken now.
        $finding->update(['state' => 'solved']);
        self::assertCount(3, $this->drawn()['farm.pick']);
        // A proof that does not hold.
        ProofRecord::query()->update(['holds' => false]);
        self::assertSame('23 Nov', $this->drawn()['farm.pick'][3]);
        $html = (string) $this->actingAs($this->person(Role::Viewer))->get('/')->assertOk()->getContent();
        self::assertMatchesRegularExpression('~broken-flag.*23 Nov~s', $html);
    }

    public function test_seven_have_a_bar_and_the_others_one(): void
    {
        foreach (range(1, 8) as $i) {
            $this->found("farm.t{$i}", $i);
        }
        self::assertSame(range(8, 1, -1), array_map(static fn (string $one): int => (int) substr($one, 6), array_keys($this->drawn())));
        foreach (range(9, 11) as $i) {
            $this->found("farm.t{$i}", $i);
        }
        $drawn = $this->drawn();
        self::assertSame(['farm.t11', '4 more'], [array_key_first($drawn), array_key_last($drawn)]);
        self::assertCount(8, $drawn);
        self::assertEqualsWithDelta((1 + 2 + 3 + 4) * 30.436875 / 7, $drawn['4 more'][0], 0.01);
    }

    public function test_only_what_has_a_place_on_the_axis_is_drawn_and_the_rest_is_counted(): void
    {
        $other = $this->cluster('wren');
        $this->found('farm.pick', 1);
        $this->found('farm.bay', 2, cluster: $other);
        self::assertSame(['farm.bay, Wren', 'farm.pick, Fernhill'], array_keys($this->drawn()));
        $this->priced([$this->cluster->id => 'EUR']);
        self::assertSame(['farm.pick'], array_keys($this->drawn()));
        $this->actingAs($this->person(Role::Viewer))->get('/')->assertSee('Not drawn: 1 object without a price.');
        // Two currencies have no axis in common.
        $this->priced([$this->cluster->id => 'EUR', $other->id => 'CHF']);
        [$gains, $currency] = app(Gains::class)->all(Clock::microseconds());
        self::assertSame([2, ''], [count($gains), $currency]);
    }

    public function test_bars_are_as_long_as_what_they_stand_for(): void
    {
        $links = ['possible' => '/a', 'rehearsed' => '/b', 'proven' => '/c', 'broken' => '/d'];
        $figure = RoundFigure::draw([
            new Gain('farm.<pick> with a name that is much too long for its place', 100.0, 50.0, 25.0, 1_700_000_000_000_000, $links),
            new Gain('none', 0.0, 0.0, 0.0, 1_700_000_000_000_000, ['possible' => '', 'rehearsed' => '', 'proven' => '', 'broken' => '/d']),
        ], 'EUR', 'So it is', 0);
        $svg = new SimpleXMLElement($figure->svg);
        $svg->registerXPathNamespace('s', 'http://www.w3.org/2000/svg');
        $bars = [];
        foreach (['after-bar', 'rehearsed-bar', 'before-bar'] as $class) {
            $found = (array) $svg->xpath("//*[@class='{$class}']");
            self::assertCount(1, $found, $class);
            $bars[$class] = [(float) $found[0]['x'], (float) $found[0]['width'] + 1];
        }
        // One after the other, in proportion.
        self::assertEqualsWithDelta(2.0, $bars['rehearsed-bar'][1] / $bars['after-bar'][1], 0.02);
        self::assertEqualsWithDelta(4.0, $bars['before-bar'][1] / $bars['after-bar'][1], 0.03);
        self::assertEqualsWithDelta($bars['after-bar'][0] + $bars['after-bar'][1], $bars['rehearsed-bar'][0], 0.2);
        self::assertCount(2, (array) $svg->xpath("//*[@class='broken-flag']"));
        self::assertSame(["100\u{A0}EUR", "50.0\u{A0}EUR", "25.0\u{A0}EUR", '14 Nov 2023'], array_slice($figure->rows[0], 1));
    }

    #[TestWith([0.0, '0'])]
    #[TestWith([1.234, '1.23'])]
    #[TestWith([12.34, '12.3'])]
    #[TestWith([546.41, '546'])]
    #[TestWith([12_345.0, "12\u{202F}300"])]
    #[TestWith([-0.001, "\u{2212}0.00"])]
    public function test_figures_say_three_digits(float $sum, string $said): void
    {
        self::assertSame("{$said}\u{A0}EUR", Money::short($sum, 'EUR'));
    }
}
