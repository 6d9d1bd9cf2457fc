<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Alerts\Application\AlertDraft;
use App\Alerts\Application\AlertValues;
use App\Alerts\Application\AlertWords;
use App\Alerts\Application\Rehearsal;
use App\Alerts\Charts\LanesFigure;
use App\Alerts\Charts\RehearsalFigure;
use App\Alerts\Models\Alert;
use App\Estate\EstateCalendar;
use App\Estate\Models\Cluster;
use App\Metrics\Signals\SignalSources;
use App\Metrics\Store\PointStore;
use DateTimeZone;
use Fulcrion\Core\Alerts\AlertRing;
use Fulcrion\Core\Alerts\ThresholdSide;
use Fulcrion\Core\Alerts\Watched;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\Points;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * A condition as it is filled in, as it is said, and as it is drawn.
 */
#[Group('today')]
final class AlertDraftTest extends TestCase
{
    private const NOW = 1_795_392_000;

    private Cluster $cluster;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW));
        $this->cluster = $this->cluster();
        // Two hosts, one of them busy on one evening; its file systems fill up.
        foreach (['fern-01', 'fern-02'] as $host) {
            $user = $idle = $used = $limit = [];
            $work = $rest = 0.0;
            for ($at = self::NOW - 28 * 86_400; $at <= self::NOW; $at += 300) {
                $isBusy = $host === 'fern-02' && $at > self::NOW - 5 * 86_400 && $at <= self::NOW - 5 * 86_400 + 7_200;
                $work += 300 * ($isBusy ? 0.95 : 0.2);
                $rest += 300 * ($isBusy ? 0.05 : 0.8);
                $user[] = [$at * 1_000, $work];
                $idle[] = [$at * 1_000, $rest];
                $used[] = [$at * 1_000, 500.0 + ($host === 'fern-02' ? ($at - self::NOW) / 86_400 * 10 : 0.0)];
                $limit[] = [$at * 1_000, 600.0];
            }
            app(PointStore::class)->keep($this->cluster->id, $host, [
                [new Metric('system.cpu.time', 's', 0.0, ['cpu.mode' => 'user'], true), Points::of($user)],
                [new Metric('system.cpu.time', 's', 0.0, ['cpu.mode' => 'idle'], true), Points::of($idle)],
                [new Metric('system.filesystem.usage', 'By', 0.0, [], false), Points::of($used)],
                [new Metric('system.filesystem.limit', 'By', 0.0, [], false), Points::of($limit)],
            ]);
        }
    }

    protected function tearDown(): void
    {
        Carbon::setTestNow();
        parent::tearDown();
    }

    /**
     * @param  array<string, string>  $asked
     */
    private function draft(array $asked = [], ?Alert $known = null): AlertDraft
    {
        return AlertDraft::of($this->cluster, $asked, app(SignalSources::class), $known);
    }

    public function test_what_is_not_filled_in_is_as_it_usually_is(): void
    {
        $draft = $this->draft();
        self::assertSame([], $draft->complaints);
        self::assertSame(['host:processors', Watched::Value, ThresholdSide::Above, 0.9, 0.81, 900, 900, null, null],
            [$draft->alert->signal, $draft->alert->watched, $draft->alert->side, $draft->alert->threshold, round($draft->alert->calm, 9),
                $draft->alert->for_seconds, $draft->alert->calm_seconds, $draft->alert->share, $draft->alert->host]);
        self::assertSame(['90', '81', '15', '15', '', ''], [$draft->fields['threshold'], $draft->fields['calm'], $draft->fields['for'],
            $draft->fields['quiet'], $draft->fields['share'], $draft->fields['host']]);
        // Each kind in its own units.
        $silent = $this->draft(['watched' => 'silence', 'threshold' => '20'])->alert;
        self::assertSame([1_200.0, 1_200.0, 0], [$silent->threshold, $silent->calm, $silent->for_seconds]);
        $full = $this->draft(['signal' => 'host:disk-full', 'watched' => 'days-left', 'threshold' => '14', 'side' => 'above'])->alert;
        self::assertSame([ThresholdSide::Below, 14.0, 15.4], [$full->side, $full->threshold, round($full->calm, 9)]);
        $usual = $this->draft(['watched' => 'usual'])->alert;
        self::assertSame([2.0, 1.8], [$usual->threshold, $usual->calm]);
        $below = $this->draft(['side' => 'below', 'threshold' => '10 %'])->alert;
        self::assertSame([0.1, 0.11], [$below->threshold, round($below->calm, 9)]);
    }

    public function test_one_host_any_host_or_a_share_of_them(): void
    {
        self::assertSame([null, 0.25], [$this->draft(['share' => '25'])->alert->host, $this->draft(['share' => '25'])->alert->share]);
        $one = $this->draft(['host' => 'fern-02', 'share' => '25'])->alert;
        self::assertSame(['fern-02', null], [$one->host, $one->share], 'of one host there is no share');
        self::assertSame('Write a number from 1 to 100.', $this->draft(['share' => '101'])->complaints['share']);
        self::assertNull($this->draft(['share' => '101'])->alert->share);
        $load = $this->draft(['signal' => 'load:waiting', 'host' => 'fern-02', 'share' => '25'])->alert;
        self::assertSame([null, null, 2.0], [$load->host, $load->share, $load->threshold], 'of a cluster there are no hosts');
    }

    public function test_what_is_not_asked_for_stays_as_it_is_set(): void
    {
        $known = new Alert(['cluster_id' => $this->cluster->id, 'name' => 'Busy', 'signal' => 'host:processors',
            'watched' => Watched::Value, 'side' => ThresholdSide::Above, 'threshold' => 0.7, 'calm' => 0.5, 'for_seconds' => 600,
            'calm_seconds' => 120, 'share' => 0.5, 'host' => null]);
        $same = $this->draft([], $known);
        self::assertSame(['Busy', 0.7, 0.5, 600, 120, 0.5], [$same->alert->name,
            round($same->alert->threshold, 9), round($same->alert->calm, 9),
            $same->alert->for_seconds, $same->alert->calm_seconds, $same->alert->share]);
        // Another threshold takes its calm value along.
        $moved = $this->draft(['threshold' => '80'], $known)->alert;
        self::assertSame([0.8, 0.72, 600], [$moved->threshold, round($moved->calm, 9), $moved->for_seconds]);
        self::assertNull($this->draft(['share' => ''], $known)->alert->share);
        // What is of another kind or another measure is in other units.
        self::assertSame([0.85, 900], [$this->draft(['signal' => 'host:disk-full'], $known)->alert->threshold,
            $this->draft(['signal' => 'host:disk-full'], $known)->alert->for_seconds]);
        self::assertSame(2.0, $this->draft(['watched' => 'usual'], $known)->alert->threshold);
    }

    public function test_a_condition_and_a_ring_are_said_as_people_say_them(): void
    {
        $signals = app(SignalSources::class)->byKey($this->cluster);
        $say = fn (array $asked): string => AlertWords::condition($this->draft($asked)->alert, $this->draft($asked)->signal);
        self::assertSame('Processors at work of any host: 90% or more for 15 min', $say([]));
        self::assertSame('Processors at work of fern-02: 10% or less', $say(['host' => 'fern-02', 'side' => 'below', 'threshold' => '10',
            'for' => '0']));
        self::assertSame('Processors at work of 50% of the hosts: 2 times the usual or more for 15 min', $say(['watched' => 'usual',
            'share' => '50']));
        self::assertSame('Any host has told nothing for 15 min, by Processors at work', $say(['watched' => 'silence']));
        self::assertSame('File systems used of any host: full in 30 days or sooner', $say(['signal' => 'host:disk-full',
            'watched' => 'days-left']));
        self::assertSame('Executions that wait: 2 or more for 15 min', $say(['signal' => 'load:waiting']));
        $ring = static fn (float $worst, string $host = 'fern-02'): AlertRing => new AlertRing($host, 1, 2, null, $worst);
        $words = fn (array $asked, AlertRing $ring): string => AlertWords::ring($this->draft($asked)->alert, $ring,
            $this->draft($asked)->signal);
        self::assertSame('Processors at work of fern-02 at 95%', $words([], $ring(0.95)));
        self::assertSame('Processors at work: 75% of the hosts at 90%', $words(['share' => '50'], $ring(0.75, '')));
        self::assertSame('fern-02 has told nothing for 1 h', $words(['watched' => 'silence'], $ring(3_600.0)));
        self::assertSame('Executions that wait at 3.5', $words(['signal' => 'load:waiting'], $ring(3.5, '')));
        self::assertSame('fern-02 is full in 9 days',
            $words(['signal' => 'host:disk-full', 'watched' => 'days-left'], $ring(9.0)));
        self::assertSame('ten years', AlertWords::value($this->draft(['signal' => 'host:disk-full', 'watched' => 'days-left'])->alert,
            3_650.0, $signals['host:disk-full']));
        self::assertSame('0.5', AlertWords::value(new Alert(['watched' => Watched::Value]), 0.5, null));
    }

    public function test_the_rehearsal_is_drawn_with_what_rang_and_what_was_marked(): void
    {
        $draft = $this->draft(['threshold' => '80', 'for' => '30']);
        $busy = self::NOW - 5 * 86_400;
        foreach ([[$busy, $busy + 7_200, 'the evening'], [$busy - 86_400, $busy - 82_800, 'the one before']] as [$from, $to, $name]) {
            DB::table('incident_marks')->insert(['cluster_id' => $this->cluster->id, 'from_at' => $from, 'to_at' => $to, 'name' => $name,
                'made_by' => 'x']);
        }
        $rehearsal = Rehearsal::of($this->cluster, $draft->alert, app(AlertValues::class), app(EstateCalendar::class), self::NOW);
        self::assertSame([300, 1, 1, 1, 1], [$rehearsal->step, count($rehearsal->rings), $rehearsal->incidents, $rehearsal->words,
            count($rehearsal->score->missed)]);
        self::assertSame('fern-02', $rehearsal->rings[0]->host);
        self::assertEqualsWithDelta(7_200, $rehearsal->seconds(), 900);
        self::assertSame(0.2, $rehearsal->quietest, 'an evening like all others is caught by what always rings');
        $figure = RehearsalFigure::draw($rehearsal, $draft->alert, $draft->signal, new DateTimeZone('UTC'));
        self::assertNotNull($figure);
        self::assertSame(1, substr_count($figure->svg, 'class="rang"'));
        self::assertSame(1, substr_count($figure->svg, 'class="bracketed"'));
        self::assertSame(1, substr_count($figure->svg, 'class="bracketed missed"'));
        self::assertStringContainsString('the evening: caught', $figure->svg);
        self::assertStringContainsString('the one before: missed', $figure->svg);
        // From 34 to 276 stand 100 to 0 per cent; the calm value is at nine tenths of the threshold.
        self::assertStringContainsString('aria-valuemax="100" aria-valuenow="80" aria-valuetext="80%" data-top="34" data-bottom="276" '
            .'transform="translate(0 82.4)"', $figure->svg);
        self::assertMatchesRegularExpression('~class="calm-line" x1="76" x2="1172" y1="101\.76"~', $figure->svg);
        self::assertSame([['rang', 'host', 'since', 'until', 'for', 'worst'], 1, 'fern-02', '95%'],
            [$figure->head, count($figure->rows), $figure->rows[0][1], $figure->rows[0][5]]);
        // Of what is years away there is no room for what matters.
        $full = $this->draft(['signal' => 'host:disk-full', 'watched' => 'days-left', 'threshold' => '30']);
        $days = Rehearsal::of($this->cluster, $full->alert, app(AlertValues::class), app(EstateCalendar::class), self::NOW);
        self::assertSame(3_600, $days->step);
        $drawn = RehearsalFigure::draw($days, $full->alert, $full->signal, new DateTimeZone('UTC'));
        self::assertSame(1, preg_match('~aria-valuemax="([\d.]+)"~', (string) $drawn?->svg, $top));
        self::assertLessThanOrEqual(200.0, (float) $top[1]);
        self::assertSame('fern-02', $days->rings[0]->host, 'it has ten days left, and the other does not grow');
        self::assertNull(RehearsalFigure::draw(Rehearsal::of($this->cluster('wren'), $draft->alert, app(AlertValues::class),
            app(EstateCalendar::class), self::NOW), $draft->alert, $draft->signal, new DateTimeZone('UTC')));
    }

    public function test_lanes_hold_what_lasted_and_what_happened_once(): void
    {
        $figure = LanesFigure::draw('x', 'Title', 'Summary.', 'How.', [
            ['a lane <with> a long name indeed', [[self::NOW, self::NOW + 1_800, 'half an hour', 'urgent']]],
            ['changes', [[self::NOW + 900, null, 'change 7 applied', 'set'], [self::NOW + 60, null, 'before', 'set']]],
            ['nothing', []],
        ], self::NOW, self::NOW + 3_600, new DateTimeZone('UTC'));
        self::assertMatchesRegularExpression('~<rect class="lasted urgent" x="168" y="15" width="501" height="12">~', $figure->svg);
        self::assertMatchesRegularExpression('~<circle class="happened set" cx="418\.5" cy="47" r="4\.5">~', $figure->svg);
        self::assertStringContainsString('a lane &lt;with&gt; a long …', $figure->svg);
        self::assertSame(['half an hour', 'before', 'change 7 applied'], array_column($figure->rows, 3));
        self::assertSame(['30 min', '', ''], array_column($figure->rows, 2));
    }
}
