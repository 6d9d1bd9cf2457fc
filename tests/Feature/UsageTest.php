<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Access\Application\PublishedTeams;
use App\Access\Models\PolicyVersion;
use App\Estate\EstateCalendar;
use App\Estate\Models\Cluster;
use App\Platform\Support\Role;
use App\Telemetry\Usage\UsageField;
use App\Telemetry\Usage\UsageReader;
use App\Telemetry\Usage\UsageScope;
use App\Usage\Application\DayFacts;
use App\Usage\Application\DayMaker;
use App\Usage\Application\DayOutcome;
use App\Usage\Application\RemakeDays;
use App\Usage\Models\UsageRun;
use Fulcrion\Core\Usage\TeamMembership;
use Fulcrion\Core\Usage\Used;
use Illuminate\Http\Request;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Queue;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * Facts of use: made from load, closed, corrected; and the pages that tell of them.
 */
#[Group('today')]
final class UsageTest extends TestCase
{
    private const DAY = 86_400;

    private Cluster $cluster;

    private int $today;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow('2026-11-20 14:00:00');
        $this->today = (int) strtotime('2026-11-20 UTC');
        $this->cluster = $this->cluster();
        $this->belong(
            new TeamMembership('ada', 'pickers', 0, $this->today - 2 * 86_400),
            new TeamMembership('ada', 'packers', $this->today - 2 * 86_400, null),
            new TeamMembership('bren', 'pickers', 0, null),
        );
    }

    /** @return array<string, mixed> */
    private function ran(int $daysAgo, string $user, string $sql, int $bytes, string $application = 'desk'): array
    {
        static $n = 0;

        return [
            'started_at' => $this->today - $daysAgo * self::DAY + 3_600 + $n++, 'duration_us' => 1_000, 'sql' => $sql, 'user' => $user,
            'application' => $application, 'bytes_scanned' => $bytes,
        ];
    }

    /**
     * @param  list<array<string, mixed>>  $records
     */
    private function import(array $records): void
    {
        Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'fernhill']);
    }

    private function close(string $more = ''): string
    {
        self::assertSame(0, Artisan::call(trim("usage:close {$more}")));

        return Artisan::output();
    }

    /**
     * @return array<string, array{int, int}> executions and amount
     */
    private function by(string $field, string $query = 'days=last+14+days'): array
    {
        parse_str($query, $parameters);
        $request = new Request($parameters);
        $request->setUserResolver(fn () => $this->person(Role::Owner));
        $scope = UsageScope::of($request, $this->today + 14 * 3_600);
        $used = array_map(
            static fn (Used $one): array => [$one->executions, $one->amount],
            app(UsageReader::class)->by(UsageField::from($field), $scope, $scope->days),
        );
        ksort($used);

        return $used;
    }

    public function test_facts_are_the_load_told_by_the_team_of_the_day(): void
    {
        $this->import([
            $this->ran(3, 'ada', 'SELECT a', 100), $this->ran(2, 'ada', 'SELECT a', 200), $this->ran(1, 'ada', 'SELECT b', 400),
            $this->ran(3, 'bren', 'SELECT a', 1_000, 'plan'), $this->ran(1, 'carl', 'SELECT c', 50),
        ]);
        self::assertStringContainsString('3 days closed', $this->close());
        // Ada's team is the one at the end of each day; nobody's team is carl's.
        self::assertSame(['packers' => [2, 600], 'pickers' => [2, 1_100], 'unassigned' => [1, 50]], $this->by('team'));
        self::assertSame(['ada' => [3, 700], 'bren' => [1, 1_000], 'carl' => [1, 50]], $this->by('person'));
        self::assertSame(['desk' => [4, 750], 'plan' => [1, 1_000]], $this->by('application'));
        self::assertSame(['ada' => [2, 600]], $this->by('person', 'days=last+14+days&team=packers'));
        self::assertSame(['desk' => [1, 100], 'plan' => [1, 1_000]], $this->by('application', 'days=last+14+days&team=pickers'));
        self::assertCount(3, $this->by('statement'));
        self::assertSame([], $this->by('team', 'days=2026-10'));
        // Every measure is the sum of the load of those days.
        foreach (['executions' => 'executions', 'in_flight_us' => 'load_us', 'bytes_scanned' => 'bytes_scanned'] as $fact => $load) {
            self::assertEquals(DB::table('load_day')->sum($load), DB::table('usage_facts')->sum($fact), $fact);
        }
    }

    public function test_a_closed_day_is_never_changed_and_what_comes_late_is_a_correction_with_its_date(): void
    {
        $this->import([$this->ran(2, 'ada', 'SELECT a', 100), $this->ran(0, 'ada', 'SELECT a', 5)]);
        self::assertStringContainsString('one day open, one day closed', $this->close());
        $before = DB::table('usage_facts')->where('day_at', $this->today - 2 * self::DAY)->get()->all();
        $this->import([$this->ran(2, 'ada', 'SELECT a', 30), $this->ran(2, 'bren', 'SELECT z', 7), $this->ran(0, 'ada', 'SELECT a', 6)]);
        // By itself only what is not closed is looked at.
        self::assertStringContainsString('one day open', $this->close());
        self::assertEquals($before, DB::table('usage_facts')->where('day_at', $this->today - 2 * self::DAY)->get()->all());
        self::assertSame(11, (int) DB::table('usage_facts')->where('day_at', $this->today)->sum('bytes_scanned'), 'today follows');
        self::assertStringContainsString('one day corrected', $this->close('--again'));
        $corrections = DB::table('usage_facts')->where('corrected_at', '>', 0)->orderBy('bytes_scanned')->get();
        self::assertSame([7, 30], $corrections->pluck('bytes_scanned')->all());
        self::assertSame([1, 1], $corrections->pluck('executions')->all());
        self::assertSame([$this->today], $corrections->pluck('corrected_at')->unique()->values()->all());
        $kept = DB::table('usage_facts')->where('day_at', $this->today - 2 * self::DAY)->where('corrected_at', 0)->get()->all();
        self::assertEquals($before, $kept);
        // Once more changes nothing, and a second one of the same day adds to the first.
        self::assertStringContainsString('one day unchanged', $this->close('--again'));
        $this->import([$this->ran(2, 'ada', 'SELECT a', 1)]);
        self::assertStringContainsString('one day corrected', $this->close('--from=2026-11-18 --to=2026-11-18'));
        self::assertSame(138, array_sum(array_column($this->by('team'), 1)));
        self::assertSame(2, DB::table('usage_facts')->where('corrected_at', '>', 0)->count());
        $this->actingAs($this->person(Role::Viewer))->get('/meter/usage')
            ->assertOk()
            ->assertSee('Corrected since')
            ->assertSee('18 Nov 2026');
    }

    public function test_facts_outlive_the_load_they_were_made_of(): void
    {
        $this->import([$this->ran(2, 'ada', 'SELECT a', 100)]);
        $this->close();
        DB::table('load_day')->delete();
        $this->close('--again');
        $this->close('--from=2026-11-01');
        self::assertSame(['packers' => [1, 100]], $this->by('team'));
    }

    public function test_a_day_is_closed_an_hour_after_its_end_and_not_before(): void
    {
        $facts = app(DayFacts::class);
        $this->import([$this->ran(1, 'ada', 'SELECT a', 100)]);
        $day = $this->today - self::DAY;
        self::assertSame(DayOutcome::Open, $facts->make($this->cluster, $day, $this->today + 3_599));
        self::assertSame(DayOutcome::Closed, $facts->make($this->cluster, $day, $this->today + 3_600));
        self::assertSame(DayOutcome::Unchanged, $facts->make($this->cluster, $day, $this->today + 3_601));
    }

    public function test_days_that_are_none_are_refused_and_nothing_is_done(): void
    {
        foreach (['--from=yesterday', '--to=2026-02-30', '--from=2026-11-20 --to=2026-11-19'] as $options) {
            self::assertSame(2, Artisan::call("usage:close {$options}"), $options);
            self::assertStringContainsString('--', Artisan::output());
        }
        self::assertSame(0, DB::table('usage_days')->count());
    }

    public function test_the_pages_say_who_used_more_and_why_and_every_part_adds_up(): void
    {
        $records = [];
        for ($day = 1; $day <= 28; $day++) {
            // In the last seven days bren reads three times as much each, and a new program comes.
            $records[] = $this->ran($day, 'bren', 'SELECT lab', $day <= 7 ? 3_000_000 : 1_000_000, 'lab');
            $records[] = $this->ran($day, 'ada', 'SELECT pick', 50_000);
            if ($day <= 7) {
                $records[] = $this->ran($day, 'carl', 'SELECT late', 200_000, 'night');
            }
        }
        $this->import($records);
        $this->close();
        $this->actingAs($this->person(Role::Viewer));
        $page = $this->get('/meter/usage?measure=bytes_scanned')->assertOk()
            ->assertSee('Bytes scanned, 13 to 19 November 2026: 3.1 times as much as in the 7 days before; pickers 2.89 times as much')
            ->assertSee('Week by week')
            ->assertSee('unassigned')
            ->assertSee('nothing before');
        self::assertSame(3, substr_count((string) $page->getContent(), '<path class="area'), 'a ribbon a team');
        $why = $this->get('/meter/why?measure=bytes_scanned')->assertOk()
            ->assertSee('+14.7 MiB of bytes scanned against the 7 days before, most of it more per execution')
            ->assertSee('team=pickers', false);
        self::assertStringContainsString('+14.3 MiB', (string) $why->getContent());
        $this->get('/meter/why?measure=bytes_scanned&team=pickers')->assertOk()->assertSee('application=lab', false)->assertSee('All use');
        $this->get('/meter/why?measure=bytes_scanned&team=pickers&application=lab&by=statement')
            ->assertOk()
            ->assertSee('SELECT lab')
            ->assertSee('/tune/statements/', false);
        $this->get('/meter/why?team=nobody')->assertOk()->assertSee('In neither period anything was used');
        $rows = json_decode($this->get('/meter/usage/export/json?measure=bytes_scanned&by=team')->streamedContent(), true);
        foreach ($rows as $row) {
            self::assertSame(
                $row['bytes_scanned'] - $row['bytes_scanned_before'],
                $row['new'] + $row['gone'] + $row['more_executions'] + $row['more_per_execution'],
            );
        }
        self::assertSame(3, count($rows));
        $this->get('/meter/usage/export/xlsx?by=person')->assertOk();
        $this->get('/meter/usage?days=soon')->assertOk()->assertSee('&quot;soon&quot; is no span of days. Try:', false);
        // A month is held against the same days of the one before.
        $this->get('/meter/usage?days=this+month')->assertOk()->assertSee('1 to 20 November 2026')->assertSee('1 to 20 October 2026');
    }

    public function test_without_any_facts_the_pages_say_what_to_do(): void
    {
        $this->actingAs($this->person(Role::Viewer));
        $this->get('/meter/usage')->assertOk()->assertSee('Nothing is known of bytes scanned')->assertSee('import');
        $this->get('/meter/why')->assertOk()->assertSee('Nothing was used in either period');
        self::assertSame('', $this->close());
    }

    public function test_teams_are_those_of_the_published_policy_version_by_version(): void
    {
        $version = static function (int $number, string $made, array $people): void {
            PolicyVersion::query()->create([
                'number' => $number, 'made_us' => ((int) strtotime("{$made} UTC")) * 1_000_000, 'made_by' => 'x', 'comment' => '',
                'document' => json_encode(['people' => array_map(static fn (string $team): array => [
                    'title' => 'T', 'kind' => 'person', 'attributes' => $team === '' ? [] : ['team' => $team],
                ], $people)]),
            ]);
        };
        $version(1, '2026-11-01 10:00', ['ada' => 'pickers', 'bren' => 'lab', 'carl' => '']);
        $version(2, '2026-11-05 10:00', ['ada' => 'packers', 'bren' => 'lab', 'dora' => 'lab']);
        $day = static fn (?int $at): int|string|null => $at === null || $at === 0 ? $at : gmdate('m-d', $at);
        $memberships = array_map(
            static fn (TeamMembership $one): array => [$one->login, $one->team, $day($one->from), $day($one->to)],
            app(PublishedTeams::class)->memberships(),
        );
        sort($memberships);
        self::assertSame(
            [
                ['ada', 'packers', '11-05', null], ['ada', 'pickers', 0, '11-05'], ['bren', 'lab', 0, null], ['carl', '', 0, '11-05'],
                ['dora', 'lab', '11-05', null],
            ],
            $memberships,
        );
    }

    public function test_the_page_of_days_says_which_are_closed_and_rebuilds_them(): void
    {
        $this->actingAs($this->person(Role::Viewer))->get('/meter/days')->assertOk()->assertSee('Nothing is known of use yet')
            ->assertDontSee('Rebuild days');
        $this->import([
            $this->ran(3, 'ada', 'SELECT a', 100), $this->ran(2, 'ada', 'SELECT a', 100), $this->ran(0, 'ada', 'SELECT a', 5),
        ]);
        $this->close();
        $this->actingAs($this->person(Role::Engineer));
        $page = $this->get('/meter/days')->assertOk()->assertSee('2 days of use are closed; 1 day may still change')
            ->assertSee('Fernhill, Tue 17 Nov: closed')->assertSee('Fernhill, Fri 20 Nov: may still change')->assertSee('Rebuild days');
        self::assertSame(2, substr_count((string) $page->getContent(), 'class="after-bar"'));
        // What came late is added when somebody asks for these days, once.
        $this->import([$this->ran(3, 'bren', 'SELECT z', 7)]);
        $this->post('/meter/days', ['from' => '2026-11-17', 'to' => '2026-11-16'])->assertSessionHasErrors('to');
        foreach (['one day corrected, one day unchanged', '2 days unchanged'] as $said) {
            $this->post('/meter/days', ['from' => '2026-11-16', 'to' => '2026-11-18'])->assertRedirect('/meter/days')
                ->assertSessionHasNoErrors();
            $this->get('/meter/days')->assertSee($said)->assertSee('2 days of use are closed, 1 of them corrected since');
        }
        self::assertSame(107, (int) DB::table('usage_facts')->where('day_at', $this->today - 3 * self::DAY)->sum('bytes_scanned'));
        self::assertSame(2, DB::table('ledger_entries')->where('act', 'asked for days of use to be rebuilt')->count());
    }

    public function test_days_are_rebuilt_by_one_at_a_time_and_can_be_stopped(): void
    {
        $this->import([$this->ran(3, 'ada', 'SELECT a', 100), $this->ran(2, 'ada', 'SELECT a', 100)]);
        Queue::fake();
        $this->actingAs($this->person(Role::Owner))->post('/meter/days', ['from' => '2026-11-16', 'to' => '2026-11-18']);
        $this->post('/meter/days', ['from' => '2026-11-16', 'to' => '2026-11-18'])->assertSessionHas('failed');
        Queue::assertPushed(RemakeDays::class, 1);
        $run = UsageRun::query()->sole();
        $this->get('/meter/days')->assertOk()->assertSee('waiting for a worker')->assertSee('Stop');
        $this->get('/meter/days', ['HX-Request' => 'true', 'HX-Target' => 'days-progress'])->assertOk()
            ->assertSee('Rebuilding days')->assertDontSee('<h1>', false);
        $this->post("/meter/days/{$run->id}/stop")->assertRedirect('/meter/days');
        (new RemakeDays($run->id))->handle(app(DayMaker::class), new EstateCalendar());
        self::assertSame('stopped', $run->refresh()->state);
        self::assertSame(0, DB::table('usage_facts')->count(), 'it was stopped before the first day');
        $this->get('/meter/days')->assertSee('the days it had come to are made');
        // It can be asked for again.
        $this->post('/meter/days', ['from' => '2026-11-16', 'to' => '2026-11-18'])->assertSessionMissing('failed');
        $run = UsageRun::query()->orderByDesc('id')->firstOrFail();
        (new RemakeDays($run->id))->handle(app(DayMaker::class), new EstateCalendar());
        self::assertSame(['done', ['Fernhill' => '2 days closed']], [$run->refresh()->state, $run->result]);
    }

    public function test_the_river_is_of_months_where_three_are_known_and_else_of_weeks(): void
    {
        $runs = [];
        foreach (range(1, 40) as $day) {
            $runs[] = $this->ran($day, 'ada', 'SELECT a', 1_000_000);
        }
        $this->import($runs);
        $this->close();
        $this->actingAs($this->person(Role::Viewer));
        $this->get('/meter/usage')->assertOk()->assertSee('Bytes scanned by team, week by week')->assertSee('13 Nov to 19 Nov');
        $this->import(array_map(fn (int $day): array => $this->ran($day, 'ada', 'SELECT a', 2_000_000), range(41, 111)));
        $this->close('--from=2026-08-01');
        // August to October; November is not over.
        $page = $this->get('/meter/usage')->assertOk()->assertSee('Bytes scanned by team, month by month');
        self::assertMatchesRegularExpression('~Aug.*Sep.*Oct~s', (string) $page->getContent());
        self::assertStringContainsString('Bytes scanned of 3 months', html_entity_decode((string) $page->getContent()));
    }
}
