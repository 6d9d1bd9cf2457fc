<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Alerts\Application\AlertJudge;
use App\Alerts\Application\AlertValues;
use App\Alerts\Models\Alert;
use App\Alerts\Models\Incident;
use App\Alerts\Models\IncidentAct;
use App\Alerts\Models\Ring;
use App\Alerts\Models\Silence;
use App\Estate\Models\Cluster;
use App\Health\Application\ServerEvents;
use App\Health\Probes\ProbeBook;
use App\Ledger\Findings\WeightUnit;
use App\Ledger\Models\Finding;
use App\Ledger\Models\Notification;
use App\Ledger\Models\Subscription;
use App\Metrics\Signals\Signal;
use App\Metrics\Signals\SignalSources;
use App\Metrics\Store\PointStore;
use App\Platform\Support\Role;
use Fulcrion\Core\Alerts\ThresholdSide;
use Fulcrion\Core\Alerts\Watched;
use Fulcrion\Core\Health\ProbeRun;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\Points;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * Alerts from what comes in to the message, and rehearsed on what came.
 */
#[Group('today')]
final class AlertTest extends TestCase
{
    /** Monday, 23 November 2026, 00:00 UTC. */
    private const NOW = 1_795_392_000;

    private Cluster $cluster;

    /** @var array<string, float> processor seconds at work, by host */
    private array $work = [];

    protected function setUp(): void
    {
        parent::setUp();
        $this->cluster = $this->cluster();
        $this->to(self::NOW);
        $this->actingAs($this->person());
    }

    protected function tearDown(): void
    {
        Carbon::setTestNow();
        parent::tearDown();
    }

    private function to(int $second): void
    {
        Carbon::setTestNow(Carbon::createFromTimestamp($second));
    }

    /**
     * @param  array<string, mixed>  $change
     */
    private function alert(array $change = []): Alert
    {
        return Alert::query()->create($change + [
            'cluster_id' => $this->cluster->id, 'name' => 'Processors busy', 'signal' => 'host:processors', 'watched' => Watched::Value,
            'side' => ThresholdSide::Above, 'threshold' => 0.9, 'calm' => 0.8, 'for_seconds' => 180, 'calm_seconds' => 120,
            'is_urgent' => true, 'is_on' => true, 'made_by' => 'x', 'judged_to' => self::NOW - 120,
        ]);
    }

    /** A minute of a host with four processors, of which so many parts are at work. */
    private function minute(int $minute, string $host, float $share): void
    {
        $this->work[$host] = ($this->work[$host] ?? 1e6) + 240.0 * $share;
        $at = self::NOW + 60 * $minute;
        app(PointStore::class)->take($this->cluster->id, $host, $at * 1_000, [
            new Metric('system.cpu.time', 's', $this->work[$host], ['cpu.mode' => 'user'], true),
            new Metric('system.cpu.time', 's', 1e6 + 240.0 * $minute - ($this->work[$host] - 1e6), ['cpu.mode' => 'idle'], true),
        ]);
    }

    /** Judges as the minutes go by, each two minutes after it is over. */
    private function judge(int $fromMinute, int $toMinute): void
    {
        for ($minute = $fromMinute; $minute <= $toMinute; $minute++) {
            $this->to(self::NOW + 60 * $minute + 150);
            app(AlertJudge::class)->judge(self::NOW + 60 * $minute + 150);
        }
    }

    /** @return list<string> subjects, oldest first */
    private static function letters(): array
    {
        return array_values(Notification::query()->orderBy('id')->pluck('subject')->all());
    }

