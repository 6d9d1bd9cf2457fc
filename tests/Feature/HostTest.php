<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Models\Cluster;
use App\Ledger\Models\Finding;
use App\Metrics\Store\HostReadings;
use App\Metrics\Store\KeptSeries;
use App\Metrics\Store\PointStore;
use App\Metrics\Store\SeriesBook;
use App\Metrics\Store\Span;
use App\Metrics\Store\ThisHost;
use App\Platform\Support\Role;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\Points;
use Illuminate\Database\QueryException;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\File;
use Tests\TestCase;

/**
 * What hosts were doing: taken, put together by the hour, and found again.
 */
final class HostTest extends TestCase
{
    private const HOUR = 1_795_608_000;

    private Cluster $cluster;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow(Carbon::createFromTimestamp(self::HOUR + 2 * 3_600 + 1_000));
        $this->cluster = $this->cluster('own');
        $this->cluster->update(['is_own' => true, 'retention_days' => 28]);
    }

    protected function tearDown(): void
    {
        Carbon::setTestNow();
        parent::tearDown();
    }

    private function take(int $at, float $value, string $host = 'fern-01', float $counter = 0.0): int
    {
        return app(PointStore::class)->take($this->cluster->id, $host, $at * 1_000, [
            new Metric('system.memory.usage', 'By', $value, ['system.memory.state' => 'used']),
            new Metric('system.disk.io', 'By', $counter, ['system.device' => 'sda', 'disk.io.direction' => 'read'], true),
        ]);
    }

    private function series(string $name = 'system.memory.usage', string $host = 'fern-01'): KeptSeries
    {
        return app(SeriesBook::class)->of($this->cluster->id, $host, [$name])[0] ?? self::fail('no series');
    }

    private function points(int $from, int $to, string $name = 'system.memory.usage'): Points
    {
        $series = $this->series($name);

        return app(PointStore::class)->points([$series], $from, $to)[$series->id] ?? new Points([], []);
    }

    public function test_readings_are_the_same_before_and_after_their_hour_is_put_together(): void
    {
        for ($at = self::HOUR - 600; $at < self::HOUR + 7_200; $at += 10) {
            // Half an hour nobody read it.
            if ($at < self::HOUR + 900 || $at >= self::HOUR + 2_700) {
                self::assertSame(2, $this->take($at, ($at % 7_000) / 4, 'fern-01', ($at - self::HOUR) * 512.0));
            }
        }
        $before = $this->points(self::HOUR - 300, self::HOUR + 7_200);
        self::assertSame(570, $before->count());
        $hours = app(PointStore::class)->summaries([$this->series()], self::HOUR - 3_600, self::HOUR + 7_200, Span::Hour);
        self::assertSame(2 * 600, app(PointStore::class)->seal());
        self::assertSame(0, DB::table('metric_frames')->count());
        self::assertEquals($before, $this->points(self::HOUR - 300, self::HOUR + 7_200));
        self::assertEquals($hours, app(PointStore::class)->summaries([$this->series()], self::HOUR - 3_600, self::HOUR + 7_200,
            Span::Hour));
        $hour = $hours[$this->series()->id][self::HOUR];
        self::assertSame([180, ((self::HOUR + 3_590) % 7_000) / 4], [$hour->count, $hour->last]);
        self::assertSame(0, app(PointStore::class)->seal(), 'nothing is left to do');
        // A gap stays a gap, and a rate is not computed across it.
        $rates = PointStore::readings($this->points(self::HOUR, self::HOUR + 3_600, 'system.disk.io'), 45)
            ->rates(self::HOUR, self::HOUR + 3_600, 300);
        self::assertSame([null, null, null, null, null], array_slice($rates, 3, 5));
        self::assertEqualsWithDelta(512.0, $rates[1], 1e-9);
    }

    public function test_long_windows_are_read_by_the_hour_and_say_the_same(): void
    {
        $from = self::HOUR - 3 * 86_400;
        $sum = 0.0;
        for ($hour = 0; $hour < 72; $hour++) {
            for ($minute = 0; $minute < 60; $minute += 5) {
                // By day twice as fast as by night; one hour nobody read it.
                $sum += $hour % 24 < 12 ? 6_000.0 : 3_000.0;
                if ($hour !== 40) {
                    $this->take($from + $hour * 3_600 + $minute * 60, (float) ($hour * 100 + $minute), 'fern-01', $sum);
                }
            }
        }
        app(PointStore::class)->seal();
        $readings = app(HostReadings::class);
        $fine = $readings->of($this->cluster->id, 'fern-01', $from, $from + 72 * 3_600, 400);
        $coarse = $readings->of($this->cluster->id, 'fern-01', $from, $from + 72 * 3_600, 400, 3_600);
        $to = $from + 72 * 3_600;
        self::assertSame($fine['memory.used']->most($from, $to, 3_600), $coarse['memory.used']->most($from, $to, 3_600));
        $rates = $coarse['disk.read']->rates($from, $from + 72 * 3_600, 3_600);
        foreach ($fine['disk.read']->rates($from, $from + 72 * 3_600, 3_600) as $hour => $rate) {
            // An hour that borders on one that is not known is not known either, and the first of a change has a part of the one before.
            if ($rate !== null && $rates[$hour] !== null) {
                self::assertEqualsWithDelta($rate, $rates[$hour], 1.0, "hour {$hour}");
            }
        }
        self::assertNull($rates[40]);
        self::assertLessThanOrEqual(5, count(array_filter($rates, static fn (?float $one): bool => $one === null)));
        $this->actingAs($this->person(Role::Viewer));
        $this->get('/tend/hosts?window=last+7+days')->assertOk()->assertSee('Intervals of 1 h');
    }

    public function test_minutes_hours_and_days_are_what_their_points_were_like(): void
    {
        $day = self::HOUR - self::HOUR % 86_400;
        $from = $day - 86_400 - 7_200;
        $own = [];
        for ($at = $from; $at < $day + 20_000; $at += 20) {
            // An hour nobody read it.
            if ($at < $day + 3_600 || $at >= $day + 7_200) {
                $own[$at] = ($at * 7_919 % 10_007) / 8;
            }
        }
        // Two hours as they come, an hour that came late and the rest at once.
        [$ends, $late] = [$day + 12_800, $day - 7_200];
        $points = [];
        foreach ($own as $at => $value) {
            if ($at < $ends && ($at < $late || $at >= $late + 3_600)) {
                $points[] = [$at * 1_000, $value];
            }
        }
        $metric = new Metric('system.memory.usage', 'By', 0.0, ['system.memory.state' => 'used']);
        $store = app(PointStore::class);
        self::assertSame(count($points), $store->keep($this->cluster->id, 'fern-01', [[$metric, Points::of($points)]]));
        foreach ($own as $at => $value) {
            if ($at >= $ends || ($at >= $late && $at < $late + 3_600)) {
                $this->take($at, $value);
            }
        }
        foreach ([false, true] as $isSealed) {
            if ($isSealed) {
                $store->seal($day + 18_000);
            }
            foreach (Span::cases() as $span) {
                $expected = [];
                foreach ($own as $at => $value) {
                    $expected[$at - $at % $span->value][] = (float) $value;
                }
                $found = $store->summaries([$this->series()], $from, $day + 20_000, $span)[$this->series()->id];
                self::assertSame(array_keys($expected), array_keys($found), $span->name);
                foreach ($expected as $at => $values) {
                    self::assertSame([min($values), max($values), count($values)],
                        [$found[$at]->low, $found[$at]->high, $found[$at]->count]);
                    self::assertEqualsWithDelta(array_sum($values), $found[$at]->sum, 1e-6);
                    // Until it is put together, what came late is taken for what came last.
                    self::assertTrue(! $isSealed || $found[$at]->last === $values[count($values) - 1]);
                }
            }
        }
        // Of a part of it only what touches it.
        $some = $store->summaries([$this->series()], $day - 5_000, $day + 100, Span::Hour)[$this->series()->id];
        self::assertSame([$day - 7_200, $day - 3_600, $day], array_keys($some));
        self::assertSame([], $store->summaries([$this->series()], $day + 90_000, $day + 99_000, Span::Day));
        self::assertSame([], $store->summaries([], $day, $day + 1, Span::Hour));
    }

    public function test_an_hour_that_is_not_over_waits(): void
    {
        $this->take(self::HOUR + 7_200 + 10, 1.0);
        $this->take(self::HOUR + 7_199, 2.0);
        Carbon::setTestNow(Carbon::createFromTimestamp(self::HOUR + 7_200 + 60));
        self::assertSame(0, app(PointStore::class)->seal(), 'somebody may still be on the way');
        Carbon::setTestNow(Carbon::createFromTimestamp(self::HOUR + 7_200 + 180));
        self::assertSame(2, app(PointStore::class)->seal());
        self::assertSame(1, DB::table('metric_frames')->count());
        self::assertSame([2.0, 1.0], $this->points(self::HOUR, self::HOUR + 10_000)->values);
    }

    public function test_a_reading_that_comes_twice_is_one_and_what_comes_late_finds_its_hour(): void
    {
        self::assertSame(2, $this->take(self::HOUR + 10, 1.0));
        self::assertSame(0, $this->take(self::HOUR + 10, 9.0), 'known already');
        app(PointStore::class)->seal();
        // Out of order, after its hour was put together, and of a clock an hour off.
        $this->take(self::HOUR + 30, 3.0);
        $this->take(self::HOUR + 20, 2.0);
        $this->take(self::HOUR - 3_580, 0.5);
        self::assertSame([1.0, 2.0, 3.0], $this->points(self::HOUR, self::HOUR + 60)->values);
        app(PointStore::class)->seal();
        self::assertSame([0.5, 1.0, 2.0, 3.0], $this->points(self::HOUR - 3_600, self::HOUR + 60)->values);
        self::assertSame(3, (int) DB::table('metric_blocks')->where('hour_at', self::HOUR)->max('points'));
        self::assertSame(2.0, (float) DB::table('metric_blocks')->where('series_id', $this->series()->id)->where('hour_at', self::HOUR)
            ->value('sum') / 3);
    }

    public function test_a_damaged_hour_is_a_gap_and_what_is_around_it_stays(): void
    {
        foreach ([0, 3_600, 7_200] as $more) {
            $this->take(self::HOUR + $more - 3_600 + 5, (float) $more);
        }
        app(PointStore::class)->seal();
        $body = (string) DB::table('metric_blocks')->where('hour_at', self::HOUR)->where('series_id', $this->series()->id)->value('body');
        DB::table('metric_blocks')->where('hour_at', self::HOUR)->update(['body' => substr($body, 0, -1).'x']);
        self::assertSame([0.0, 7_200.0], $this->points(self::HOUR - 3_600, self::HOUR + 7_200)->values);
        // A damaged day is no day, and nothing else is lost with it.
        DB::table('metric_days')->update(['hours' => 'no hours at all']);
        self::assertSame([], app(PointStore::class)->summaries([$this->series()], self::HOUR, self::HOUR + 7_200, Span::Hour));
        self::assertCount(2, app(PointStore::class)->summaries([$this->series()], self::HOUR - 3_600, self::HOUR + 7_200, Span::Minute)[
            $this->series()->id]);
    }

    public function test_a_label_with_another_value_each_time_does_not_fill_the_store(): void
    {
        $points = app(PointStore::class);
        $taken = 0;
        for ($i = 0; $i < 30; $i++) {
            $metrics = [];
            for ($n = 0; $n < 100; $n++) {
                $metrics[] = new Metric('m', '1', 1.0, ['request' => "{$i}-{$n}"]);
            }
            $taken += $points->take($this->cluster->id, 'noisy', (self::HOUR + $i) * 1_000, $metrics);
        }
        self::assertSame([2_000, 2_000], [$taken, DB::table('metric_series')->where('host', 'noisy')->count()]);
        self::assertSame(2, $this->take(self::HOUR, 1.0), 'other hosts go on');
        self::assertSame(0, $points->take($this->cluster->id, 'odd', self::HOUR * 1_000, [new Metric('m', '1', NAN)]));
    }

    public function test_this_host_is_read_as_its_proc_says(): void
    {
        $host = new ThisHost();
        $before = (string) file_get_contents('/proc/stat');
        $read = [];
        foreach ($host->read() as $metric) {
            $read[$metric->key()] = $metric->value;
        }
        $after = (string) file_get_contents('/proc/stat');
        $idle = static fn (string $text): float => preg_match('~^cpu +\d+ \d+ \d+ (\d+)~m', $text, $match) === 1 ? $match[1] / 100 : -1.0;
        self::assertGreaterThanOrEqual($idle($before), $read['system.cpu.time {"cpu.mode":"idle"}']);
        self::assertLessThanOrEqual($idle($after), $read['system.cpu.time {"cpu.mode":"idle"}']);
        preg_match('~^MemTotal:\s+(\d+) kB~m', (string) file_get_contents('/proc/meminfo'), $memory);
        self::assertSame(1024.0 * (float) ($memory[1] ?? 0), $read['system.memory.limit']);
        self::assertSame(disk_total_space('/'), $read['system.filesystem.limit {"system.filesystem.mountpoint":"/"}']);
        // A host without /proc tells nothing, and of folders that are not there nothing either.
        self::assertSame([], (new ThisHost('/nowhere'))->read());
        $folder = sys_get_temp_dir().'/proc-'.bin2hex(random_bytes(4));
        File::makeDirectory($folder);
        file_put_contents("{$folder}/loadavg", "0.50 0.1 0.1 1/2 3\n");
        self::assertCount(1, (new ThisHost($folder, ['/nowhere']))->read());
        File::deleteDirectory($folder);
    }

    public function test_its_page_shows_a_window_and_says_what_is_not_known(): void
    {
        $this->actingAs($this->person(Role::Viewer));
        $this->get('/tend/hosts')->assertOk()->assertSee('No host is read yet');
        $start = Carbon::createFromTimestamp(time() - 60);
        $name = (new ThisHost())->name();
        for ($i = 0; $i < 3; $i++) {
            Carbon::setTestNow($start->copy()->addSeconds(10 * $i));
            usleep(50_000);
            self::assertSame(0, Artisan::call('metrics:read-host'));
        }
        Carbon::setTestNow($start->copy()->addSeconds(30));
        self::assertSame(3, DB::table('metric_frames')->count());
        $page = $this->get('/tend/hosts')->assertOk()->assertSee($name)->assertSee('Processors at work')->assertSee('OpenTelemetry');
        self::assertMatchesRegularExpression('~'.preg_quote($name, '~').' was [\d.]+% busy~', (string) $page->getContent());
        $this->get('/tend/hosts?window=yesterday')->assertOk()->assertSee("Nothing is known of {$name} in this window")
            ->assertSee('No reading lies in this window');
        $this->get('/tend/hosts?window=some+day&host=nobody')->assertOk()->assertSee('The last hour is shown instead');
        Artisan::call('metrics:seal');
        $readings = app(HostReadings::class)->of($this->cluster->id, $name, time() - 600, time() + 60, 45);
        self::assertNotNull($readings['memory.used']->most(time() - 600, time() + 60, 660)[0]);
        self::assertNotNull($readings['load']->most(time() - 600, time() + 60, 660)[0]);
    }

    public function test_it_says_how_busy_a_host_was_and_what_was_taken_from_it(): void
    {
        $cpu = function (string $host, int $at, float $user, float $idle, float $steal): void {
            $mode = static fn (string $name, float $value): Metric => new Metric('system.cpu.time', 's', $value,
                ['cpu.mode' => $name], true);
            app(PointStore::class)->take($this->cluster->id, $host, $at * 1_000, [
                $mode('user', $user), $mode('idle', $idle), $mode('steal', $steal), new Metric('system.memory.limit', 'By', 100.0),
                new Metric('system.memory.usage', 'By', 40.0 + ($at % 60), ['system.memory.state' => 'used']),
            ]);
        };
        $now = self::HOUR + 2 * 3_600 + 1_000;
        // Two processors, one of them at work; on the other host a half of what was wanted went elsewhere.
        for ($i = 0; $i <= 60; $i++) {
            $cpu('fern-07', $now - 600 + 10 * $i, 10.0 * $i, 10.0 * $i, 0.0);
            // Its counters began again on the way, which is no time.
            $cpu('fern-08', $now - 600 + 10 * $i, 5.0 * ($i % 40), 5.0 * ($i % 40), 10.0 * ($i % 40));
        }
        $this->actingAs($this->person(Role::Viewer));
        $this->get('/tend/hosts?host=fern-07')->assertOk()->assertSee('fern-07 was 50% busy, with at most 90% of its memory used');
        $this->get('/tend/hosts?host=fern-08')->assertOk()->assertSee('Taken by other machines')
            ->assertSee('fern-08 was 25% busy, and 50% of its time went to other machines beside it');
        // A host that fell silent a while ago is not told as if it went on.
        Carbon::setTestNow(Carbon::createFromTimestamp($now + 300));
        $this->get('/tend/hosts?host=fern-07')->assertSee('fern-07 was 50% busy, and nothing is known of 5 min of this window');
    }

    public function test_this_host_is_looked_at_live_and_others_as_they_were_kept(): void
    {
        Carbon::setTestNow();
        $this->actingAs($this->person(Role::Viewer));
        $this->get('/tend/live')->assertOk()->assertSee('No host is read yet');
        Artisan::call('metrics:read-host');
        $name = (new ThisHost())->name();
        $page = (string) $this->get('/tend/live')->assertOk()->assertSee('The busiest processes')->assertSee('Pause')->getContent();
        self::assertMatchesRegularExpression('~'.preg_quote($name, '~').' is [\d.]+% busy~', $page);
        self::assertStringContainsString('hx-trigger="every 2s"', $page);
        // It burns a processor between two looks, and is seen to.
        for ($end = hrtime(true) + 400_000_000; hrtime(true) < $end;) {
            hash('sha256', 'leaf');
        }
        $part = (string) $this->get('/tend/live/part')->assertOk()->getContent();
        self::assertMatchesRegularExpression('~<td class="n">'.getmypid().'</td>~', $part);
        self::assertStringNotContainsString('<html', $part);
        $paused = (string) $this->get('/tend/live/part?paused=1')->assertOk()->assertSee('Resume')->getContent();
        self::assertStringNotContainsString('every 2s', $paused);
        $this->get('/tend/live?at=nonsense&host=nobody')->assertOk()->assertSee('This moment is shown instead');
        // Another host, and one that has been.
        $cpu = static fn (string $mode, float $value): Metric => new Metric('system.cpu.time', 's', $value, ['cpu.mode' => $mode], true);
        for ($i = 0; $i <= 30; $i++) {
            app(PointStore::class)->take($this->cluster->id, 'fern-09', (time() - 7_200 + 60 * $i) * 1_000, [
                $cpu('user', 15.0 * $i), $cpu('idle', 45.0 * $i), new Metric('system.memory.limit', 'By', 1_024.0),
            ]);
        }
        $this->get('/tend/live?host=fern-09')->assertOk()->assertSee('Nothing is known of fern-09 at that moment');
        $at = gmdate('Y-m-d H:i', time() - 6_000);
        $this->get('/tend/live?host=fern-09&at='.urlencode($at))->assertOk()->assertSee('fern-09 was 25% busy')->assertSee('of 1 KiB')
            ->assertDontSee('every 2s');
    }

    public function test_what_cannot_be_written_waits_and_nothing_of_it_is_lost(): void
    {
        foreach ([10, 20, 30] as $at) {
            $this->take(self::HOUR + $at, (float) $at);
        }
        // As if the disk were full half-way: the hour is written, its day is not.
        DB::statement('RENAME TABLE metric_days TO metric_days_away');
        try {
            app(PointStore::class)->seal();
            self::fail('it was written all the same');
        } catch (QueryException) {
            self::assertSame([3, 0], [DB::table('metric_frames')->count(), DB::table('metric_blocks')->count()]);
        } finally {
            DB::statement('RENAME TABLE metric_days_away TO metric_days');
        }
        self::assertSame([10.0, 20.0, 30.0], $this->points(self::HOUR, self::HOUR + 60)->values);
        self::assertSame(6, app(PointStore::class)->seal());
        self::assertSame([10.0, 20.0, 30.0], $this->points(self::HOUR, self::HOUR + 60)->values);
    }

    public function test_a_host_that_vanishes_and_comes_back_under_another_name_is_told_with_it(): void
    {
        $now = self::HOUR + 7_200;
        Carbon::setTestNow(Carbon::createFromTimestamp($now + 60));
        for ($at = $now - 6 * 3_600; $at < $now; $at += 60) {
            $this->take($at, 1.0, $at < $now - 2 * 3_600 ? 'fern-04' : 'fern-04b');
        }
        DB::table('metric_sources')->insert([
            ['cluster_id' => $this->cluster->id, 'host' => 'fern-04', 'kind' => 'agent', 'first_at' => 1, 'last_at' => 1],
            ['cluster_id' => $this->cluster->id, 'host' => 'fern-04b', 'kind' => 'agent', 'first_at' => $now - 7_200, 'last_at' => $now],
        ]);
        Artisan::call('health:judge');
        $finding = Finding::query()->where('source', 'hosts')->firstOrFail();
        self::assertStringContainsString('Nothing is known of fern-04 for 2 h 2 min, since', $finding->problem);
        self::assertContains('fern-04b', array_column($finding->evidence, 'value'));
        self::assertSame(1, Finding::query()->where('source', 'hosts')->count(), 'the one that came is not told as silent before');
    }

    public function test_what_is_older_than_the_cluster_keeps_goes(): void
    {
        $this->take(self::HOUR + 10, 1.0);
        $this->take(self::HOUR - 40 * 86_400, 2.0);
        Artisan::call('metrics:seal');
        self::assertStringContainsString('4 points were put together', Artisan::output());
        self::assertSame([self::HOUR], array_map(intval(...), DB::table('metric_blocks')->distinct()->pluck('hour_at')->all()));
        $this->cluster->forceDelete();
        self::assertSame(0, DB::table('metric_series')->count());
    }
}
