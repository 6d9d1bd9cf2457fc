<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Health\Application\LiveHost;
use App\Metrics\Store\HostReadings;
use App\Metrics\Store\PointStore;
use App\Metrics\Store\ProcessStore;
use App\Metrics\Store\ThisHost;
use Fulcrion\Core\Metrics\BusyProcess;
use Fulcrion\Core\Metrics\HostProcess;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\Points;
use Illuminate\Contracts\Cache\Repository;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Facades\File;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * What a host does between two looks, from a /proc of our own making.
 */
#[Group('today')]
final class LiveHostTest extends TestCase
{
    private const NOW = 1_795_392_000;

    private string $proc;

    private LiveHost $live;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW));
        $this->proc = sys_get_temp_dir().'/proc-'.bin2hex(random_bytes(4));
        File::makeDirectory("{$this->proc}/net", recursive: true);
        $this->live = new LiveHost(new ThisHost($this->proc, []), app(HostReadings::class), app(ProcessStore::class),
            app(Repository::class));
    }

    protected function tearDown(): void
    {
        File::deleteDirectory($this->proc);
        Carbon::setTestNow();
        parent::tearDown();
    }

    /**
     * @param  array<int, int>  $processes hundredths of a second by number
     */
    private function proc(int $user, int $idle, int $sectors, int $bytes, array $processes): void
    {
        file_put_contents("{$this->proc}/stat", "cpu  {$user} 0 0 {$idle} 0 0 0 0\ncpu0 0 0 0 0\ncpu1 0 0 0 0\n");
        file_put_contents("{$this->proc}/meminfo", "MemTotal:    1000 kB\nMemAvailable:     250 kB\n");
        file_put_contents("{$this->proc}/diskstats", "   8       0 sda 10 0 {$sectors} 5 10 0 0 5 0 {$idle} 10\n");
        file_put_contents("{$this->proc}/net/dev", "Inter-|   Receive\n face |bytes\n  eth0: {$bytes} 1 0 0 0 0 0 0 0 1 0 0 0 0 0 0\n");
        foreach (File::directories($this->proc) as $folder) {
            ctype_digit(basename($folder)) && File::deleteDirectory($folder);
        }
        foreach ($processes as $pid => $ticks) {
            File::makeDirectory("{$this->proc}/{$pid}");
            $stat = "{$pid} (leaf {$pid}) S 1 1 1 0 -1 0 0 0 0 0 {$ticks} 0 0 0 20 0 1 0 1 1 {$pid} 0\n";
            file_put_contents("{$this->proc}/{$pid}/stat", $stat);
        }
    }

    public function test_two_looks_say_what_was_between_them(): void
    {
        $this->proc(1_000, 9_000, 100, 5_000, [10 => 100, 11 => 500, 12 => 7]);
        $this->live->own('ada');
        // Two seconds later: one and a half processors at work of two, four million sectors' worth of a disk, and a new process.
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW + 2));
        $this->proc(1_300, 9_100, 100 + 2_000, 5_000 + 8_192, [10 => 250, 11 => 500, 13 => 50]);
        $view = $this->live->own('ada');
        self::assertSame([2.0, self::NOW + 2], [$view->seconds, $view->at]);
        self::assertSame([
            'programs' => 0.75, 'system' => 0.0, 'waiting for disks' => 0.0, 'taken by other machines' => 0.0, 'idle' => 0.25,
        ], $view->processor());
        self::assertSame([1.5, 0.5, 2_000 * 512 / 2.0, 4_096.0], [$view->values['cpu.user'], $view->values['cpu.idle'],
            $view->values['disk.read'], $view->values['network.in']]);
        self::assertSame([1_024_000.0, 768_000.0], [$view->values['memory.limit'], $view->values['memory.used']]);
        // The busiest first; one that did nothing is not among them, and one that is new has all of its time since.
        self::assertEquals([new BusyProcess(10, 'leaf 10', 0.75, 10 * 4_096), new BusyProcess(13, 'leaf 13', 0.25, 13 * 4_096)],
            $view->processes);
        self::assertCount(1, $view->before);
    }

    public function test_each_person_has_looks_of_their_own_and_old_ones_are_forgotten(): void
    {
        $this->proc(0, 0, 0, 0, []);
        $this->live->own('ada');
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW + 10));
        $this->proc(1_000, 1_000, 0, 0, []);
        $this->live->own('ben');
        self::assertSame(0.5, $this->live->own('ada')->busy());
        // Half a minute later there is nothing to hold it against.
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW + 60));
        $this->proc(9_000, 1_000, 0, 0, []);
        self::assertSame([], $this->live->own('ada')->before);
        // The last sixty looks make its line.
        $view = $this->live->own('ada');
        for ($i = 1; $i <= 70; $i++) {
            Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW + 60 + 2 * $i));
            $this->proc(9_000 + 100 * $i, 1_000 + 100 * $i, 0, 0, []);
            $view = $this->live->own('ada');
        }
        self::assertCount(60, $view->before);
        self::assertSame(0.5, $view->busy());
        // Counters that begin again are no growth.
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW + 300));
        $this->proc(5, 5, 0, 0, []);
        $this->live->own('ada');
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW + 302));
        $this->proc(1, 1, 0, 0, []);
        self::assertNull($this->live->own('ada')->busy());
    }

    public function test_a_host_that_is_kept_is_shown_by_its_last_interval(): void
    {
        $cluster = $this->cluster();
        $user = $idle = $memory = [];
        for ($i = 0; $i <= 20; $i++) {
            $atMs = (self::NOW - 6_000 + 300 * $i) * 1_000;
            $user[] = [$atMs, 300.0 * $i * ($i > 19 ? 2 : 1)];
            $idle[] = [$atMs, 900.0 * $i];
            $memory[] = [$atMs, 100.0 + $i];
        }
        app(PointStore::class)->keep($cluster->id, 'fern-01', [
            [new Metric('system.cpu.time', 's', 0.0, ['cpu.mode' => 'user'], true), Points::of($user)],
            [new Metric('system.cpu.time', 's', 0.0, ['cpu.mode' => 'idle'], true), Points::of($idle)],
            [new Metric('system.memory.usage', 'By', 0.0), Points::of($memory)],
        ]);
        $view = $this->live->kept($cluster->id, 'fern-01', self::NOW - 600);
        self::assertNotNull($view);
        self::assertSame([0.25, []], [$view->busy(), $view->processes]);
        self::assertLessThanOrEqual(self::NOW - 600, $view->at);
        // Its busiest processes then, where they are known from close before.
        app(ProcessStore::class)->keep($cluster->id, 'fern-01', self::NOW - 800, [new BusyProcess(7, 'leaf', 0.5, 4_096)]);
        self::assertEquals([new BusyProcess(7, 'leaf', 0.5, 4_096)],
            $this->live->kept($cluster->id, 'fern-01', self::NOW - 600)?->processes);
        self::assertNull($this->live->kept($cluster->id, 'fern-01', self::NOW - 90_000));
        self::assertNull($this->live->kept($cluster->id, 'nobody', self::NOW));
    }

    public function test_the_busiest_are_those_that_had_most_since_the_reading_before(): void
    {
        $now = [];
        foreach ([3 => 1.0, 1 => 2.0, 2 => 9.0, 4 => 5.0, 5 => 0.0] as $pid => $seconds) {
            $now[$pid] = new HostProcess($pid, "p{$pid}", $seconds, $pid * 10);
        }
        $most = BusyProcess::most($now, [1 => 1.0, 2 => 9.0, 4 => '4.5', 5 => 0.0, 9 => 3.0, 3 => 'odd'], 2.0, 3);
        self::assertEquals([new BusyProcess(1, 'p1', 0.5, 10), new BusyProcess(3, 'p3', 0.5, 30), new BusyProcess(4, 'p4', 0.25, 40)],
            $most);
        self::assertCount(1, BusyProcess::most($now, [], 2.0, 1));
        self::assertSame([], BusyProcess::most([], [], 0.0, 9));
        self::assertNull(BusyProcess::read(['pid' => '7', 'name' => 'a', 'processors' => 1, 'residentBytes' => 1]));
        self::assertNull(BusyProcess::read('a'));
        $long = ['pid' => 7, 'name' => str_repeat('a', 99), 'processors' => 1, 'residentBytes' => 1];
        self::assertSame(64, strlen(BusyProcess::read($long)->name ?? ''));
    }

    public function test_processes_are_kept_once_a_minute_for_two_weeks_and_found_near_a_moment(): void
    {
        $cluster = $this->cluster();
        $store = app(ProcessStore::class);
        $one = static fn (int $pid): array => [new BusyProcess($pid, 'leaf', 1.5, 4_096)];
        $minute = self::NOW - self::NOW % 60;
        $store->keep($cluster->id, 'h', $minute + 5, $one(1));
        $store->keep($cluster->id, 'h', $minute + 55, $one(2));
        $store->keep($cluster->id, 'h', $minute + 60, $one(3));
        $store->keep($cluster->id, 'h', $minute + 120, []);
        $pids = static fn (int $at): array => array_map(static fn (BusyProcess $each): int => $each->pid,
            $store->at($cluster->id, 'h', $at));
        self::assertSame([[1], [1], [3], [3], []], array_map($pids, [$minute, $minute + 59, $minute + 60, $minute + 359, $minute + 360]));
        self::assertSame([], $store->at($cluster->id, 'other', $minute));
        self::assertSame([], $store->at($cluster->id, 'h', $minute - 1));
        DB::table('host_processes')->update(['body' => 'nothing of ours']);
        self::assertSame([], $store->at($cluster->id, 'h', $minute));
        $store->prune($cluster->id, $minute + 14 * 86_400 + 30);
        self::assertSame([$minute + 60], DB::table('host_processes')->pluck('at')->map(static fn (mixed $at): int => (int) $at)->all());
    }
}