    public function test_it_rings_once_is_told_once_and_is_over(): void
    {
        Subscription::query()->create(['kind' => 'mail', 'target' => 'a@b.example', 'hears' => 'incidents', 'digest' => true,
            'made_by' => 'x']);
        Subscription::query()->create(['kind' => 'mail', 'target' => 'c@d.example', 'hears' => 'findings', 'made_by' => 'x']);
        $alert = $this->alert();
        for ($minute = -2; $minute <= 40; $minute++) {
            // Busy from the third to the eighth minute, a little less in the sixth, and again for one minute after a while.
            $share = match (true) {
                $minute === 6 => 0.85, $minute > 2 && $minute <= 8, $minute === 20 => 0.97, default => 0.3,
            };
            $this->minute($minute, 'fern-01', $share);
            $this->minute($minute, 'fern-02', 0.5);
        }
        $this->judge(0, 4);
        self::assertSame(0, Ring::query()->count(), 'it has not lasted yet');
        self::assertNotNull($alert->refresh()->states);
        $this->judge(5, 9);
        $ring = Ring::query()->sole();
        // What a counter grew by until the last reading of a minute is told of that minute.
        self::assertSame([$alert->id, 'fern-01', self::NOW + 180, self::NOW + 360, null],
            [$ring->alert_id, $ring->host, $ring->from_at, $ring->rang_at, $ring->to_at]);
        $incident = Incident::query()->sole();
        self::assertSame(['Fernhill: Processors at work of fern-01 at 97.0%', true, null],
            [$incident->title, $incident->is_urgent, $incident->ended_at]);
        // It cannot wait for a digest, and who wants findings is told of the finding.
        $subject = 'Began: Fernhill: Processors at work of fern-01 at 97.0%';
        self::assertSame([$subject, 'Found on Fernhill: Fernhill: Processors at work of fern-01 at 97.0%'], self::letters());
        self::assertSame('waiting', Notification::query()->where('subject', $subject)->sole()->state);
        $finding = Finding::query()->sole();
        self::assertSame(['incidents', true], [$finding->source, $finding->urgent]);
        $this->get('/')->assertOk()->assertSee('Processors at work of fern-01');
        $this->get("/ledger/findings/{$finding->id}")->assertOk()->assertSee("/tend/incidents/{$incident->id}", false);
        $this->judge(10, 40);
        self::assertSame(self::NOW + 540, $ring->refresh()->to_at);
        self::assertSame(self::NOW + 540, $incident->refresh()->ended_at);
        self::assertNull($alert->refresh()->states);
        self::assertCount(1, Ring::query()->get(), 'one minute is too short');
        self::assertCount(1, Incident::query()->get());
        self::assertSame(['Began', 'Found on Fernhill', 'Over', 'Solved on Fernhill'],
            array_map(static fn (string $subject): string => explode(':', $subject)[0], self::letters()));
        self::assertSame(['Began', 'Over'], array_values(IncidentAct::query()->orderBy('id')->pluck('said')
            ->map(static fn (string $said): string => explode(':', $said)[0])->all()));
        $page = $this->get("/tend/incidents/{$incident->id}")->assertOk()->assertSee('over after 6 min')->assertSee('fern-01')
            ->assertSee('Who did what')->assertSee('Began: Fernhill');
        self::assertStringContainsString('class="lasted urgent"', (string) $page->getContent());
        $this->get('/tend/alerts')->assertOk()->assertSee('Nothing rings')->assertSee('Over in the last 14 days')
            ->assertSee('Processors at work of any host: 90% or more for 3 min');
        self::assertSame([], app(AlertJudge::class)->judge(self::NOW + 2_550) === 0 ? [] : ['judged again']);
    }

