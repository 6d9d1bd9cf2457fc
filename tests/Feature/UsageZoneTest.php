<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Cost\Application\ClusterCost;
use App\Cost\Application\Prices;
use App\Estate\EstateCalendar;
use App\Estate\Models\Cluster;
use App\Ledger\Models\LedgerEntry;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use App\Telemetry\Usage\UsageAxis;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use App\Usage\Application\DayFacts;
use App\Usage\Application\LongExecutions;
use App\Usage\Models\UsageRun;
use DateTimeImmutable;
use DateTimeZone;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\TeamMembership;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\TestWith;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\TestCase;

/**
 * Days by the clocks of the estate, of 23 and of 25 hours as well.
 */
final class UsageZoneTest extends TestCase
{
    private Cluster $cluster;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow('2026-11-05 12:00:00');
        $this->cluster = $this->cluster();
        $this->belong(new TeamMembership('ada', 'pickers', 0, null));
    }

    private function zone(string $zone): void
    {
        (new EstateCalendar())->set(new Calendar(new DateTimeZone($zone)));
    }

    /**
     * @return array<string, mixed>
     */
    private function ran(string|int $at, int $bytes, int $durationUs = 1_000): array
    {
        return [
            'started_at' => is_int($at) ? $at : (int) strtotime("{$at} UTC"), 'duration_us' => $durationUs, 'sql' => 'SELECT a',
            'user' => 'ada', 'bytes_scanned' => $bytes,
        ];
    }

    /**
     * @param  list<array<string, mixed>>  $records
     */
    private function import(array $records): void
    {
        Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'fernhill']);
    }

    private function scope(string $days): UsageScope
    {
        return UsageScope::within(Days::parse($days, app(Calendar::class)->shown(Clock::seconds())), UsageMeasure::Scanned);
    }

    /**
     * @return array<string, int> amount by the value of an axis of time
     */
    private function by(string $axis, string $days): array
    {
        $axis = UsageAxis::of($axis);
        self::assertNotNull($axis);
        $sums = app(UsageReader::class)->sumsBy($axis, $this->scope($days));
        ksort($sums);

        return $sums;
    }

    public function test_a_day_has_the_hours_its_clocks_have(): void
    {
        $this->zone('Europe/Berlin');
        $this->import([
            $this->ran('2026-10-24 21:30', 1), $this->ran('2026-10-24 22:30', 10), $this->ran('2026-10-25 00:30', 100),
            $this->ran('2026-10-25 01:30', 1_000), $this->ran('2026-10-25 22:30', 10_000), $this->ran('2026-10-25 23:30', 100_000),
        ]);
        Artisan::call('usage:close');
        $date = static fn (string $date): int => (int) strtotime("{$date} UTC");
        self::assertSame(
            [$date('2026-10-24') => 1, $date('2026-10-25') => 11_110, $date('2026-10-26') => 100_000],
            $this->by('day', '2026-10'),
        );
        // Between two and three there were two hours.
        self::assertSame(1_100, $this->by('daytime', '2026-10-25')[2]);
        self::assertSame([10, 100, 1_000, 10_000], array_values($this->by('hour', '2026-10-25')));
        $this->actingAs($this->person(Role::Owner))->get('/meter/explore?days=2026-10-25&rows=hour&columns=team')->assertOk()
            ->assertSee('02:00 (+02:00)')->assertSee('02:00 (+01:00)');
        // A node of one euro an hour costs what the day has hours.
        foreach (['2026-10-24' => '24.00', '2026-10-25' => '25.00', '2026-03-29' => '23.00', '2026-10' => '745.00'] as $days => $cost) {
            DB::table('cost_prices')->delete();
            $this->post('/meter/prices/fernhill', ['kind' => 'node_hour', 'amount' => '1', 'quantity' => '1', 'from' => '2026-01-01']);
            $of = ClusterCost::of($this->cluster, Days::parse($days, Clock::seconds()), app(Prices::class), Clock::seconds());
            self::assertSame($cost, (string) $of?->allocation->total, $days);
        }
        self::assertSame('2025-12-31 23:00', gmdate('Y-m-d H:i', (int) DB::table('cost_prices')->value('from_at')), 'midnight there');
        // What is written out as the provider's format has the same days.
        $focus = $this->get('/meter/cost/focus.csv?days=2026-10-25')->assertOk()->streamedContent();
        self::assertStringContainsString('2026-10-24T22:00:00Z,2026-10-25T23:00:00Z', $focus);
    }

    public function test_a_day_is_closed_an_hour_after_its_own_midnight(): void
    {
        $this->zone('America/New_York');
        $this->import([$this->ran('2026-11-04 15:00', 7)]);
        // Four hours after UTC's midnight it is still the fourth there.
        Carbon::setTestNow('2026-11-05 05:59:00');
        Artisan::call('usage:close');
        self::assertNull(DB::table('usage_days')->value('closed_at'));
        Carbon::setTestNow('2026-11-05 06:00:00');
        Artisan::call('usage:close');
        self::assertSame(Clock::seconds(), (int) DB::table('usage_days')->value('closed_at'));
        // What comes late is a correction of that day, dated by the clocks there.
        $this->import([$this->ran('2026-11-05 04:30', 5)]);
        Carbon::setTestNow('2026-11-06 03:00:00');
        Artisan::call('usage:close --again');
        self::assertSame(
            [(int) strtotime('2026-11-04 UTC'), (int) strtotime('2026-11-05 UTC')],
            array_values((array) DB::table('usage_facts')->where('bytes_scanned', 5)->first(['day_at', 'corrected_at'])),
        );
        self::assertSame(12, array_sum($this->by('hour', '2026-11-04')));
    }

    #[TestWith(['UTC'])]
    #[TestWith(['Europe/Berlin'])]
    #[TestWith(['America/New_York'])]
    #[TestWith(['Australia/Lord_Howe'])]
    #[TestWith(['Asia/Kolkata'])]
    #[TestWith(['Pacific/Kiritimati'])]
    public function test_the_zone_may_change_and_every_hour_is_in_one_day(string $zone): void
    {
        $random = new Randomizer(new Mt19937(3));
        $records = [];
        for ($i = 0; $i < 60; $i++) {
            $at = $random->getInt((int) strtotime('2026-10-22 UTC'), (int) strtotime('2026-11-04 23:00 UTC'));
            $records[] = $this->ran($at, $random->getInt(1, 1_000_000), $random->getInt(1, 9_000_000));
        }
        // The first day is wholly kept in either zone.
        $this->import([...$records, $this->ran('2026-10-20 12:00', 77)]);
        Artisan::call('usage:close');
        $this->actingAs($this->person(Role::Owner))->post('/meter/days/zone', ['zone' => $zone])->assertRedirect('/meter/days');
        $this->get('/meter/days')->assertOk()->assertSee("by the clocks of {$zone}");
        $there = new DateTimeZone($zone);
        $expected = ['day' => [], 'daytime' => []];
        $long = [];
        foreach ([...$records, $this->ran('2026-10-20 12:00', 77)] as $one) {
            // An hour belongs to where it begins.
            $hour = (new DateTimeImmutable('@'.($one['started_at'] - $one['started_at'] % 3_600)))->setTimezone($there);
            $day = (int) strtotime($hour->format('Y-m-d').' UTC');
            $expected['day'][$day] = ($expected['day'][$day] ?? 0) + $one['bytes_scanned'];
            $expected['daytime'][$hour->format('G')] = ($expected['daytime'][$hour->format('G')] ?? 0) + $one['bytes_scanned'];
            if ($one['duration_us'] > 4_000_000) {
                $long[$day] = ($long[$day] ?? 0) + 1;
            }
        }
        foreach ($expected as $axis => $sums) {
            ksort($sums);
            self::assertSame($sums, $this->by($axis, '2026-10-19 to 2026-11-05'), $axis);
        }
        $day = UsageAxis::day();
        $scope = $this->scope('2026-10-19 to 2026-11-05');
        $found = array_column(app(LongExecutions::class)->grid($day, $day, $scope, 4_000_000), 2, 0);
        self::assertEqualsWithDelta(array_sum($long), array_sum($found), 1, 'within the 2% of a sketch');
        self::assertSame([], array_diff_key($found, $long));
        // The days of it are closed or open as they are there.
        self::assertSame(
            array_keys($this->by('day', '2026-10-19 to 2026-11-05')),
            DB::table('usage_days')->orderBy('day_at')->pluck('day_at')->all(),
        );
        // Held against their load again, nothing is to be corrected, and back in UTC all is as it was.
        Artisan::call('usage:close --again');
        self::assertSame(0, DB::table('usage_facts')->where('corrected_at', '>', 0)->count());
        $this->post('/meter/days/zone', ['zone' => 'UTC']);
        self::assertSame(array_sum(array_column($records, 'bytes_scanned')) + 77, array_sum($this->by('day', '2026-10-19 to 2026-11-05')));
        self::assertSame(14, count($this->by('day', '2026-10-21 to 2026-11-05')));
    }

    public function test_days_whose_hours_are_gone_stay_as_they_are(): void
    {
        $this->import([$this->ran('2026-10-20 23:30', 3), $this->ran('2026-10-30 23:30', 4), $this->ran('2026-10-31 12:00', 5)]);
        Artisan::call('usage:close');
        DB::table('usage_hours')->where('day_at', '<', strtotime('2026-10-30 UTC'))->delete();
        $this->actingAs($this->person(Role::Owner))->post('/meter/days/zone', ['zone' => 'Pacific/Honolulu']);
        $date = static fn (string $date): int => (int) strtotime("{$date} UTC");
        // Half past eleven is the afternoon of the same day there, noon is two in the morning.
        self::assertSame(
            [$date('2026-10-20') => 3, $date('2026-10-30') => 4, $date('2026-10-31') => 5],
            $this->by('day', '2026-10-19 to 2026-11-05'),
        );
        self::assertSame(12, array_sum($this->by('month', '2026-10')));
    }

    public function test_only_owners_set_it_to_what_is_one(): void
    {
        foreach ([Role::Viewer, Role::Engineer, Role::Steward] as $role) {
            $this->actingAs($this->person($role))->post('/meter/days/zone', ['zone' => 'Europe/Berlin'])->assertForbidden();
            $this->get('/meter/days')->assertOk()->assertSee('by the clocks of UTC')->assertDontSee('Change the time zone');
        }
        $this->actingAs($this->person(Role::Owner));
        foreach (['', 'Mars/Olympus', 'europe/berlin', '+02:00'] as $wrong) {
            $this->post('/meter/days/zone', ['zone' => $wrong])->assertSessionHasErrors(['zone' =>
                'Choose a time zone from the list, as Europe/Berlin.']);
        }
        self::assertSame(0, UsageRun::query()->count());
        $this->post('/meter/days/zone', ['zone' => 'UTC'])->assertSessionHas('done', 'Days are counted by UTC already.');
        $this->post('/meter/days/zone', ['zone' => 'Asia/Tokyo']);
        self::assertSame('done', UsageRun::query()->sole()->state);
        self::assertSame('Asia/Tokyo', (new EstateCalendar())->read()->zone->getName());
        self::assertSame(1, LedgerEntry::query()->where('object', 'Asia/Tokyo')->count());
        DB::table('estate_settings')->update(['value' => 'Nowhere/Else']);
        self::assertTrue((new EstateCalendar())->read()->isUtc());
    }

    public function test_what_the_page_reads_while_the_zone_changes_is_not_made_by_the_old_one(): void
    {
        $this->import([$this->ran('2026-11-05 01:00', 9)]);
        $facts = app(DayFacts::class);
        $this->zone('Asia/Tokyo');
        $facts->make($this->cluster, (int) strtotime('2026-11-05 UTC'), Clock::seconds());
        self::assertSame(0, DB::table('usage_hours')->count());
    }
}
