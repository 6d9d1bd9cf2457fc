<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Connectors\PracticeClusters;
use App\Estate\Models\Cluster;
use App\Health\Probes\ProbeBook;
use App\Health\Probes\SystemAnswer;
use App\Health\Probes\SystemQuestion;
use App\Ledger\Models\Finding;
use App\Metrics\Store\PointStore;
use App\Platform\Models\User;
use App\Platform\Support\Role;
use DateTimeZone;
use Fulcrion\Core\Health\ProbeRun;
use Fulcrion\Core\Health\Verdict;
use Fulcrion\Core\Metrics\Metric;
use Fulcrion\Core\Metrics\Points;
use Fulcrion\Core\Sql\Dialect;
use Fulcrion\Practice\Storage\HardwareProfile;
use Fulcrion\Practice\Storage\Warehouse;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * Probes, and what they answer: is it the system?
 */
#[Group('today')]
final class ProbeTest extends TestCase
{
    /** Monday. */
    private const NOW = 1_795_392_000;

    private const DAY = 86_400;

    private const FROM = self::NOW - 28 * self::DAY;

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
     * Every five minutes half a second, nine times that on Monday mornings.
     */
    private function probe(): void
    {
        $book = app(ProbeBook::class);
        $probe = $book->set($this->cluster, $this->person(), 'SELECT 1', '', 300);
        $runs = [];
        for ($at = self::FROM; $at < self::NOW; $at += 300) {
            $minute = intdiv($at % self::DAY, 60);
            $isBusy = gmdate('N', $at) === '1' && $minute >= 390 && $minute < 540;
            $runs[] = new ProbeRun($at, ($isBusy ? 4_500_000 : 500_000) + $at / 300 % 7 * 1_000);
        }
        $book->add($probe, $runs);
    }