    public function test_twelve_hosts_that_fall_silent_are_one_incident(): void
    {
        Subscription::query()->create(['kind' => 'webhook', 'target' => 'https://pager.example/x', 'hears' => 'both', 'secret' => 's',
            'made_by' => 'x']);
        $this->alert(['name' => 'Host silent', 'watched' => Watched::Silence, 'threshold' => 600.0, 'calm' => 600.0, 'for_seconds' => 0,
            'calm_seconds' => 0]);
        for ($minute = -30; $minute <= 60; $minute++) {
            for ($host = 1; $host <= 12; $host++) {
                if ($minute <= 5 || $minute > 40) {
                    $this->minute($minute, sprintf('fern-%02d', $host), 0.2);
                }
            }
        }
        $this->judge(0, 62);
        $incident = Incident::query()->sole();
        self::assertSame('12 hosts of Fernhill: Host silent', $incident->title);
        self::assertSame(12, Ring::query()->count());
        // Nothing after the minute that began at 5: ten minutes after its end it rings. Growth is known again of the second minute on.
        self::assertSame([self::NOW + 16 * 60, self::NOW + 42 * 60],
            [Ring::query()->value('rang_at'), Ring::query()->value('to_at')]);
        $bodies = array_map(static fn (string $body): mixed => json_decode($body, true),
            Notification::query()->where('kind', 'webhook')->orderBy('id')->pluck('body')->all());
        $told = array_values(array_filter($bodies, static fn (mixed $one): bool => isset($one['incident'])));
        self::assertSame(['began', 'over'], array_column($told, 'event'));
        self::assertCount(12, $told[0]['rings']);
        self::assertSame(['alert' => 'Host silent', 'host' => 'fern-01', 'said' => 'fern-01 has told nothing for 10 min',
            'rang_at' => '2026-11-23T00:16:00Z', 'ended_at' => null], $told[0]['rings'][0]);
        self::assertSame(['fernhill', true, null, "/tend/incidents/{$incident->id}"],
            [$told[0]['cluster'], $told[0]['urgent'], $told[0]['ended_at'], $told[0]['path']]);
        self::assertSame('2026-11-23T00:42:00Z', $told[1]['ended_at']);
    }

    public function test_a_silence_keeps_it_quiet_and_what_still_rings_is_told_after_it(): void
    {
        Subscription::query()->create(['kind' => 'mail', 'target' => 'a@b.example', 'hears' => 'incidents', 'made_by' => 'x']);
        $this->alert(['for_seconds' => 0]);
        $this->post('/tend/silences', ['when' => 'next 30 minutes', 'reason' => 'disks are exchanged', 'cluster' => 'fernhill'])
            ->assertRedirect('/tend/silences')->assertSessionHasNoErrors();
        for ($minute = -2; $minute <= 60; $minute++) {
            $this->minute($minute, 'fern-01', $minute > 3 && $minute <= 6 || $minute > 20 ? 1.0 : 0.1);
        }
        $this->judge(0, 25);
        self::assertSame([2, 2, 0], [Ring::query()->count(), Ring::query()->where('is_silenced', true)->count(),
            Incident::query()->count()]);
        $this->get('/tend/silences')->assertOk()->assertSee('One silence goes on')->assertSee('disks are exchanged');
        $this->get('/tend/alerts')->assertOk()->assertSee('class="lasted silenced"', false);
        $this->judge(26, 40);
        // Half an hour and a little after it began.
        self::assertSame(self::NOW + 30 * 60 + 30, Incident::query()->sole()->opened_at);
        self::assertSame(1, Ring::query()->whereNotNull('incident_id')->count());
        self::assertCount(1, self::letters());
        // What is silenced is one host, one alert or one cluster.
        $silence = Silence::query()->sole();
        self::assertTrue($silence->covers($this->cluster->id, 5, 'x', self::NOW));
        self::assertFalse($silence->covers($this->cluster->id + 1, 5, 'x', self::NOW));
        self::assertFalse($silence->covers($this->cluster->id, 5, 'x', self::NOW + 1_800));
        $silence->fill(['alert_id' => 5, 'host' => 'y']);
        self::assertSame([true, false, false], [$silence->covers($this->cluster->id, 5, 'y', self::NOW),
            $silence->covers($this->cluster->id, 6, 'y', self::NOW), $silence->covers($this->cluster->id, 5, 'x', self::NOW)]);
        $this->post("/tend/silences/{$silence->id}/remove")->assertRedirect('/tend/silences');
        self::assertSame(0, Silence::query()->count());
    }

