<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Models\Cluster;
use App\Health\Application\OtherMetrics;
use App\Metrics\Store\HostReadings;
use App\Metrics\Store\KeptHours;
use App\Metrics\Store\PointStore;
use App\Metrics\Store\ReadingSilence;
use App\Metrics\Store\Span;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\Points;
use Fulcrion\Core\Metrics\Summary;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * When hosts were not read, and that nothing is made up for it.
 */
#[Group('today')]
final class SilenceTest extends TestCase
{
    private const NOW = 1_795_392_000;

    private const HOUR = 3_600;

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
     * A reading a minute for two days, and none in some spans.
     *
     * @param  list<array{int, int}>  $silent seconds before now: from, to
     */
    private function read(string $host, array $silent, int $hours = 48): void
    {
        $used = $read = [];
        $sum = 0.0;
        for ($at = self::NOW - $hours * self::HOUR; $at < self::NOW; $at += 60) {
            $sum += 6_000.0;
            $before = self::NOW - $at;
            foreach ($silent as [$from, $to]) {
                if ($before <= $from && $before > $to) {
                    continue 2;
                }
            }
            $used[] = [$at * 1_000, 50.0];
            $read[] = [$at * 1_000, $sum];
        }
        app(PointStore::class)->keep($this->cluster->id, $host, [
            [new Metric('system.memory.usage', 'By', 0.0), Points::of($used)],
            [new Metric('system.disk.io', 'By', 0.0, ['disk.io.direction' => 'read'], true), Points::of($read)],
        ]);
    }

    /**
     * @return list<array{list<string>, int, int}> hosts, and seconds before now
     */
    private function silence(int $hours = 47): array
    {
        return array_map(
            static fn (array $one): array => [$one[0], self::NOW - $one[1], self::NOW - $one[2]],
            app(ReadingSilence::class)->of($this->cluster, self::NOW - $hours * self::HOUR, self::NOW),
        );
    }

    public function test_a_gap_is_told_to_the_reading_before_and_after_it(): void
    {
        $this->read('fern-01', [[10 * self::HOUR, 4 * self::HOUR]]);
        self::assertSame([[['fern-01'], 10 * self::HOUR + 60, 4 * self::HOUR]], $this->silence());
    }

    public function test_half_an_hour_is_a_gap_and_a_few_minutes_are_none(): void
    {
        $this->read('fern-01', [[7_300, 6_000]]);
        self::assertSame([], $this->silence());
        DB::table('metric_series')->delete();
        // Thirty-two minutes, in the middle of an hour.
        $this->app->forgetInstance(PointStore::class);
        $this->read('fern-02', [[3 * self::HOUR - 600, 3 * self::HOUR - 600 - 1_860]]);
        self::assertSame([[['fern-02'], 3 * self::HOUR - 540, 3 * self::HOUR - 2_460]], $this->silence());
    }

    public function test_hosts_that_are_silent_together_are_one_and_others_stand_for_themselves(): void
    {
        $gap = [[20 * self::HOUR, 14 * self::HOUR]];
        $this->read('fern-01', $gap);
        $this->read('fern-02', [[20 * self::HOUR - 300, 14 * self::HOUR - 300]]);
        $this->read('fern-03', [...$gap, [5 * self::HOUR, 3 * self::HOUR]]);
        $this->read('fern-04', []);
        self::assertSame([
            [['fern-01', 'fern-02', 'fern-03'], 20 * self::HOUR + 60, 14 * self::HOUR - 300],
            [['fern-03'], 5 * self::HOUR + 60, 3 * self::HOUR],
        ], $this->silence());
    }

    public function test_a_host_that_stopped_is_silent_to_the_end_and_one_that_came_late_was_not_silent_before(): void
    {
        $this->read('fern-01', [[6 * self::HOUR, 0]]);
        $this->read('fern-02', [], 5);
        self::assertSame([[['fern-01'], 6 * self::HOUR + 60, 0]], $this->silence());
        // Looked at where it is silent from end to end nothing is known, not even that.
        self::assertSame([], $this->silence(2));
    }

