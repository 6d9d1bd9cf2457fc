<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Cost\Application\Accounts;
use App\Cost\Application\ClusterCost;
use App\Cost\Application\Prices;
use App\Estate\EstateCalendar;
use App\Estate\Models\Cluster;
use App\Ledger\Models\LedgerEntry;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use App\Telemetry\Usage\ShownTime;
use App\Telemetry\Usage\UsageAxis;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use App\Usage\Application\DayFacts;
use App\Usage\Application\LongExecutions;
use App\Usage\Models\UsageRun;
use Brick\Math\BigDecimal;
use DateTimeImmutable;
use DateTimeZone;
use Fulcrion\Core\Cost\Allocation;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\TeamMembership;
use Fulcrion\Core\Usage\UsageMeasure;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use PHPUnit\Framework\Attributes\TestWith;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\TestCase;

/**
 * Days by the clocks of the estate, of 23 and of 25 hours as well.
 */
#[Group('today')]
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

    public function test_what_the_store_shows_is_what_clocks_show(): void
    {
        $random = new Randomizer(new Mt19937(8));
        $moments = [];
        for ($i = 0; $i < 400; $i++) {
            $moments[] = $random->getInt((int) strtotime('2025-01-01 UTC'), (int) strtotime('2026-12-31 UTC'));
        }
        foreach (['UTC', 'Europe/Berlin', 'America/New_York', 'Australia/Lord_Howe', 'Asia/Kathmandu', 'Africa/Casablanca'] as $zone) {
            $calendar = new Calendar(new DateTimeZone($zone));
            $rows = implode(' UNION ALL ', array_map(static fn (int $at): string => "SELECT {$at} AS at", $moments));
            $shown = ShownTime::of($calendar, 'm.at', min($moments), max($moments));
            $day = ShownTime::day($calendar, 'm.at', min($moments), max($moments));
            foreach (DB::select("SELECT m.at, {$shown} AS shown, {$day} AS day FROM ({$rows}) m") as $row) {
                self::assertSame(
                    [$calendar->shown((int) $row->at), $calendar->day((int) $row->at)],
                    [(int) $row->shown, (int) $row->day],
                    "{$zone} {$row->at}",
                );
            }
        }
    }

    public function test_hours_are_kept_for_more_than_a_year_and_days_for_good(): void
    {
        $this->import([$this->ran('2026-11-01 10:00', 5), $this->ran('2026-11-04 10:00', 7)]);
        Artisan::call('usage:close');
        $facts = app(DayFacts::class);
        // Four hundred days after the first, and one more.
        foreach ([['2027-12-06 12:00:00', 2], ['2027-12-07 12:00:00', 1], ['2029-01-01 12:00:00', 0]] as [$now, $left]) {
            Carbon::setTestNow($now);
            $facts->prune($this->cluster, Clock::seconds());
            self::assertSame($left, DB::table('usage_hours')->count(), $now);
        }
        self::assertSame(12, array_sum($this->by('day', '2026-11-01 to 2026-11-05')));
        self::assertSame([], $this->by('hour', '2026-11-01 to 2026-11-05'));
        // Where the load itself is kept for longer, so are hours: nothing is to be held against hours that are gone.
        $this->cluster->update(['retention_days' => 3_650]);
        Carbon::setTestNow('2026-11-06 12:00:00');
        $this->import([$this->ran('2026-11-04 11:00', 1)]);
        Artisan::call('usage:close --again');
        Carbon::setTestNow('2029-01-01 12:00:00');
        $facts->prune($this->cluster->refresh(), Clock::seconds());
        self::assertGreaterThan(0, DB::table('usage_hours')->count());
    }

    public function test_a_day_whose_load_has_begun_to_go_is_not_corrected(): void
    {
        $this->import([$this->ran('2026-11-01 10:00', 5), $this->ran('2026-11-01 11:00', 7)]);
        Artisan::call('usage:close');
        // Ninety days on the load of that day is ended; an execution that is sent in much later is no sign that there were fewer.
        Carbon::setTestNow('2027-03-01 12:00:00');
        DB::table('load_hour')->delete();
        DB::table('load_by_origin_hour')->delete();
        $this->import([$this->ran('2026-11-01 10:30', 1)]);
        Artisan::call('usage:close --again');
        self::assertSame(12, array_sum($this->by('day', '2026-11-01')));
        self::assertSame(0, DB::table('usage_facts')->where('corrected_at', '>', 0)->count());
    }

    public function test_idle_time_of_a_month_is_known_when_its_hours_are_not(): void
    {
        $this->import([$this->ran('2026-11-02 10:00', 5, 1_800_000_000), $this->ran('2026-11-02 10:00', 5, 3_600_000_000)]);
        Artisan::call('usage:close');
        $this->actingAs($this->person(Role::Owner))
            ->post('/meter/prices/fernhill', ['kind' => 'node_hour', 'amount' => '1', 'quantity' => '1', 'from' => '2026-01-01']);
        $cost = fn (): array => array_map(
            static fn (BigDecimal $one): string => (string) $one,
            ClusterCost::of($this->cluster, Days::parse('2026-11-02', Clock::seconds()), app(Prices::class), Clock::seconds())
                ?->allocation->full() ?? [],
        );
        // Two at once for half of an hour are not more than all of it.
        self::assertSame([Allocation::IDLE => '23.00', 'pickers' => '1.00'], $cost());
        DB::table('load_by_origin_hour')->delete();
        DB::table('load_hour')->delete();
        DB::table('usage_hours')->delete();
        self::assertSame([Allocation::IDLE => '23.00', 'pickers' => '1.00'], $cost());
    }

    public function test_statements_of_account_are_due_by_the_clocks_there(): void
    {
        $this->import([$this->ran('2026-10-10 10:00', 5)]);
        Artisan::call('usage:close');
        DB::table('account_schedules')->insert([
            'team' => 'pickers', 'recipient' => 'ada@example.org', 'day' => 1, 'made_by' => 'x', 'made_us' => 1, 'confirmed_by' => 'x',
            'confirmed_us' => (int) strtotime('2026-10-15 UTC') * 1_000_000,
        ]);
        $this->zone('America/New_York');
        $sent = static function (string $now): int {
            Carbon::setTestNow($now);

            return app(Accounts::class)->due(Clock::seconds());
        };
        // The first of November begins there at four; an hour later the month is closed.
        self::assertSame([0, 0, 1, 0], array_map($sent, [
            '2026-11-01 03:59:00', '2026-11-01 04:59:00', '2026-11-01 05:00:00', '2026-11-01 06:00:00',
        ]));
        self::assertSame('2026-10', DB::table('accounts')->value('month'));
    }

    public function test_programs_are_told_days_of_the_zone_and_hours_by_utc(): void
    {
        $this->zone('Europe/Berlin');
        $this->import([$this->ran('2026-10-24 22:30', 10), $this->ran('2026-10-25 22:30', 1)]);
        Artisan::call('usage:close');
        $token = $this->cluster->createToken('t', ['usage:read'])->plainTextToken;
        $ask = fn (string $by): array => $this->getJson("/api/usage?from=2026-10-25&to=2026-10-25&by={$by}", [
            'Authorization' => "Bearer {$token}",
        ])->assertOk()->json('rows');
        self::assertSame([['2026-10-25', 11]], array_map(
            static fn (array $row): array => [$row['day'], $row['bytes_scanned']],
            $ask('day'),
        ));
        self::assertSame(
            [['2026-10-24T22:00:00Z', 10], ['2026-10-25T22:00:00Z', 1]],
            array_map(static fn (array $row): array => [$row['hour'], $row['bytes_scanned']], $ask('hour')),
        );
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