    public function test_an_incident_is_taken_handed_over_written_about_and_marked(): void
    {
        $second = $this->person(Role::Engineer);
        $alert = $this->alert(['for_seconds' => 0, 'second_minutes' => 5, 'second_user_id' => $second->id]);
        for ($minute = -2; $minute <= 30; $minute++) {
            $this->minute($minute, 'fern-01', $minute > 2 ? 1.0 : 0.1);
        }
        $this->judge(0, 5);
        $incident = Incident::query()->sole();
        self::assertSame([], self::letters());
        $this->judge(6, 12);
        // Nobody has taken it: once, to one.
        self::assertSame(['Nobody has taken it yet: Fernhill: Processors at work of fern-01 at 100%'], self::letters());
        self::assertSame($second->email, Notification::query()->sole()->recipient);
        $viewer = $this->person(Role::Viewer);
        $this->actingAs($viewer)->post("/tend/incidents/{$incident->id}/take")->assertForbidden();
        $this->get("/tend/incidents/{$incident->id}")->assertOk()->assertDontSee('I take it')->assertSee('nobody has taken it');
        $this->actingAs($this->person())->post("/tend/incidents/{$incident->id}/take")->assertSessionHas('done');
        $this->actingAs($second)->from('/x')->post("/tend/incidents/{$incident->id}/take")
            ->assertSessionHas('failed', 'Owner has taken it already.');
        self::assertFalse(Finding::query()->where('source', 'incidents')->sole()->urgent, 'somebody cares for it');
        $this->post("/tend/incidents/{$incident->id}/hand", ['to' => $second->id])->assertSessionHas('done', 'Engineer is told.');
        self::assertSame([$second->id, 'Engineer'], [$incident->refresh()->holder_id, $incident->taken_by]);
        self::assertSame('Engineer hands you: Fernhill: Processors at work of fern-01 at 100%', self::letters()[1]);
        $this->post("/tend/incidents/{$incident->id}/hand", ['to' => 99])->assertSessionHasErrors(['to' => 'Choose who takes it over.']);
        $this->post("/tend/incidents/{$incident->id}/note", ['said' => ''])->assertSessionHasErrors('said');
        $this->post("/tend/incidents/{$incident->id}/note", ['said' => "<script>alert(1)</script>\nA fan was broken."])->assertRedirect();
        $this->post("/tend/incidents/{$incident->id}/real", ['real' => 1])->assertRedirect();
        $this->get("/tend/incidents/{$incident->id}")->assertOk()->assertSee('Engineer takes care of it')->assertSee('A fan was broken.')
            ->assertDontSee('<script>alert', false)->assertSee('is marked for rehearsals');
        self::assertSame(["incident {$incident->id}"], DB::table('incident_marks')->pluck('name')->all());
        $this->get("/tend/alerts/{$alert->id}")->assertOk()->assertSee('caught what was marked');
        $this->post("/tend/incidents/{$incident->id}/real", ['real' => 0])->assertRedirect();
        self::assertSame(0, DB::table('incident_marks')->count());
        $file = $this->get("/tend/incidents/{$incident->id}/file")->assertOk();
        self::assertSame("attachment; filename=\"incident-{$incident->id}.html\"", $file->headers->get('Content-Disposition'));
        self::assertDoesNotMatchRegularExpression('~<script|<a |href=|src=~', (string) $file->getContent());
        self::assertStringContainsString('A fan was broken.', (string) $file->getContent());
        // An alert that is switched off has nothing that rings.
        $this->post("/tend/alerts/{$alert->id}/switch")->assertSessionHas('done', 'Processors busy is off.');
        self::assertSame(0, Ring::query()->whereNull('to_at')->count());
        $this->judge(13, 13);
        $this->to(self::NOW + 3_600);
        app(AlertJudge::class)->judge(self::NOW + 3_600);
        self::assertNotNull($incident->refresh()->ended_at);
        $this->from('/x')->post("/tend/incidents/{$incident->id}/hand", ['to' => $second->id])->assertSessionHas('failed');
        $this->post("/tend/incidents/{$incident->id}/take")->assertSessionHas('failed', 'It is over already.');
        $this->post("/tend/alerts/{$alert->id}/remove")->assertSessionHas('done');
        self::assertSame([0, 1, 'Processors busy'], [Alert::query()->count(), Ring::query()->count(), Ring::query()->value('alert_name')]);
        $this->get("/tend/incidents/{$incident->id}")->assertOk()->assertSee('Processors busy');
        $this->get('/tend/incidents')->assertRedirect('/tend/alerts');
        $this->get('/tend/incidents/9999')->assertNotFound();
    }

