<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Models\Cluster;
use App\Platform\Support\Role;
use App\Telemetry\Usage\UsageField;
use Fulcrion\Core\Usage\TeamMembership;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * Days on which something is missing, odd or doubled: every page and file of Meter says so in words, and what it adds up is right.
 */
#[Group('today')]
final class MeterBadDaysTest extends TestCase
{
    private const PAGES = [
        '/meter/usage', '/meter/why', '/meter/why?by=statement', '/meter/explore', '/meter/explore?rows=statement&columns=hour',
        '/meter/explore?longer=1+s', '/meter/team', '/meter/cost', '/meter/cost?by=statement', '/meter/cost?by=table', '/meter/savings',
        '/meter/bills', '/meter/prices', '/meter/days', '/meter/accounts', '/meter/viewers',
    ];

    private const FILES = [
        '/meter/usage/export/csv', '/meter/explore/export/json', '/meter/explore/export/parquet', '/meter/cost/export/csv',
        '/meter/cost/focus.csv', '/meter/cost/focus.parquet', '/meter/savings/export/json', '/meter/team/account.html',
        '/meter/team/account.pdf',
    ];

    private Cluster $cluster;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow('2026-11-20 09:00:00');
        $this->cluster = $this->cluster();
    }

    /**
     * @param  list<array{string, string, int, int}>  $runs moment, user, seconds, bytes
     */
    private function ran(array $runs): void
    {
        Artisan::call('telemetry:import', [
            'file' => $this->file(array_map(static fn (array $run): array => [
                'started_at' => (int) strtotime("{$run[0]} UTC"), 'user' => $run[1], 'duration_us' => $run[2] * 1_000_000,
                'bytes_scanned' => $run[3], 'sql' => "SELECT x FROM s.t_{$run[1]}",
            ], $runs)),
            '--cluster' => 'fernhill',
        ]);
        Artisan::call('usage:close');
    }

    private function price(string $kind, string $amount, string $from, string $quantity = '1'): void
    {
        $this->actingAs($this->person(Role::Owner))
            ->post('/meter/prices/fernhill', ['kind' => $kind, 'amount' => $amount, 'from' => $from, 'quantity' => $quantity])
            ->assertSessionHas('done');
    }

    /**
     * @return iterable<string, array{string}>
     */
    public static function conditions(): iterable
    {
        yield 'nothing at all' => ['nothing'];
        yield 'use without prices or teams' => ['no prices'];
        yield 'prices without use' => ['no use'];
        yield 'one hour of use' => ['one hour'];
        yield 'a month without use between two' => ['a gap'];
        yield 'a removed cluster' => ['removed'];
        yield 'a price of nothing and a discount of everything' => ['free'];
        yield 'texts that could break a page' => ['odd names'];
    }

    private function condition(string $name): void
    {
        match ($name) {
            'no prices' => $this->ran([['2026-11-19 08:00', 'ada', 60, 1_000]]),
            'no use' => $this->price('node_hour', '1.20', '2026-11-01', '12'),
            'one hour' => $this->oneHour(),
            'a gap' => $this->gap(),
            'removed' => $this->removed(),
            'free' => $this->free(),
            'odd names' => $this->oddNames(),
            default => null,
        };
    }

    private function oneHour(): void
    {
        $this->price('node_hour', '1.20', '2026-11-01', '12');
        $this->ran([['2026-11-20 08:10', 'ada', 60, 1_000]]);
    }

    private function gap(): void
    {
        $this->price('node_hour', '1.20', '2026-01-01', '12');
        $this->ran([['2026-09-03 08:00', 'ada', 60, 1_000], ['2026-11-03 08:00', 'ada', 90, 3_000]]);
    }

    private function removed(): void
    {
        $this->oneHour();
        $this->cluster->delete();
    }

    private function free(): void
    {
        $this->price('scanned_tib', '0', '2026-11-01');
        $this->price('monthly_fee', '100', '2026-11-01');
        $this->price('discount', '100', '2026-11-01');
        $this->ran([['2026-11-19 08:00', 'ada', 60, 1_000], ['2026-11-12 08:00', 'ada', 60, 0]]);
    }

    private function oddNames(): void
    {
        $odd = '"><script>alert(1)</script>\' %_\\ ü';
        $this->belong(new TeamMembership('ada', $odd, 0, null));
        $this->price('node_hour', '1', '2026-11-01');
        Artisan::call('telemetry:import', ['file' => $this->file([[
            'started_at' => (int) strtotime('2026-11-19 08:00 UTC'), 'duration_us' => 5_000_000, 'sql' => "SELECT '{$odd}' FROM \"<b>\".t",
            'user' => 'ada', 'application' => $odd, 'queue' => $odd, 'database' => '<i>',
        ]]), '--cluster' => 'fernhill']);
        Artisan::call('usage:close');
    }

    #[DataProvider('conditions')]
    public function test_every_page_and_file_says_something_sensible(string $condition): void
    {
        $this->condition($condition);
        foreach ([Role::Owner, Role::Viewer] as $role) {
            $this->actingAs($this->person($role));
            foreach (self::PAGES as $page) {
                foreach (['', 'days=last+month', 'days=2026-11-20'] as $days) {
                    $response = $this->get($page.(str_contains($page, '?') ? '&' : '?').$days);
                    self::assertContains($response->getStatusCode(), $role === Role::Owner ? [200] : [200, 403], "{$page} {$days}");
                    $text = (string) $response->getContent();
                    self::assertStringNotContainsString('<script>alert', $text, $page);
                    self::assertDoesNotMatchRegularExpression('~>\s*(NAN|INF|-?nan|inf)\b|Undefined|Division by~', $text, $page);
                    self::assertMatchesRegularExpression('~<h1[^>]*>\s*\S~', $text, "{$page} {$days}");
                }
            }
            foreach (self::FILES as $file) {
                self::assertContains($this->get($file)->getStatusCode(), [200, 404], "{$file} {$condition}");
            }
        }
    }

    public function test_somebody_in_two_teams_on_one_day_is_in_the_one_they_ended_it_in_and_counted_once(): void
    {
        $noon = (int) strtotime('2026-11-19 12:00 UTC');
        $this->belong(
            new TeamMembership('ada', 'pickers', 0, $noon), new TeamMembership('ada', 'lab', $noon, null),
            new TeamMembership('ada', 'packers', $noon - 3_600, $noon));
        $this->ran([
            ['2026-11-18 08:00', 'ada', 60, 1], ['2026-11-19 08:00', 'ada', 60, 10], ['2026-11-19 11:30', 'ada', 60, 100],
            ['2026-11-19 16:00', 'ada', 60, 1_000],
        ]);
        $rows = DB::table('usage_facts')->join('usage_teams', 'usage_teams.id', '=', 'team_id')->groupBy('name')
            ->selectRaw('name, SUM(bytes_scanned) AS bytes')->pluck('bytes', 'name')->map(static fn (mixed $sum): int => (int) $sum)->all();
        self::assertEquals(['pickers' => 1, 'lab' => 1_110], $rows);
    }

    public function test_a_price_that_changes_within_an_hour_holds_from_its_minute(): void
    {
        $this->ran([['2026-11-18 08:00', 'ada', 600, 1]]);
        $this->price('node_hour', '6', '2026-11-18');
        $this->price('node_hour', '12', '2026-11-18 10:20');
        $rows = json_decode($this->get('/meter/cost/export/json?days=2026-11-18')->streamedContent(), true);
        // Ten hours and twenty minutes at six, the rest at twelve.
        self::assertEqualsWithDelta(62.0 + 164.0, array_sum(array_map(floatval(...), array_column($rows, 'all'))), 0.001);
    }

    /** Clocks change on 25 October and 29 March; days of use are by UTC and have 24 hours all the same. */
    public function test_days_on_which_clocks_change_have_24_hours(): void
    {
        $this->price('node_hour', '1', '2026-01-01');
        $this->actingAs($this->person(Role::Owner));
        foreach (['2026-03-29', '2026-10-25', '2026-10-24'] as $day) {
            $rows = json_decode($this->get("/meter/cost/export/json?days={$day}")->streamedContent(), true);
            self::assertSame(['24.00'], array_column($rows, 'all'), $day);
        }
        $this->ran([['2026-10-25 00:30', 'ada', 60, 1], ['2026-10-25 23:30', 'ada', 60, 2], ['2026-10-26 00:10', 'ada', 60, 4]]);
        $query = 'rows=day&columns=team&days=2026-10-25+to+2026-10-26';
        $rows = json_decode($this->get("/meter/explore/export/json?{$query}")->streamedContent(), true);
        self::assertSame([3, 4], array_column($rows, 'total'));
        $rows = json_decode($this->get('/meter/explore/export/json?rows=hour&columns=team&days=2026-10-25')->streamedContent(), true);
        self::assertSame([1, 2], array_column($rows, 'total'));
    }

    public function test_two_sources_of_the_same_day_are_one_day(): void
    {
        $this->ran([['2026-11-18 08:00', 'ada', 60, 5]]);
        $before = DB::table('usage_facts')->get()->all();
        foreach (range(1, 3) as $_) {
            Artisan::call('usage:close --from=2026-11-01 --again');
        }
        self::assertEquals($before, DB::table('usage_facts')->get()->all());
        self::assertSame(1, DB::table('usage_days')->count());
        self::assertSame(5, (int) DB::table('usage_origin_days')->sum('bytes_scanned'));
        self::assertSame(5, (int) DB::table('usage_statement_days')->sum('bytes_scanned'));
    }

    public function test_every_field_filters_by_what_is_not_said_too(): void
    {
        $this->ran([['2026-11-18 08:00', 'ada', 60, 5], ['2026-11-18 09:00', 'bren', 60, 7]]);
        $this->actingAs($this->person(Role::Viewer));
        foreach (UsageField::cases() as $field) {
            $of = fn (string $more): int => array_sum(array_column(json_decode(
                $this->get("/meter/explore/export/json?rows={$field->value}&columns=month&days=2026-11-18{$more}")->streamedContent(),
                true,
            ), 'total'));
            self::assertSame(12, $of(''), $field->value);
            self::assertSame(0, $of("&{$field->value}=nobody+knows"), $field->value);
            $none = in_array($field, [UsageField::Application, UsageField::Queue, UsageField::Database], true) ? 12 : 0;
            self::assertSame($none, $of("&{$field->value}=(none)"), $field->value);
        }
    }
}
