<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Models\Cluster;
use App\Health\Application\ClusterLine;
use App\Health\Application\HostsBeside;
use App\Health\Application\InFlight;
use App\Health\Application\LiveView;
use App\Health\Application\NodeMark;
use App\Health\Charts\LiveBar;
use App\Health\Charts\MomentFigure;
use App\Health\Charts\NodesFigure;
use App\Health\Charts\ProbeFigure;
use App\Health\Charts\StripsFigure;
use App\Metrics\Signals\HostMeasure;
use App\Metrics\Store\HostReadings;
use App\Metrics\Store\PointStore;
use DateTimeZone;
use Fulcrion\Core\Health\ProbeRun;
use Fulcrion\Core\Health\ProbeScale;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\Points;
use Fulcrion\Core\Metrics\Readings;
use Fulcrion\Core\Time\Window;
use Illuminate\Support\Carbon;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * The figures of Tend say what they were given, draw what differs and call it by its name.
 */
#[Group('today')]
final class HealthFigureTest extends TestCase
{
    /** Monday, 23 November 2026. */
    private const NOW = 1_795_392_000;

    private const DAY = 86_400;

    private DateTimeZone $utc;

    private Cluster $cluster;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW));
        $this->utc = new DateTimeZone('UTC');
        $this->cluster = $this->cluster();
    }

    protected function tearDown(): void
    {
        Carbon::setTestNow();
        parent::tearDown();
    }

    /** A drawing that is well-formed, and its text. */
    private static function parsed(string $svg): \SimpleXMLElement
    {
        $xml = simplexml_load_string($svg, \SimpleXMLElement::class, LIBXML_NOERROR | LIBXML_NOWARNING);
        self::assertNotFalse($xml, mb_substr($svg, 0, 300));

        return $xml;
    }

    /**
     * @return list<\SimpleXMLElement>
     */
    private static function all(\SimpleXMLElement $xml, string $path): array
    {
        $found = $xml->xpath($path);

        return is_array($found) ? array_values($found) : [];
    }

    /**
     * @param  list<ProbeRun>  $runs
     */
    private function probe(array $runs, Window $window, ?int $asked = null): string
    {
        $figure = ProbeFigure::draw(ProbeScale::of($runs, $this->utc), $window, $window->to, $asked, $this->utc);
        self::assertNotNull($figure);
        self::parsed($figure->svg);

        return $figure->svg;
    }

    /**
     * @param  callable(int): (float|null)  $times by Unix second
     * @return list<ProbeRun>
     */
    private static function runs(callable $times, int $days, int $every = 300): array
    {
        $runs = [];
        for ($at = self::NOW - $days * self::DAY; $at < self::NOW; $at += $every) {
            $factor = $times($at);
            $runs[] = new ProbeRun($at, $factor === null ? null : (int) (500_000 * $factor));
        }

        return $runs;
    }

    public function test_a_few_runs_of_a_probe_are_marks_and_many_are_strokes(): void
    {
        $runs = self::runs(static fn (int $at): float => $at >= self::NOW - 3_600 ? 6.0 : 1.0, 2);
        $svg = $this->probe($runs, new Window(self::NOW - self::DAY, self::NOW), self::NOW - 1_800);
        self::assertSame(288, preg_match_all('~<circle class="run( odd)?"~', $svg));
        self::assertSame(12, preg_match_all('~<circle class="run odd"~', $svg), 'those that are slow, and slower than usual');
        self::assertSame(1, substr_count($svg, 'class="ring"'));
        self::assertStringContainsString('6 times at most, of 288 runs', $svg);
        $many = self::runs(static fn (int $at): float => 1.0 + $at / 300 % 2, 28);
        $svg = $this->probe($many, new Window(self::NOW - 28 * self::DAY, self::NOW));
        self::assertSame(0, substr_count($svg, 'class="ring"'));
        self::assertSame(28 * 24, substr_count($svg, '<circle class="run"'));
        self::assertSame(28 * 24, substr_count($svg, '<line class="run"'));
    }

    public function test_runs_that_failed_are_crosses_and_what_is_usual_is_a_band(): void
    {
        $runs = self::runs(static fn (int $at): ?float => $at === self::NOW - 600 ? null : 1.0 + ($at / 300 % 3) / 10, 16);
        $svg = $this->probe($runs, new Window(self::NOW - self::DAY, self::NOW));
        self::assertSame(1, substr_count($svg, 'class="failed"'));
        self::assertStringContainsString('; 1 failed.', $svg);
        self::assertSame(24, substr_count($svg, 'class="usual"'), 'one an hour');
        $scale = ProbeScale::of($runs, $this->utc);
        $long = new Window(self::NOW - 90 * self::DAY, self::NOW - 60 * self::DAY);
        self::assertNull(ProbeFigure::draw($scale, $long, $long->to, null, $this->utc), 'no run lies there');
        self::assertNull(ProbeFigure::draw(ProbeScale::of([], $this->utc), new Window(self::NOW - self::DAY, self::NOW), self::NOW, null,
            $this->utc));
        $figure = ProbeFigure::draw($scale, new Window(self::NOW - 3_600, self::NOW), self::NOW, null, $this->utc);
        self::assertSame(['when', 'runs', 'times as long as when idle', 'took'], $figure?->head);
        self::assertSame('failed', $figure->rows[10][2]);
        self::assertCount(12, $figure->rows);
    }

    private function execution(int $beganBefore, int $seconds, int $waited = 0, int $gb = 1, string $user = 'boards'): InFlight
    {
        return new InFlight(str_repeat('a', 32), 'SELECT a FROM t', $user, (self::NOW - $beganBefore) * 1_000_000, $seconds * 1_000_000,
            $waited * 1_000_000, $gb * 1_000_000_000);
    }

    public function test_a_moment_cuts_through_what_was_in_flight(): void
    {
        self::assertNull(MomentFigure::draw([], self::NOW, [], $this->utc));
        $executions = [$this->execution(100, 300, 60, 9, '<b>lab</b>'), $this->execution(30, 40), $this->execution(-10, 5, 0, 0, '')];
        $figure = MomentFigure::draw($executions, self::NOW, [self::NOW - 50 => 'an index', self::NOW - 9_000 => 'long ago'], $this->utc);
        self::assertNotNull($figure);
        $xml = self::parsed($figure->svg);
        self::assertSame([3, 1], [count(self::all($xml, '//*[@class="flight"]')), count(self::all($xml, '//*[@class="waited-part"]'))]);
        self::assertStringContainsString('&lt;b&gt;lab&lt;/b&gt;', $figure->svg);
        self::assertStringContainsString('an index', $figure->svg);
        self::assertStringNotContainsString('long ago', $figure->svg);
        self::assertStringContainsString('not known', $figure->svg);
        // Thick by what it read: nine times as much is three times as thick beyond the least.
        $heights = array_map(static fn ($bar): float => (float) $bar['height'], self::all($xml, '//*[@class="flight"]'));
        self::assertEqualsWithDelta([14.0, 3 + 11 / 3, 3.0], $heights, 0.02);
        self::assertSame('3 executions were in flight, the longest for 5 min.', $figure->summary);
        self::assertSame(['5 min', '60 s'], [$figure->rows[0][3], $figure->rows[0][4]]);
        // A very long one ends at the edge, and forty are thirty.
        $long = MomentFigure::draw([$this->execution(90_000, 100_000), ...array_fill(0, 39, $this->execution(10, 20))], self::NOW, [],
            $this->utc);
        self::assertCount(30, $long->rows ?? []);
        self::parsed($long->svg ?? '');
    }

    /**
     * @param  list<NodeMark>  $nodes
     */
    private function line(
        array $nodes,
        float $waiting = 0.0,
        ?float $fullness = null,
        ?float $probe = null,
        int $urgent = 0,
        int $findings = 0,
        ?float $inFlight = 0.5,
    ): ClusterLine {
        return new ClusterLine($this->cluster, $nodes, $inFlight, $waiting, $fullness, $probe, $urgent, $findings);
    }

    public function test_nodes_are_upright_marks_and_an_odd_one_leans(): void
    {
        $svg = NodesFigure::draw($this->line([
            new NodeMark('fern-01', 0.25, 0.5, false), new NodeMark('fern-<2>', null, null, false), new NodeMark('fern-03', 1.4, 1.2, true),
        ], 2.6, 0.75));
        $xml = self::parsed($svg);
        self::assertSame(['node', 'node', 'node odd'], array_map(static fn ($node): string => (string) $node['class'],
            self::all($xml, '/svg/g[starts-with(@class, "node")]')));
        self::assertSame(1, substr_count($svg, 'rotate(14 '));
        // A quarter of forty-four, and never more than there is.
        self::assertSame(['11', '44'], array_map(static fn ($use): string => (string) $use['height'],
            self::all($xml, '//*[@class="use"]')));
        self::assertSame(3, substr_count($svg, 'class="waits"'));
        self::assertStringContainsString('75% of the file systems is used', $svg);
        self::assertStringContainsString('fern-03: 140% of its processors at work, disk 120% of the time, slower than its neighbours',
            $svg);
        self::assertStringContainsString('fern-&lt;2&gt;: not known', $svg);
        self::assertSame('Fernhill: 3 nodes, the busiest 140%, 2.6 waiting', (string) $xml['aria-label']);
        // Many that wait, many nodes, and nothing at all.
        $many = NodesFigure::draw($this->line(array_fill(0, 60, new NodeMark('n', 0.1, 0.1, false)), 40.0));
        self::assertSame([10, 48], [substr_count($many, 'class="waits"'), substr_count($many, 'class="node"')]);
        self::assertStringContainsString('+30 waiting', $many);
        self::assertStringContainsString('>+12<', $many);
        self::assertStringNotContainsString('waits', NodesFigure::draw($this->line([new NodeMark('n', 0.1, 0.1, false)])));
        self::assertSame(1, substr_count(NodesFigure::draw($this->line([], 0.1)), 'class="waits"'), 'less than one, and yet somebody');
    }

    public function test_a_cluster_is_told_in_one_word_the_worst_first(): void
    {
        $node = new NodeMark('fern-01', 0.1, 0.1, false);
        $odd = new NodeMark('fern-02', 0.1, 0.1, true);
        $said = static fn (ClusterLine $line): array => [$line->mark(), $line->word()];
        self::assertSame(['calm', 'all is calm'], $said($this->line([$node], probe: 1.9)));
        self::assertSame(['watch', '2 open findings'], $said($this->line([$node], findings: 2)));
        self::assertSame(['act', '1 finding asks for somebody'], $said($this->line([$node], urgent: 1, findings: 2)));
        self::assertSame(['watch', '90% full'], $said($this->line([$node], fullness: 0.9)));
        self::assertSame(['calm', 'all is calm'], $said($this->line([$node], fullness: 0.89)));
        self::assertSame(['watch', 'fern-02 is slower than its neighbours'], $said($this->line([$node, $odd], fullness: 0.95)));
        self::assertSame(['act', 'struggles: the probe takes 2 times its idle time'], $said($this->line([$node, $odd], probe: 2.0)));
        self::assertSame(['no data', 'nothing is known of this moment'], $said($this->line([new NodeMark('n', null, 0.1, false)],
            inFlight: null)));
        $this->cluster->failing_since = Carbon::now();
        self::assertSame(['act', 'cannot be read'], $said($this->line([$node])));
    }

    public function test_the_live_bar_is_whole_and_says_its_parts(): void
    {
        $values = ['cpu.user' => 1.5, 'cpu.nice' => 0.5, 'cpu.system' => 0.5, 'cpu.interrupt' => 0.25, 'cpu.softirq' => 0.25,
            'cpu.iowait' => 1.0, 'cpu.steal' => 2.0, 'cpu.idle' => 2.0];
        $view = new LiveView(self::NOW, 2.0, $values, [], [0.1, 0.4]);
        self::assertSame([
            'programs' => 0.25, 'system' => 0.125, 'waiting for disks' => 0.125, 'taken by other machines' => 0.25, 'idle' => 0.25,
        ], $view->processor());
        self::assertSame(0.375, $view->busy());
        $xml = self::parsed(LiveBar::draw($view));
        $widths = array_map(static fn ($part): float => (float) $part['width'], self::all($xml, '//*[local-name()="rect"]'));
        self::assertEqualsWithDelta([150.0, 75.0, 75.0, 150.0, 150.0], $widths, 1e-9);
        self::assertStringContainsString('taken by other machines 25%', (string) $xml['aria-label']);
        self::assertStringContainsString('M0 ', (string) ($xml->xpath('//*[@class="line"]')[0]['d'] ?? ''));
        $nothing = new LiveView(self::NOW, 2.0, [], [], []);
        self::assertSame([[], null], [$nothing->processor(), $nothing->busy()]);
        self::assertStringNotContainsString('line', LiveBar::draw($nothing));
    }

    /**
     * @param  array<string, callable(int): float>  $nodes bytes a second by hour
     */
    private function disks(array $nodes, int $hours = 48): void
    {
        foreach ($nodes as $name => $rate) {
            $points = [];
            $sum = 0.0;
            for ($at = self::NOW - $hours * 3_600; $at <= self::NOW; $at += 300) {
                $points[] = [$at * 1_000, $sum];
                $sum += 300 * $rate(intdiv($at, 3_600));
            }
            app(PointStore::class)->keep($this->cluster->id, $name, [[new Metric('system.disk.io', 'By', 0.0,
                ['disk.io.direction' => 'read'], true), Points::of($points)]]);
        }
    }

    private function beside(int $hours, HostMeasure $measure = HostMeasure::Disk): HostsBeside
    {
        $window = new Window(self::NOW - $hours * 3_600, self::NOW);

        return HostsBeside::of($this->cluster, $measure, $window, self::NOW, app(HostReadings::class));
    }

    public function test_strips_stand_in_the_order_of_how_far_out_they_are(): void
    {
        $this->disks([
            'fern-03' => static fn (): float => 2e6, 'fern-01' => static fn (): float => 2e6, 'fern-02' => static fn (): float => 2.02e6,
            'fern-04' => static fn (): float => 6e6, 'fern-05' => static fn (): float => 1e6,
            'fern-06' => static fn (int $hour): float => $hour % 10 === 0 ? 4e6 : 2e6,
        ]);
        $beside = $this->beside(24);
        self::assertSame(['fern-04', 'fern-05', 'fern-01', 'fern-02', 'fern-03', 'fern-06'], array_keys($beside->differences));
        self::assertEqualsWithDelta([3.0, 0.5, 1.0], array_map($beside->factor(...), ['fern-04', 'fern-05', 'fern-01']), 0.02);
        self::assertNull($beside->factor('nobody'));
        self::assertSame([true, 300], [$beside->isKnown(), $beside->step]);
        $figure = StripsFigure::draw($beside, ['fern-04' => '/tend/hosts?host=fern-04&x=1'], ['fern-04'], $this->utc);
        $xml = self::parsed($figure->svg);
        self::assertCount(7, self::all($xml, '/div/div'), 'six hosts and their axis');
        self::assertCount(1, self::all($xml, '/div/div[@class="strip odd"]'));
        self::assertStringContainsString('href="/tend/hosts?host=fern-04&amp;x=1"', $figure->svg);
        self::assertStringContainsString('× 3.00', $figure->svg);
        self::assertStringContainsString('fern-04 3 times, fern-05 0.5 times', $figure->summary);
        // What lies beyond the band is filled: for the one that is out all of the time, and for one in ten hours of another.
        $filled = static fn (int $place): int => substr_count((string) ($xml->xpath('/div/div')[$place]->svg->path[2]['d'] ?? ''), 'M');
        self::assertSame(288, $filled(0));
        self::assertLessThan(40, $filled(5));
        self::assertGreaterThan(20, $filled(5));
        self::assertSame(['host', 'interval', 'of its neighbours', 'value'], $figure->head);
        self::assertSame(['fern-04', '× 3', '5.72 MiB/s'], [$figure->rows[0][0], $figure->rows[0][2], $figure->rows[0][3]]);
    }

    public function test_longer_windows_have_longer_intervals_and_gaps_are_shaded(): void
    {
        $nodes = array_fill_keys(['a', 'b', 'c', 'd'], static fn (): float => 2e6);
        $this->disks($nodes, 30 * 24);
        self::assertSame([300, 900, 3_600, 21_600],
            array_map(fn (int $hours): int => $this->beside($hours)->step, [28, 29, 14 * 24, 15 * 24]));
        self::assertSame(86_400, $this->beside(100 * 24)->step);
        // Three hosts are too few to hold one against another.
        $this->disks(['lone-1' => static fn (): float => 2e6]);
        self::assertTrue($this->beside(24)->isKnown());
        $wren = $this->cluster('wren');
        $few = HostsBeside::of($wren, HostMeasure::Disk, new Window(self::NOW - 3_600, self::NOW), self::NOW, app(HostReadings::class));
        self::assertSame([false, []], [$few->isKnown(), $few->differences]);
    }

    public function test_what_is_measured_of_hosts_comes_of_their_counters(): void
    {
        $rate = static fn (float $rate): Readings => new Readings([[0, 0.0], [100, 100 * $rate]], 200);
        $none = new Readings([], 200);
        $of = static fn (HostMeasure $measure, array $readings): ?float => $measure->values($readings
            + array_fill_keys($measure->names(), $none), 0, 100, 100)[0];
        self::assertSame(5e6, $of(HostMeasure::Disk, ['disk.read' => $rate(3e6), 'disk.write' => $rate(2e6)]));
        self::assertSame(3e6, $of(HostMeasure::Disk, ['disk.read' => $rate(3e6)]), 'what is known of it');
        self::assertNull($of(HostMeasure::Disk, []));
        self::assertSame(3.5, $of(HostMeasure::Processor, ['cpu.user' => $rate(2.0), 'cpu.nice' => $rate(0.5),
            'cpu.system' => $rate(1.0)]));
        self::assertSame(9.0, $of(HostMeasure::Network, ['network.in' => $rate(4.0), 'network.out' => $rate(5.0)]));
        self::assertSame(7.0, $of(HostMeasure::Memory, ['memory.used' => new Readings([[10, 3.0], [20, 7.0], [30, 5.0]], 200)]));
        $cost = static fn (float $busy, float $bytes): ?float => $of(HostMeasure::DiskTime, ['disk.busy' => $rate($busy), 'disk.read' =>
            $rate($bytes)]);
        self::assertEqualsWithDelta(1e-9, $cost(0.02, 20e6), 1e-15);
        self::assertEqualsWithDelta(1e-8, $cost(0.01, 1e6), 1e-15);
        self::assertNull($cost(0.01, 0.99e6), 'too little to tell');
        self::assertNull($cost(0.0, 20e6), 'a disk that never works is not counted');
        self::assertSame(['1 s/GB', '2.5', '1 KiB', '1 KiB/s', '1 KiB/s'], [
            HostMeasure::DiskTime->format(1e-9), HostMeasure::Processor->format(2.5), HostMeasure::Memory->format(1_024.0),
            HostMeasure::Disk->format(1_024.0), HostMeasure::Network->format(1_024.0),
        ]);
        self::assertSame([HostMeasure::DiskTime], array_values(array_filter(HostMeasure::cases(),
            static fn (HostMeasure $one): bool => $one->isCost())));
        self::assertSame([1, 1_024], [HostMeasure::Processor->base(), HostMeasure::Disk->base()]);
    }
}