    public function test_what_came_late_after_a_standstill_is_judged_and_a_place_that_is_gone_is_told(): void
    {
        $alert = $this->alert(['judged_to' => null]);
        app(AlertJudge::class)->judge(self::NOW + 90);
        self::assertSame(self::NOW, $alert->refresh()->judged_to);
        for ($minute = -2; $minute <= 120; $minute++) {
            $this->minute($minute, 'fern-01', $minute > 30 && $minute <= 50 ? 1.0 : 0.1);
        }
        $this->to(self::NOW + 7_200);
        app(AlertJudge::class)->judge(self::NOW + 7_200);
        self::assertSame([self::NOW + 1_860, self::NOW + 3_060], [Ring::query()->value('from_at'), Ring::query()->value('to_at')]);
        self::assertNotNull(Incident::query()->sole()->told_at);
        app(AlertJudge::class)->judge(self::NOW + 7_260);
        self::assertSame(self::NOW + 3_060, Incident::query()->value('ended_at'));
        self::assertSame(1, Incident::query()->count());
        // One that cannot be judged keeps no other from it.
        $odd = $this->alert(['name' => 'Odd', 'calm' => 2.0, 'judged_to' => self::NOW]);
        app(AlertJudge::class)->judge(self::NOW + 7_320);
        self::assertStringContainsString('Where it is calm it cannot ring', (string) $odd->refresh()->error);
        self::assertSame(self::NOW + 7_200, $alert->refresh()->judged_to);
        $this->get('/tend/alerts')->assertOk()->assertSee('cannot be judged');
        $odd->delete();
        // A week later at most six hours are made up for.
        $this->to(self::NOW + 7 * 86_400);
        app(AlertJudge::class)->judge(self::NOW + 7 * 86_400);
        self::assertSame(self::NOW + 7 * 86_400 - 120, $alert->refresh()->judged_to);
        self::assertSame(0, Artisan::call('alerts:judge'));
    }

    public function test_what_has_lasted_long_enough_rings_when_the_alert_is_switched_on(): void
    {
        for ($minute = -2; $minute <= 22; $minute++) {
            $this->minute($minute, 'fern-01', $minute > 10 ? 1.0 : 0.1);
        }
        $this->to(self::NOW + 1_350);
        $this->alert(['judged_to' => null, 'for_seconds' => 600]);
        $this->alert(['judged_to' => null, 'for_seconds' => 601]);
        app(AlertJudge::class)->judge(self::NOW + 1_350);
        $ring = Ring::query()->sole();
        self::assertSame([self::NOW + 660, self::NOW + 1_260], [$ring->from_at, $ring->rang_at]);
    }