    /**
     * @param  array<int, array{string, string, int, array<string, int>}>  $more statement, account, Unix second, and what differs from
     *     a run of two seconds that reads 4 GB
     */
    private function history(array $more = []): void
    {
        $records = [];
        $record = static fn (string $sql, string $user, int $at, array $with = []): array => $with + [
            'started_at' => $at, 'duration_us' => 2_000_000, 'sql' => $sql, 'user' => $user, 'bytes_scanned' => 4_000_000_000,
            'cpu_us' => 1_000_000, 'queue' => 'shared',
        ];
        for ($day = 0; $day < 28; $day++) {
            foreach (['a' => 'boards', 'b' => 'energy_desk', 'c' => 'agronomy'] as $column => $user) {
                for ($i = 0; $i < 4; $i++) {
                    $records[] = $record("SELECT {$column} FROM t", $user, self::FROM + $day * self::DAY + 36_000 + $i * 7_200);
                }
            }
        }
        foreach ($more as [$sql, $user, $at, $with]) {
            $records[] = $record($sql, $user, $at, $with);
        }
        Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'fernhill']);
    }

    /** One of five disks takes twice as long since a week. */
    private function slowDisk(): void
    {
        for ($host = 1; $host <= 5; $host++) {
            $busy = $read = [];
            [$seconds, $bytes] = [0.0, 0.0];
            for ($at = self::FROM; $at <= self::NOW; $at += 300) {
                $seconds += ($host === 3 && $at > self::NOW - 7 * self::DAY ? 2.0 : 1.0) * (10 + ($at / 300 + $host) % 3 / 10);
                $bytes += 20e9;
                $busy[] = [$at * 1_000, $seconds];
                $read[] = [$at * 1_000, $bytes];
            }
            app(PointStore::class)->keep($this->cluster->id, "fern-0{$host}", [
                [new Metric('system.disk.io_time', 's', 0.0, ['system.device' => 'd'], true), Points::of($busy)],
                [new Metric('system.disk.io', 'By', 0.0, ['system.device' => 'd', 'disk.io.direction' => 'read'], true), Points::of($read)],
            ]);
        }
    }

    private function ask(int $at, ?string $user = null, ?string $statement = null): SystemAnswer
    {
        return app(SystemQuestion::class)->ask($this->cluster, $at, $statement, $user, new DateTimeZone('UTC'));
    }

    public function test_five_complaints_are_answered_rightly(): void
    {
        $this->probe();
        $monday = self::NOW - 7 * self::DAY + 8 * 3_600;
        $thursday = self::NOW - 4 * self::DAY + 11 * 3_600;
        $before = self::NOW - 11 * self::DAY + 11 * 3_600;
        $this->history([
            // The system: boards wait on Monday, as everybody does.
            ['SELECT a FROM t', 'boards', $monday + 60, ['duration_us' => 17_000_000, 'queued_us' => 15_000_000]],
            // Its own statement, on Thursday.
            ['SELECT b FROM t', 'energy_desk', $thursday + 60, ['duration_us' => 55_000_000, 'bytes_scanned' => 120_000_000_000]],
            // A slow host, on the same Thursday at three o'clock.
            ['SELECT c FROM t', 'agronomy', $thursday + 4 * 3_600, ['duration_us' => 3_900_000]],
            // A queue of its own, while the probe is steady, a week before.
            ['SELECT a FROM t', 'boards', $before + 60, ['duration_us' => 22_000_000, 'queued_us' => 20_000_000]],
            // Nothing.
            ['SELECT b FROM t', 'energy_desk', $before + 6 * 3_600, ['duration_us' => 2_300_000]],
        ]);
        $this->slowDisk();
        $asked = [
            [Verdict::System, $monday, 'boards', 'It is the system: the probe took 9 times its idle time, while boards had most at work'],
            [Verdict::Statement, $thursday, 'energy_desk', 'It is this statement: it read 30 times as much as usual, and the probe was '
                .'steady'],
            [Verdict::Host, $thursday + 4 * 3_600, 'agronomy', 'It is one host: the disks of fern-03 take 2 times as long as its '
                .'neighbours\' for the same, and the probe was steady'],
            [Verdict::Queue, $before, 'boards', 'It waited in a queue for 91% of its time, and the probe was steady'],
            [Verdict::Nothing, $before + 6 * 3_600, 'energy_desk', 'Nothing was wrong: it took 2.3 s, and 2 s is usual'],
        ];
        foreach ($asked as [$verdict, $at, $user, $sentence]) {
            $answer = $this->ask($at, $user);
            self::assertSame([$verdict, $sentence], [$answer->verdict, $answer->sentence]);
        }
        // The same by the moment alone, and by the statement alone.
        self::assertSame(Verdict::System, $this->ask($monday)->verdict);
        self::assertSame(Verdict::Nothing, $this->ask($before + 6 * 3_600)->verdict);
        self::assertSame('The system was fine: the probe took about its idle time', $this->ask($before + 20 * 3_600)->sentence);
        $print = (string) $this->ask($thursday, 'energy_desk')->fingerprint;
        self::assertSame(Verdict::Statement, $this->ask($thursday, null, $print)->verdict);
        self::assertSame(Verdict::Unknown, $this->ask($before + 20 * 3_600, null, $print)->verdict);

        $this->actingAs($this->person(Role::Viewer));
        $page = $this->get('/tend/system?at=thursday+11:00&account=energy_desk')->assertOk()->assertSee('It is this statement')
            ->assertSee('30 times as much')->assertSee('What took longer than usual')->assertSee('Who was at work then')
            ->assertSee('Engineers set probes')->assertDontSee('Try and set it');
        self::assertStringContainsString('class="ring"', (string) $page->getContent());
        $this->get('/tend/system?at=2026-11-19+08:00&account=nobody')->assertOk()->assertSee('Nothing of it began within five minutes');
        $this->get('/tend/system?at=one+day&cluster=none&statement=zz')->assertOk()->assertSee('is not a moment')
            ->assertSee('This moment is looked at instead');
        $this->get('/tend/system?at[]=1&account[]=2')->assertStatus(400);
        // Who is limited to some teams is told of nobody else.
        $viewer = User::query()->where('role', Role::Viewer)->firstOrFail();
        DB::table('usage_limits')->insert(['user_id' => $viewer->id, 'teams' => '["agronomy"]']);
        $this->get('/tend/system?at=monday+08:00')->assertForbidden();
    }

    public function test_what_struggles_and_what_was_slow_by_itself_is_found(): void
    {
        $this->probe();
        $thursday = self::NOW - 4 * self::DAY + 11 * 3_600;
        $slow = ['duration_us' => 40_000_000, 'bytes_scanned' => 120_000_000_000];
        $this->history([
            ['SELECT b FROM t', 'energy_desk', $thursday + 60, $slow],
            ['SELECT b FROM t', 'energy_desk', $thursday + 600, $slow],
            // On Monday it is the system, and not the statement.
            ['SELECT a FROM t', 'boards', self::NOW - 7 * self::DAY + 8 * 3_600, ['duration_us' => 90_000_000]],
        ]);
        Artisan::call('health:judge');
        $found = Finding::query()->where('source', 'probes')->orderBy('rule')->get();
        self::assertSame(['slow-by-itself', 'struggles'], $found->pluck('rule')->all());
        self::assertSame('On Thu 19 Nov 11:00 a statement of energy_desk took 20 times as long as usual while the probe was steady: '
            .'it read 30 times as much', $found[0]->problem);
        self::assertSame('Fernhill struggles Mondays 06:30 to 09:00: the probe takes 9.01 times its idle time, in 4 of 4 weeks',
            $found[1]->problem);
        $this->actingAs($this->person(Role::Viewer));
        $this->get("/ledger/findings/{$found[1]->id}")->assertOk()->assertSee('who had most at work then');
        // One that fails is told at once, and one that does not run.
        $book = app(ProbeBook::class);
        $probe = $book->of($this->cluster);
        self::assertNotNull($probe);
        $book->add($probe, [new ProbeRun(self::NOW, null)], 'The server has gone away');
        Artisan::call('health:judge');
        self::assertSame('The probe of Fernhill fails: The server has gone away',
            Finding::query()->where('rule', 'probe-failed')->where('state', 'open')->value('problem'));
        $book->add($probe, [new ProbeRun(self::NOW + 10, 500_000)]);
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW + 1_000));
        Artisan::call('health:judge');
        self::assertSame(['probe-late'], Finding::query()->where('source', 'probes')->where('rule', 'like', 'probe%')
            ->where('state', 'open')->pluck('rule')->all());
        // Off is off.
        $book->switch($probe, false);
        Artisan::call('health:judge');
        self::assertSame(0, Finding::query()->where('source', 'probes')->where('state', 'open')->count());
    }

    public function test_a_probe_is_set_tried_and_run_in_the_name_of_a_person(): void
    {
        config(['fulcrion.practice' => sys_get_temp_dir().'/fulcrion-practice-'.bin2hex(random_bytes(4))]);
        mkdir((string) config('fulcrion.practice'));
        $warehouse = Warehouse::create(PracticeClusters::root('probed'), 'Probed', 2, new HardwareProfile());
        $warehouse->createSchema('field');
        $cluster = Cluster::query()->create(['slug' => 'probed', 'name' => 'Probed', 'role' => 'rehearsal', 'connector' => 'practice',
            'dialect' => Dialect::Ansi]);
        $this->actingAs($owner = $this->person());
        $form = ['cluster' => 'probed', 'statement' => "SELECT 1 +\r\n1 AS two", 'schema' => 'field', 'minutes' => 5];
        foreach ([
            ['statement' => 'DELETE FROM field.pick'], ['statement' => 'SELECT FROM'], ['minutes' => 61], ['schema' => 'a b'],
            ['cluster' => 'none'], ['statement' => 'SELECT id FROM field.nothing'],
        ] as $wrong) {
            $this->from('/tend/system')->post('/tend/probes', $wrong + $form)->assertRedirect('/tend/system')
                ->assertSessionHasErrors(array_key_first($wrong));
        }
        self::assertSame(0, DB::table('probes')->count());
        $this->post('/tend/probes', $form)->assertRedirect('/tend/system?cluster=probed');
        $book = app(ProbeBook::class);
        $probe = $book->of($cluster) ?? self::fail('no probe');
        self::assertSame(["SELECT 1 +\n1 AS two", 300, $owner->id, true],
            [$probe->sql, $probe->everySeconds, $probe->userId, $probe->isOn]);
        self::assertStringNotContainsString('two', (string) DB::table('probes')->value('sealed'));
        self::assertCount(1, $book->runs($probe, 0, PHP_INT_MAX));
        $this->get('/tend/system?cluster=probed')->assertOk()->assertSee('AS two')->assertSee('it takes 12 runs');

        // It is run when it is due, and not before.
        Artisan::call('health:probe');
        self::assertCount(1, $book->runs($probe, 0, PHP_INT_MAX));
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW + 300));
        Artisan::call('health:probe');
        [$idle, $run] = [...$book->runs($probe, 0, PHP_INT_MAX)];
        self::assertSame([self::NOW + 300, $idle->tookUs, 0], [$run->at, $run->tookUs, $run->waitedUs], 'the same counters, the same time');
        // Beside work that takes three fifths of the processors, and after four seconds in a queue, as others wait.
        $busy = ['started_at' => self::NOW + 600, 'sql' => 'SELECT 1', 'user' => 'boards', 'queue' => 'shared'];
        Artisan::call('telemetry:import', ['file' => $this->file([
            $busy + ['duration_us' => 240_000_000, 'cpu_us' => 180_000_000],
            ['started_at' => self::NOW + 610, 'duration_us' => 10_000_000, 'queued_us' => 8_000_000] + $busy,
        ]), '--cluster' => 'probed']);
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW + 900));
        Artisan::call('health:probe');
        $run = $book->runs($probe, self::NOW + 900, PHP_INT_MAX)[0];
        self::assertSame(4_000_000, $run->waitedUs);
        self::assertEqualsWithDelta((float) $idle->tookUs / (1 - 0.6), (float) $run->tookUs - 4_000_000, 1.0);

        $this->post('/tend/probes/probed', ['on' => '0'])->assertRedirect('/tend/system?cluster=probed');
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW + 2_000));
        Artisan::call('health:probe');
        self::assertCount(3, $book->runs($probe, 0, PHP_INT_MAX));
        $this->get('/tend/system?cluster=probed')->assertSee('It is off');
        $this->post('/tend/probes/probed', ['on' => '1'])->assertRedirect();
        $this->post('/tend/probes/fernhill', ['on' => '1'])->assertNotFound();
        self::assertSame(['set a probe', 'switched a probe off', 'switched a probe on'],
            DB::table('ledger_entries')->where('act', 'like', '%probe%')->orderBy('number')->pluck('act')->all());
        // With another statement the history starts over; the same one with another interval does not.
        $this->post('/tend/probes', ['minutes' => 2] + $form);
        self::assertSame(4, DB::table('probe_runs')->count());
        $this->post('/tend/probes', ['statement' => 'SELECT 3'] + $form);
        self::assertSame(1, DB::table('probe_runs')->count());
        // A person who is gone runs nothing any more.
        DB::table('probes')->update(['user_id' => 99_999]);
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW + 9_000));
        Artisan::call('health:probe');
        $this->get('/tend/system?cluster=probed')->assertSee('Its last run failed')->assertSee('somebody who is gone');
        $warehouse->destroy();
        @rmdir((string) config('fulcrion.practice'));
    }
}
