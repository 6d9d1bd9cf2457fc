<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Models\Cluster;
use App\Health\Application\ClusterLine;
use App\Health\Application\ClusterLines;
use App\Health\Application\InFlight;
use App\Health\Application\InFlightAt;
use App\Health\Probes\ProbeBook;
use App\Metrics\Store\PointStore;
use App\Platform\Support\Role;
use Fulcrion\Core\Health\ProbeRun;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\Points;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * All clusters, one cluster over time, and one moment of it.
 */
#[Group('today')]
final class ClusterTimeTest extends TestCase
{
    private const NOW = 1_795_392_000;

    private const HOUR = 3_600;

    private Cluster $cluster;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW));
        $this->cluster = $this->cluster();
        $this->actingAs($this->person(Role::Viewer));
    }

    protected function tearDown(): void
    {
        Carbon::setTestNow();
        parent::tearDown();
    }

    /** Four nodes whose disks follow the load a quarter of an hour later, and one that does what it likes. */
    private function nodes(): void
    {
        for ($node = 1; $node <= 5; $node++) {
            $read = $idle = $user = $busy = [];
            $bytes = $seconds = $work = $time = 0.0;
            for ($at = self::NOW - 30 * self::HOUR; $at <= self::NOW; $at += 300) {
                $busyHour = in_array(intdiv($at - 900, self::HOUR) % 4, [1, 2], true);
                $bytes += $node === 5 ? ($at / 300 % 3) * 1e9 : ($busyHour ? 30e9 : 3e9) + $at / 300 % 5 * 1e8;
                $work += $busyHour ? 2_400.0 : 480.0;
                $seconds += $busyHour ? 2_400.0 : 4_320.0;
                $time = $bytes / 1e10;
                $read[] = [$at * 1_000, $bytes];
                $user[] = [$at * 1_000, $work];
                $idle[] = [$at * 1_000, $seconds];
                $busy[] = [$at * 1_000, $time];
            }
            app(PointStore::class)->keep($this->cluster->id, "fern-0{$node}", [
                [new Metric('system.disk.io', 'By', 0.0, ['disk.io.direction' => 'read'], true), Points::of($read)],
                [new Metric('system.disk.io_time', 's', 0.0, [], true), Points::of($busy)],
                [new Metric('system.cpu.time', 's', 0.0, ['cpu.mode' => 'user'], true), Points::of($user)],
                [new Metric('system.cpu.time', 's', 0.0, ['cpu.mode' => 'idle'], true), Points::of($idle)],
            ]);
        }
    }

    private function history(): void
    {
        $records = [];
        for ($at = self::NOW - 29 * self::HOUR; $at < self::NOW - 300; $at += 300) {
            $isBusy = in_array(intdiv($at, self::HOUR) % 4, [1, 2], true);
            $us = $isBusy ? 240_000_000 + $at % 7 * 1_000_000 : 20_000_000 + $at % 11 * 100_000;
            $records[] = ['started_at' => $at, 'duration_us' => $us,
                'sql' => 'SELECT a FROM t', 'user' => 'boards', 'bytes_scanned' => 9_000_000_000];
        }
        // One that crosses 20:10 and waited for two of its five minutes.
        $records[] = ['started_at' => self::NOW - 4 * self::HOUR + 480, 'duration_us' => 300_000_000, 'queued_us' => 120_000_000,
            'sql' => "SELECT secret FROM people WHERE name = 'Ada Hollow'", 'user' => 'forecast_lab', 'bytes_scanned' => 90_000_000_000];
        Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'fernhill']);
    }

    public function test_a_cluster_over_time_and_what_moved_with_it(): void
    {
        $this->get('/tend/time')->assertOk()->assertSee('Nothing is known of what ran on Fernhill');
        $this->nodes();
        $this->history();
        $page = $this->get('/tend/time?window=last+24+hours')->assertOk()->assertSee('Fernhill had 0.4')->assertSee('In flight')
            ->assertSee('Processors at work')->assertSee('the node in the middle')->assertSee('What moved with it')
            ->assertSee('need not be cause and effect');
        $html = (string) $page->getContent();
        // The disks of four nodes come later, the fifth moves with nothing.
        self::assertMatchesRegularExpression('~<td>Disks</td><td>the node in the middle</td>\s*<td class="n">\+0\.[6-9]\d</td>'
            .'<td>\d+ min later~', $html);
        self::assertStringContainsString('<td>fern-01</td>', $html);
        $others = (string) preg_replace('~<td>Processors at work</td><td>fern-05</td>~', '', $html);
        self::assertStringNotContainsString('<td>fern-05</td>', $others);
        $this->get('/tend/time?window=some+day&at=nonsense&cluster=none')->assertOk()->assertSee('The usual is shown instead');
        $this->get('/tend/time?window=2026-11-22&at=2026-11-22+20:10')->assertOk()->assertSee('In flight Sun 22 Nov 20:10')
            ->assertSee('forecast_lab');
    }

    public function test_an_interval_of_a_chart_leads_to_its_moment_and_the_moment_is_marked(): void
    {
        $this->nodes();
        $this->history();
        $html = (string) $this->get('/tend/time?window=2026-11-22&cluster=fernhill')->assertOk()->getContent();
        preg_match_all('~<a tabindex="-1" href="([^"]+)" aria-label="([^"]+)"~', $html, $links, PREG_SET_ORDER);
        // A day in quarters of an hour, three charts of it.
        self::assertCount(3 * 96, $links);
        $asked = array_map(static function (array $link): array {
            parse_str((string) parse_url(html_entity_decode($link[1]), PHP_URL_QUERY), $query);

            return [$query, $link[2]];
        }, array_slice($links, 0, 96));
        self::assertSame(['cluster' => 'fernhill', 'window' => '2026-11-22', 'at' => '2026-11-22 00:00', 'for' => '900'], $asked[0][0]);
        self::assertSame('2026-11-22 20:00', $asked[80][0]['at']);
        self::assertStringStartsWith('Sun 22 Nov 20:00–20:15: at work ', $asked[80][1]);
        $page = $this->get(html_entity_decode($links[80][1]))->assertOk()->assertSee('In flight Sun 22 Nov 20:00–20:15')
            // It began at 20:08.
            ->assertSee('forecast_lab')->assertSee('took 5 min, of which')->assertSee('20:08:00')
            ->assertSee('at=2026-11-22+20%3A08', false)->assertDontSee('Ada');
        preg_match('~data-plot="([^"]+)"~', (string) $page->getContent(), $plot);
        $marks = (array) json_decode(html_entity_decode($plot[1]), true)['marks'];
        self::assertSame([[strtotime('2026-11-22 20:07:30 UTC'), 'looked at']], $marks);
        // Without a moment the one at which most was in flight, which is marked as well.
        preg_match('~In flight Sun 22 Nov (\d\d):(\d\d)~', $html, $peak);
        preg_match('~data-plot="([^"]+)"~', $html, $plot);
        self::assertSame([[(int) strtotime("2026-11-22 {$peak[1]}:{$peak[2]} UTC") + 450, 'looked at']],
            json_decode(html_entity_decode($plot[1]), true)['marks']);
        // What is no interval of a chart is a minute.
        foreach (['', '&for=17', '&for=x'] as $for) {
            $this->get("/tend/time?window=2026-11-22&at=2026-11-22+20:00{$for}")->assertOk()
                ->assertSee('In flight Sun 22 Nov 20:00<', false)->assertDontSee('forecast_lab');
        }
    }

    public function test_what_was_in_flight_in_a_minute_is_told_without_its_literals(): void
    {
        $this->history();
        $at = self::NOW - 4 * self::HOUR + 600;
        $found = app(InFlightAt::class)->of($this->cluster, $at);
        self::assertSame('forecast_lab', $found[0]->user);
        self::assertSame([300_000_000, 120_000_000, 90_000_000_000], [$found[0]->durationUs, $found[0]->waitedUs, $found[0]->bytesRead]);
        self::assertStringNotContainsString('Ada', $found[0]->text);
        $users = static fn (array $list): array => array_map(static fn (InFlight $one): string => $one->user, $list);
        // From the second it began to the second before it ended.
        self::assertContains('forecast_lab', $users(app(InFlightAt::class)->of($this->cluster, $at - 120)));
        self::assertContains('forecast_lab', $users(app(InFlightAt::class)->of($this->cluster, $at + 179)));
        self::assertNotContains('forecast_lab', $users(app(InFlightAt::class)->of($this->cluster, $at + 180)));
        self::assertNotContains('forecast_lab', $users(app(InFlightAt::class)->of($this->cluster, $at - 181)));
        self::assertSame([], app(InFlightAt::class)->of($this->cluster, self::NOW - 90 * self::HOUR));
    }

    public function test_a_moment_is_one_page_and_one_file(): void
    {
        $this->nodes();
        $this->history();
        $page = $this->get('/tend/moment?at=2026-11-22+20:10')->assertOk()->assertSee('Sun 22 Nov 20:10: nobody knows')
            ->assertSee('forecast_lab')->assertSee('fern-03')->assertSee('Take it away as one file');
        self::assertStringContainsString('class="waited-part"', (string) $page->getContent());
        $this->get('/tend/moment?at=nonsense&cluster=zz')->assertOk()->assertSee('This moment is shown instead');
        $file = $this->get('/tend/moment/file?cluster=fernhill&at=2026-11-22+20:10')->assertOk();
        self::assertSame('attachment; filename="fernhill-20261122-201000.html"', $file->headers->get('Content-Disposition'));
        $html = (string) $file->getContent();
        self::assertStringContainsString('forecast_lab', $html);
        self::assertDoesNotMatchRegularExpression('~<script|<a |href=|src=|Ada~', $html);
        self::assertSame(1, (new \DOMDocument())->loadHTML($html, LIBXML_NOERROR) ? 1 : 0);
    }

    public function test_all_clusters_stand_in_a_row_each_with_their_nodes(): void
    {
        $this->cluster('wren');
        $this->nodes();
        $this->history();
        $book = app(ProbeBook::class);
        $runs = [];
        for ($at = self::NOW - 86_400; $at < self::NOW; $at += 300) {
            $runs[] = new ProbeRun($at, $at > self::NOW - 2 * self::HOUR ? 3_000_000 : 1_000_000);
        }
        $book->add($book->set($this->cluster, $this->person(), 'SELECT 1', '', 300), $runs);
        [$fernhill, $wren] = app(ClusterLines::class)->at(self::NOW - 300);
        self::assertSame(['act', 'struggles: the probe takes 3 times its idle time'], [$fernhill->mark(), $fernhill->word()]);
        self::assertCount(5, $fernhill->nodes);
        self::assertEqualsWithDelta(0.1, (float) $fernhill->nodes[0]->processor, 1e-6);
        // Three billion bytes in five minutes, and a little, of ten billion a second.
        self::assertEqualsWithDelta(0.3 / 300, (float) $fernhill->nodes[0]->disk, 2e-4);
        self::assertSame(['no data', 'nothing is known of this moment'], [$wren->mark(), $wren->word()]);
        [$before] = app(ClusterLines::class)->at(self::NOW - 6 * self::HOUR);
        self::assertSame(['calm', 'all is calm'], [$before->mark(), $before->word()]);
        // Of three rings one goes on, one was over then, and one is silenced.
        foreach ([['a', 600, null, false], ['b', 900, 500, false], ['c', 600, null, true]] as [$host, $rang, $ended, $isSilenced]) {
            DB::table('alert_rings')->insert(['cluster_id' => $this->cluster->id, 'alert_name' => 'Busy', 'host' => $host,
                'from_at' => self::NOW - $rang, 'rang_at' => self::NOW - $rang, 'to_at' => $ended === null ? null : self::NOW - $ended,
                'worst' => 1.0, 'said' => 's', 'is_silenced' => $isSilenced]);
        }
        $ringing = static fn (int $ago): array => array_map(static fn (ClusterLine $line): int => $line->ringing,
            app(ClusterLines::class)->at(self::NOW - $ago));
        self::assertSame([[1, 0], [2, 0], [1, 0], [0, 0], [1, 0], [0, 0]],
            array_map($ringing, [300, 600, 601, 901, 500, 1_000]));
        $this->get('/tend/clusters')->assertOk()->assertSee('/tend/lines', false);
        $page = $this->get('/tend/lines')->assertOk()->assertSee('struggles: the probe takes 3 times')->assertSee('none is read');
        self::assertSame(5, substr_count((string) $page->getContent(), 'class="node"'));
        $this->get('/tend/lines?at=one+day')->assertOk()->assertSee('is not a moment');
    }
}