    public function test_every_signal_is_read_as_it_is(): void
    {
        $sources = app(SignalSources::class);
        $from = self::NOW;
        for ($minute = -2; $minute <= 10; $minute++) {
            $this->minute($minute, 'fern-01', 0.25);
            app(PointStore::class)->take($this->cluster->id, 'fern-01', ($from + 60 * $minute) * 1_000 + 1, [
                new Metric('system.filesystem.usage', 'By', 80.0, ['system.device' => 'a'], false),
                new Metric('system.filesystem.limit', 'By', 100.0, ['system.device' => 'a'], false),
                new Metric('pump.level', 'm', 1.0 + $minute, ['bay' => '1'], false),
                new Metric('pump.level', 'm', 10.0, ['bay' => '2'], false),
                new Metric('pump.turns', '1', 600.0 * ($minute + 2), [], true),
            ]);
            // What the server itself counts is no host.
            app(PointStore::class)->take($this->cluster->id, 'fernhill', ($from + 60 * $minute) * 1_000,
                [new Metric('mariadb.questions', '1', 5.0, [], true)]);
        }
        $labels = array_map(static fn (Signal $one): string => $one->key, $sources->of($this->cluster));
        foreach (['host:processors', 'host:disk-full', 'host:metric.pump.level', 'load:waiting', 'finding:urgent'] as $key) {
            self::assertContains($key, $labels);
        }
        self::assertNotContains('host:metric.mariadb.questions', $labels);
        self::assertNotContains('probe:times', $labels);
        $read = fn (string $key): array => array_replace([], $sources->values($this->cluster, $key, $from, $from + 180, 60));
        self::assertEqualsWithDelta(['fern-01' => [0.25, 0.25, 0.25]], $read('host:processors'), 1e-9);
        self::assertSame(['fern-01' => [0.8, 0.8, 0.8]], $read('host:disk-full'));
        self::assertSame(['fern-01' => [11.0, 12.0, 13.0]], $read('host:metric.pump.level'));
        self::assertEqualsWithDelta(['fern-01' => [10.0, 10.0, 10.0]], $read('host:metric.pump.turns'), 1e-6);
        self::assertSame(['' => [null, null, null]], $read('load:working'));
        // One that ran for half of its five minutes and waited for a fifth of that.
        Artisan::call('telemetry:import', ['file' => $this->file([['started_at' => $from, 'duration_us' => 150_000_000,
            'queued_us' => 30_000_000, 'sql' => 'SELECT a FROM t', 'user' => 'boards']]), '--cluster' => 'fernhill']);
        foreach (['load:working' => 0.4, 'load:waiting' => 0.1] as $key => $value) {
            self::assertSame(['' => [$value, $value, $value]], $sources->values($this->cluster, $key, $from, $from + 180, 60));
        }
        self::assertSame(['' => [null, 0.4, 0.0]], $sources->values($this->cluster, 'load:working', $from - 300, $from + 600, 300));
        self::assertSame([[], [], []], [$read('host:metric.nothing'), $read('nobody:knows'), $read('load:odd')]);
        self::assertSame([], $sources->values($this->cluster, 'load:working', $from, $from, 60));
        self::assertSame('80%', $sources->find($this->cluster, 'host:disk-full')?->say(0.8));
        self::assertNull($sources->find($this->cluster, 'host:other'));
        // Two findings, one of them solved after two minutes.
        foreach ([[true, $from + 119], [false, null]] as $i => [$isUrgent, $solved]) {
            Finding::query()->forceCreate(['digest' => str_repeat((string) $i, 32), 'cluster_id' => $this->cluster->id, 'source' => 'x',
                'rule' => 'r', 'object' => "o{$i}", 'severity' => 'act', 'urgent' => $isUrgent, 'problem' => 'p', 'evidence' => [],
                'weight' => 0.0, 'weight_unit' => WeightUnit::None, 'spare_bytes' => 0.0, 'remedy' => '',
                'first_us' => ($from + 60) * 1_000_000,
                'last_us' => 1, 'changed_us' => 1, 'state' => $solved === null ? 'open' : 'solved',
                'solved_us' => $solved === null ? null : $solved * 1_000_000]);
        }
        self::assertSame([['' => [0.0, 1.0, 0.0]], ['' => [0.0, 2.0, 1.0]]], [$read('finding:urgent'), $read('finding:open')]);
        // A probe: every two minutes, idle one second, the last run failed.
        $book = app(ProbeBook::class);
        $probe = $book->set($this->cluster, $this->person(), 'SELECT 1', '', 120);
        $runs = [];
        for ($i = 1; $i <= 40; $i++) {
            $runs[] = new ProbeRun($from - 120 * $i, 1_000_000);
        }
        $book->add($probe, [...array_reverse($runs), new ProbeRun($from, 5_000_000), new ProbeRun($from + 120, null)]);
        self::assertSame(['' => [5.0, 5.0, null]], $read('probe:times'));
        self::assertSame(['' => [0.0, 0.0, 1.0]], $read('probe:failed'));
        $live = $this->cluster('own');
        $live->update(['connector' => 'mariadb']);
        (new ServerEvents())->restarted($live, ($from + 70) * 1_000_000, 1);
        (new ServerEvents())->set($live, 'max_connections', '1', '2', ($from + 130) * 1_000_000);
        self::assertSame(['' => [0.0, 1.0, 0.0]], $sources->values($live, 'event:restart', $from, $from + 180, 60));
        self::assertSame(['' => [0.0, 0.0, 1.0]], $sources->values($live, 'event:variable', $from, $from + 180, 60));
    }

