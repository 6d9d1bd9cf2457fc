<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Alerts\Application\CalendarEvent;
use App\Alerts\Application\IncidentBook;
use App\Alerts\Models\Alert;
use App\Alerts\Models\Incident;
use App\Alerts\Models\IncidentAct;
use App\Alerts\Models\Ring;
use App\Alerts\Models\Silence;
use App\Estate\Models\Cluster;
use App\Ledger\Models\Finding;
use App\Ledger\Models\Notification;
use App\Ledger\Models\Subscription;
use App\Ledger\Notifications\Dispatcher;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use DateTimeZone;
use Fulcrion\Core\Alerts\AlertRing;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\Http;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * Rings get into incidents, and incidents into few messages.
 */
#[Group('today')]
final class IncidentBookTest extends TestCase
{
    private const NOW = 1_795_392_000;

    private Cluster $cluster;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW));
        $this->cluster = $this->cluster();
    }

    protected function tearDown(): void
    {
        Carbon::setTestNow();
        parent::tearDown();
    }

    /**
     * @param  array<string, mixed>  $change
     */
    private function alert(string $name, array $change = []): Alert
    {
        return Alert::query()->create($change + [
            'cluster_id' => $this->cluster->id, 'name' => $name, 'signal' => 'load:waiting', 'watched' => 'value', 'side' => 'above',
            'threshold' => 1.0, 'calm' => 1.0, 'for_seconds' => 0, 'calm_seconds' => 0, 'is_urgent' => false, 'is_on' => true,
            'made_by' => 'x',
        ]);
    }

    private static function ring(string $host, int $minute, ?int $to = null, float $worst = 3.0): AlertRing
    {
        return new AlertRing($host, self::NOW + 60 * $minute, self::NOW + 60 * $minute, $to === null ? null : self::NOW + 60 * $to, $worst);
    }

    /**
     * @param  list<array{Alert, AlertRing}>  $started
     * @param  list<array{Alert, AlertRing}>  $ended
     */
    private function at(int $minute, array $started = [], array $ended = [], ?Cluster $cluster = null): void
    {
        $now = self::NOW + 60 * $minute;
        Carbon::setTestNow(Carbon::createFromTimestamp($now));
        app(IncidentBook::class)->take($cluster ?? $this->cluster, $started, $ended, $now, $now);
    }

    /** @return list<string> */
    private static function said(): array
    {
        return array_values(IncidentAct::query()->orderBy('id')->pluck('said')->all());
    }

    public function test_it_is_told_again_when_it_is_twice_as_large_and_a_quarter_of_an_hour_has_gone_by(): void
    {
        $alert = $this->alert('Slow');
        $this->at(0, [[$alert, self::ring('h-0', 0)]]);
        for ($minute = 1; $minute <= 14; $minute++) {
            $this->at($minute, [[$alert, self::ring("h-{$minute}", $minute)]]);
        }
        self::assertSame(['Began: Fernhill: Executions that wait of h-0 at 3'], self::said());
        $this->at(15);
        self::assertSame('Grew: 15 hosts of Fernhill: Slow', self::said()[1]);
        $this->at(40, [[$alert, self::ring('h-15', 40)]]);
        self::assertCount(2, self::said(), '16 are not twice 15');
        self::assertSame([15, 1], [Incident::query()->sole()->told, Incident::query()->count()]);
        // All of them end; one rings again before it is over, and that goes on.
        $ends = array_map(static fn (int $i): array => [$alert, self::ring("h-{$i}", $i === 15 ? 40 : $i, 50)], range(0, 15));
        $this->at(50, [], $ends);
        self::assertSame(self::NOW + 3_000, Incident::query()->sole()->quiet_since);
        $this->at(60, [[$alert, self::ring('h-3', 60)]]);
        self::assertNull(Incident::query()->sole()->quiet_since);
        $this->at(70, [], [[$alert, self::ring('h-3', 60, 70)]]);
        $this->at(84);
        self::assertNull(Incident::query()->sole()->ended_at);
        $this->at(85);
        self::assertSame(self::NOW + 4_200, Incident::query()->sole()->ended_at);
        self::assertSame('Over: 16 hosts of Fernhill: Slow', self::said()[2]);
        // What rings after that is another one.
        $this->at(86, [[$alert, self::ring('h-3', 86)]]);
        self::assertSame(2, Incident::query()->count());
    }

    public function test_what_begins_together_is_one_incident_and_clusters_have_their_own(): void
    {
        $wren = $this->cluster('wren');
        [$a, $b, $late] = [$this->alert('A'), $this->alert('B', ['is_urgent' => true]), $this->alert('Late')];
        $other = $this->alert('Other', ['cluster_id' => $wren->id]);
        $this->at(0, [[$a, self::ring('', 0)]]);
        $this->at(8, [[$b, self::ring('', 8)]]);
        $this->at(8, [[$other, self::ring('', 8)]], cluster: $wren);
        $this->at(30, [[$late, self::ring('', 30)]]);
        $incidents = Incident::query()->orderBy('id')->get();
        self::assertSame(['Fernhill: Executions that wait at 3, and 1 more alert', 'Wren: Executions that wait at 3',
            'Fernhill: Executions that wait at 3'], $incidents->pluck('title')->all());
        self::assertSame([true, false, false], $incidents->pluck('is_urgent')->all());
        // One that waits long before it rings began with the first.
        $slow = $this->alert('Waits long');
        $this->at(35, [[$slow, new AlertRing('', self::NOW + 540, self::NOW + 2_100, null, 9.0)]]);
        self::assertSame($incidents[0]->id, Ring::query()->where('alert_name', 'Waits long')->value('incident_id'));
        self::assertStringEndsWith('and 2 more alerts', (string) $incidents[0]->refresh()->title);
        // Told twice it is there once.
        $this->at(36, [[$late, self::ring('', 30)]]);
        self::assertSame(1, Ring::query()->where('alert_name', 'Late')->count());
        self::assertEqualsCanonicalizing(["incident {$incidents[0]->id}", "incident {$incidents[2]->id}"],
            Finding::query()->where('cluster_id', $this->cluster->id)->where('state', 'open')->pluck('object')->all());
    }

    public function test_the_soonest_second_step_is_taken_once_and_not_where_somebody_has_it(): void
    {
        [$first, $second] = [$this->person(Role::Engineer), $this->person(Role::Owner)];
        $slow = $this->alert('Slow', ['second_minutes' => 30, 'second_user_id' => $first->id]);
        $quick = $this->alert('Quick', ['second_minutes' => 10, 'second_user_id' => $second->id]);
        $this->at(0, [[$slow, self::ring('', 0)]]);
        $this->at(5, [[$quick, self::ring('', 5)]]);
        $this->at(14);
        self::assertSame(0, Notification::query()->count());
        // When it has grown that is told first.
        $this->at(15);
        $this->at(16);
        self::assertSame([$second->email], Notification::query()->pluck('recipient')->all());
        $this->at(60);
        self::assertSame(1, Notification::query()->count(), 'once');
        // Somebody has the next one before that.
        $this->at(200, [[$quick, self::ring('x', 200)]]);
        Incident::query()->orderByDesc('id')->firstOrFail()->update(['taken_at' => self::NOW, 'taken_by' => 'x']);
        $this->at(230);
        self::assertSame(1, Notification::query()->count());
        // And who left is told nothing.
        $this->at(400, [[$slow, self::ring('y', 400)]]);
        $first->update(['disabled_at' => Carbon::now()]);
        $this->at(450);
        self::assertSame(1, Notification::query()->count());
    }

    public function test_a_storm_of_rings_is_put_into_one_incident_in_a_while(): void
    {
        $alert = $this->alert('Storm');
        $started = array_map(static fn (int $i): array => [$alert, self::ring("h-{$i}", 0)], range(1, 1_500));
        $queries = 0;
        DB::listen(static function () use (&$queries): void {
            $queries++;
        });
        $this->at(0, $started);
        self::assertSame([1_500, 1, '1500 hosts of Fernhill: Storm'], [Ring::query()->whereNotNull('incident_id')->count(),
            Incident::query()->count(), Incident::query()->value('title')]);
        self::assertLessThan(80, $queries, 'not one for each ring');
        self::assertSame(1_500, Incident::query()->value('told'));
        $this->at(20);
        self::assertCount(1, self::said());
    }

    public function test_what_is_silenced_when_it_rings_is_told_to_nobody_and_ends_in_silence(): void
    {
        $alert = $this->alert('Quiet');
        $event = CalendarEvent::make('u', 'work', self::NOW, self::NOW + 3_600, new DateTimeZone('UTC'), '', self::NOW);
        Silence::query()->create(['uid' => 'u', 'cluster_id' => $this->cluster->id, 'host' => 'h-1', 'from_at' => self::NOW,
            'to_at' => self::NOW + 3_600, 'event' => $event->text(), 'reason' => 'work', 'made_by' => 'x']);
        $this->at(1, [[$alert, self::ring('h-1', 1)], [$alert, self::ring('h-2', 1)]]);
        self::assertSame(['h-2'], Ring::query()->whereNotNull('incident_id')->pluck('host')->all());
        $this->at(10, [], [[$alert, self::ring('h-1', 1, 9)]]);
        $this->at(70);
        self::assertSame(['h-2'], Ring::query()->whereNotNull('incident_id')->pluck('host')->all(), 'it ended before the silence did');
    }

    public function test_a_receiver_that_fails_is_tried_again_and_gets_the_same_signed_message(): void
    {
        config(['fulcrion.reachable' => '127.0.0.1']);
        Subscription::query()->create(['kind' => 'webhook', 'target' => 'http://127.0.0.1:9/pager', 'hears' => 'incidents',
            'secret' => 'a secret', 'made_by' => 'x']);
        Subscription::query()->create(['kind' => 'mail', 'target' => 'a@b.example', 'hears' => 'incidents', 'made_by' => 'x']);
        $this->at(0, [[$this->alert('A'), self::ring('', 0)]]);
        $answers = [500, 302, 204];
        $sent = [];
        Http::fake(function ($request) use (&$answers, &$sent) {
            $sent[] = [$request->body(), $request->header('Signature')[0] ?? '', $request->header('Content-Digest')[0] ?? ''];

            return Http::response('', array_shift($answers) ?? 204);
        });
        $webhook = Notification::query()->where('kind', 'webhook')->sole();
        foreach ([[0, 'waiting', 60], [60, 'waiting', 300], [360, 'sent', null]] as [$after, $state, $pause]) {
            Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW + $after));
            app(Dispatcher::class)->send();
            $webhook->refresh();
            self::assertSame($state, $webhook->state);
            self::assertSame($pause === null ? null : Clock::microseconds() + $pause * 1_000_000,
                $pause === null ? null : (int) $webhook->retry_us);
        }
        self::assertCount(3, $sent);
        self::assertSame($sent[0][0], $sent[2][0]);
        self::assertSame($sent[0][2], $sent[2][2]);
        self::assertNotSame($sent[0][1], $sent[2][1], 'it says when it was signed');
        // Where no mail server is set up a letter stays to be read.
        $letter = Notification::query()->where('kind', 'mail')->sole();
        self::assertSame('kept', $letter->state);
        self::assertStringContainsString('Mon 23 Nov 00:00 UTC  A: Executions that wait at 3', $letter->body);
        self::assertStringContainsString('/tend/incidents/'.Incident::query()->value('id'), $letter->body);
    }
}