    public function test_no_rate_and_no_mean_goes_across_a_gap_by_any_span(): void
    {
        $this->read('fern-01', [[10 * self::HOUR, 4 * self::HOUR]]);
        foreach ([1, 60, self::HOUR] as $step) {
            $readings = app(HostReadings::class)->of($this->cluster->id, 'fern-01', self::NOW - 12 * self::HOUR, self::NOW, 90, $step);
            $rates = $readings['disk.read']->rates(self::NOW - 12 * self::HOUR, self::NOW, self::HOUR);
            self::assertSame([null, null, null, null], array_slice($rates, 3, 4), "step {$step}");
            self::assertEqualsWithDelta(100.0, (float) $rates[0], 2.0);
            self::assertEqualsWithDelta(100.0, (float) $rates[10], 2.0);
            self::assertSame([null, null, null, null], array_slice($readings['memory.used']->most(self::NOW - 12 * self::HOUR, self::NOW,
                self::HOUR), 3, 4));
            self::assertCount(1, $readings['disk.read']->gaps(self::NOW - 120));
        }
    }

    public function test_a_span_is_the_longest_that_is_no_longer_than_a_step(): void
    {
        self::assertSame([null, null, Span::Minute, Span::Minute, Span::Hour, Span::Hour, Span::Day, Span::Day],
            array_map(Span::within(...), [1, 59, 60, 3_599, 3_600, 86_399, 86_400, 999_999]));
    }

    public function test_what_is_older_than_the_cluster_keeps_goes_and_its_days_with_it(): void
    {
        $this->read('fern-01', [], 30 * 24);
        $hours = app(KeptHours::class);
        self::assertSame([2 * 720, 2 * 30], [DB::table('metric_blocks')->count(), DB::table('metric_days')->count()]);
        // Ten days are kept: of the day in which the tenth ends all hours stay in its row.
        self::assertGreaterThan(0, $hours->prune($this->cluster->id, self::NOW - 10 * 86_400));
        self::assertSame(2 * 240, DB::table('metric_blocks')->count());
        self::assertSame(2 * 11, DB::table('metric_days')->count());
        self::assertSame(0, $hours->prune($this->cluster('wren')->id, self::NOW));
        $series = DB::table('metric_series')->pluck('id')->map(static fn (mixed $id): int => (int) $id)->all();
        $before = [self::NOW - 20 * 86_400, self::NOW - 12 * 86_400];
        self::assertSame([], $hours->summaries($this->cluster->id, array_values($series), ...[...$before, Span::Minute]));
    }

    public function test_what_else_is_told_of_a_host_is_summed_up_over_the_window(): void
    {
        $points = [];
        for ($i = 0; $i < 120; $i++) {
            $points[] = [(self::NOW - 7_200 + 60 * $i) * 1_000, (float) ($i % 50)];
        }
        app(PointStore::class)->keep($this->cluster->id, 'fern-01', [
            [new Metric('pump.level', 'm', 0.0, ['bay' => '4']), Points::of($points)],
            [new Metric('system.memory.usage', 'By', 0.0), Points::of($points)],
        ]);
        [$rows, $count] = app(OtherMetrics::class)->of($this->cluster->id, 'fern-01', self::NOW - 7_200, self::NOW);
        self::assertSame([1, 1], [$count, count($rows)], 'what every host tells has its charts');
        [$series, $was] = $rows[0];
        self::assertSame(['pump.level', ['bay' => '4'], 'm'], [$series->name, $series->labels, $series->unit]);
        self::assertInstanceOf(Summary::class, $was);
        self::assertSame([0.0, 49.0, 19.0, 120], [$was->low, $was->high, $was->last, $was->count]);
        self::assertEqualsWithDelta(array_sum(array_column($points, 1)) / 120, $was->mean(), 1e-9);
        self::assertSame([[], 1], app(OtherMetrics::class)->of($this->cluster->id, 'fern-01', self::NOW - 90_000, self::NOW - 80_000));
    }
}