    public function test_times_the_usual_and_days_left_are_told_of_the_past(): void
    {
        $values = app(AlertValues::class);
        $points = $full = $limit = [];
        for ($day = 28; $day >= 0; $day--) {
            for ($hour = 0; $hour < 24; $hour++) {
                $at = self::NOW - 86_400 * $day + 3_600 * $hour;
                if ($at < self::NOW) {
                    $points[] = [$at * 1_000, $day === 1 && $hour === 9 ? 40.0 : 10.0 + $hour];
                    $full[] = [$at * 1_000, 1_000.0 - 10.0 * $day];
                    $limit[] = [$at * 1_000, 1_090.0];
                }
            }
        }
        app(PointStore::class)->keep($this->cluster->id, 'fern-01', [
            [new Metric('pump.level', 'm', 0.0, [], false), Points::of($points)],
            [new Metric('system.filesystem.usage', 'By', 0.0, [], false), Points::of($full)],
            [new Metric('system.filesystem.limit', 'By', 0.0, [], false), Points::of($limit)],
        ]);
        $utc = new \DateTimeZone('UTC');
        $from = self::NOW - 86_400 + 8 * 3_600;
        $of = fn (string $signal, Watched $watched, int $from, int $to, int $step): array => $values->of($this->cluster, $signal, null,
            $watched, $from, $to, $step, $utc)['fern-01'];
        self::assertEqualsWithDelta([1.0, 40 / 19], $of('host:metric.pump.level', Watched::Usual, $from, $from + 7_200, 3_600), 1e-9);
        // Ten a day; of the last day 990 are used.
        self::assertEqualsWithDelta([10.0], $of('host:disk-full', Watched::DaysLeft, self::NOW - 3_600, self::NOW, 3_600), 1e-6);
        self::assertSame([], $values->of($this->cluster, 'host:disk-full', 'fern-02', Watched::Value, $from, $from + 60, 60, $utc));
    }

    public function test_an_alert_is_rehearsed_before_it_is_set(): void
    {
        $this->get('/tend/alerts/new')->assertOk()->assertSee('Nothing of it is known of the last 28 days');
        $points = [];
        for ($at = self::NOW - 28 * 86_400; $at < self::NOW; $at += 300) {
            // Three evenings of two hours.
            $isBad = in_array(intdiv(self::NOW - $at, 86_400), [3, 10, 17], true) && $at % 86_400 >= 18 * 3_600
                && $at % 86_400 < 20 * 3_600;
            $points[] = [$at * 1_000, $isBad ? 60.0 : 20.0 + $at % 7];
        }
        app(PointStore::class)->keep($this->cluster->id, 'fern-01',
            [[new Metric('pump.level', 'm', 0.0, [], false), Points::of($points)]]);
        $ask = '/tend/alerts/new?cluster=fernhill&signal=host:metric.pump.level&threshold=50&for=30';
        $this->get($ask)->assertOk()->assertSee('It would have rung 3 times in 28 days, for 6 h in all')
            ->assertSee('pump.level of any host: 50 m or more for 30 min')->assertSee('aria-valuenow="50"', false);
        $this->post('/tend/marks', ['cluster' => 'fernhill', 'when' => '2026-11-19 18:00-20:00', 'mark' => 'pump ran dry'])
            ->assertSessionHasNoErrors();
        $this->post('/tend/marks', ['cluster' => 'fernhill', 'when' => '2026-11-21 03:00-04:00', 'mark' => 'nobody saw it'])
            ->assertSessionHasNoErrors();
        $this->get($ask)->assertOk()->assertSee('and missed 1 of 2 that were marked')->assertSee('bracketed missed', false)
            ->assertSee('1 of 2 caught')->assertSee('2 of 3 rings where nothing was marked');
        $mark = (int) DB::table('incident_marks')->where('name', 'nobody saw it')->value('id');
        $this->post("/tend/marks/{$mark}/remove")->assertRedirect();
        $this->post('/tend/marks/999/remove')->assertNotFound();
        $this->get($ask)->assertOk()->assertSee('and caught what was marked')->assertSee('60 m')->assertSee('still catches all')
            ->assertSee('threshold=60', false);
        $this->get(str_replace('threshold=50', 'threshold=61', $ask))->assertOk()->assertSee('It would not have rung in 28 days, and '
            .'missed 1 of 1 that was marked');
        $form = ['cluster' => 'fernhill', 'signal' => 'host:metric.pump.level', 'threshold' => '50', 'for' => '30', 'name' => 'Pump'];
        $this->post('/tend/alerts', ['name' => ''] + $form)->assertSessionHasErrors('name');
        $this->post('/tend/alerts', ['threshold' => 'much'] + $form)
            ->assertSessionHasErrors(['threshold' => 'Write a number, as 90 or 1.5.']);
        $this->post('/tend/alerts', ['calm' => '51'] + $form)->assertSessionHasErrors('calm');
        $this->post('/tend/alerts', ['for' => '-1'] + $form)->assertSessionHasErrors(['for' => 'Write a number from 0 to 10080.']);
        $this->post('/tend/alerts', ['signal' => 'host:nothing'] + $form)->assertSessionHasErrors('signal');
        $this->post('/tend/alerts', ['second_minutes' => '5'] + $form)->assertSessionHasErrors('second_user');
        self::assertSame(0, Alert::query()->count());
        $this->post('/tend/alerts', $form + ['urgent' => '1'])->assertRedirect('/tend/alerts')->assertSessionHas('done', 'Pump is on.');
        $alert = Alert::query()->sole();
        self::assertSame([50.0, 45.0, 1_800, 900, true, true, null],
            [$alert->threshold, $alert->calm, $alert->for_seconds, $alert->calm_seconds, $alert->is_urgent, $alert->is_on, $alert->share]);
        // Another condition begins from quiet.
        $alert->update(['states' => '{"fern-01":[1,2,null,60.0]}', 'judged_to' => 5]);
        $this->post("/tend/alerts/{$alert->id}", ['threshold' => '55', 'share' => '50'] + $form)->assertSessionHas('done');
        $alert->refresh();
        self::assertSame([55.0, 0.5, null, null], [$alert->threshold, $alert->share, $alert->states, $alert->judged_to]);
        $this->post("/tend/alerts/{$alert->id}", ['threshold' => 'x'] + $form)->assertSessionHasErrors('threshold');
        $this->get("/tend/alerts/{$alert->id}")->assertOk()->assertSee('pump.level of 50% of the hosts: 55 m or more for 30 min');
        $this->get("/tend/alerts/{$alert->id}?watched=silence&threshold=30")->assertOk()
            ->assertSee('Any host has told nothing for 30 min');
        $this->get('/tend/alerts/new?cluster=fernhill&signal=nonsense&watched=days-left&for=soon')->assertOk()
            ->assertSee('does not tell &quot;nonsense&quot;', false)->assertSee('Days left are known of what is a share of a limit')
            ->assertSee('Write a number from 0 to 10080.');
        $this->actingAs($this->person(Role::Viewer))->get($ask)->assertOk()->assertDontSee('Switch it on');
        foreach (['when' => 'Say when', 'mark' => 'Say what it was'] as $field => $said) {
            $this->actingAs($this->person())->post('/tend/marks', [$field => ''] + ['cluster' => 'fernhill', 'when' => 'monday',
                'mark' => 'x'])->assertSessionHasErrors($field);
        }
        foreach (['soon', 'tomorrow', 'next 2 hours'] as $when) {
            $this->post('/tend/marks', ['cluster' => 'fernhill', 'when' => $when, 'mark' => 'x'])->assertSessionHasErrors('when');
        }
    }
}
