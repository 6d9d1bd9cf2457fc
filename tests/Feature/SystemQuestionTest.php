<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Models\Cluster;
use App\Health\Probes\Contention;
use App\Health\Probes\Probe;
use App\Health\Probes\ProbeBook;
use App\Health\Probes\SlowHours;
use App\Health\Probes\StatementFacts;
use App\Health\Probes\SystemAnswer;
use App\Health\Probes\SystemQuestion;
use App\Health\Probes\UsualRuns;
use App\Platform\Support\AskedMoment;
use App\Platform\Support\Clock;
use DateTimeZone;
use Fulcrion\Core\Health\ProbeRun;
use Fulcrion\Core\Health\ProbeScale;
use Fulcrion\Core\Health\Verdict;
use Illuminate\Http\Request;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * What an answer is made of: what ran, what is usual, who was at work, and what else there was.
 */
#[Group('today')]
final class SystemQuestionTest extends TestCase
{
    private const NOW = 1_795_392_000;

    private const DAY = 86_400;

    private Cluster $cluster;

    private DateTimeZone $utc;

    protected function setUp(): void
    {
        parent::setUp();
        Carbon::setTestNow(Carbon::createFromTimestamp(self::NOW));
        $this->cluster = $this->cluster();
        $this->utc = new DateTimeZone('UTC');
    }

    protected function tearDown(): void
    {
        Carbon::setTestNow();
        parent::tearDown();
    }

    /**
     * @param  list<array<string, mixed>>  $records beside what each has: a second of boards that reads a gigabyte
     */
    private function import(array $records): void
    {
        $usual = ['duration_us' => 1_000_000, 'sql' => 'SELECT a FROM t', 'user' => 'boards', 'bytes_scanned' => 1_000_000_000];
        Artisan::call('telemetry:import', ['file' => $this->file(array_map(static fn (array $one): array => $one + $usual, $records)),
            '--cluster' => 'fernhill']);
    }

    /** Ten days, the even ones a little slower. */
    private function history(): void
    {
        $records = [];
        for ($day = 1; $day <= 10; $day++) {
            foreach ([9, 15] as $hour) {
                $records[] = ['started_at' => self::NOW - $day * self::DAY + $hour * 3_600,
                    'duration_us' => $day % 2 === 0 ? 1_200_000 : 1_000_000,
                    'queued_us' => 100_000, 'lock_us' => 50_000, 'rows_examined' => 5_000];
            }
        }
        $this->import($records);
    }

    private function statement(string $like = '%'): int
    {
        return (int) DB::table('statements')->where('text', 'like', $like)->value('id');
    }

    private function ask(int $at, ?string $user = null): SystemAnswer
    {
        return app(SystemQuestion::class)->ask($this->cluster, $at, null, $user, $this->utc);
    }

    public function test_usual_is_the_middle_of_the_days_before_and_not_of_the_day_itself(): void
    {
        $this->history();
        $runs = app(UsualRuns::class);
        $usual = $runs->usual($this->cluster, [$this->statement()], self::NOW + 100)[$this->statement()];
        self::assertSame([20, 1_100_000.0, 100_000.0, 50_000.0, 1e9, 5_000.0], [$usual->executions, $usual->tookUs, $usual->waitedUs,
            $usual->lockedUs, $usual->bytesRead, $usual->rowsRead]);
        self::assertSame(1_000_000.0, $usual->ranUs());
        // Of three days before it is known, of two it is not.
        self::assertSame([6], array_map(static fn (StatementFacts $one): int => $one->executions,
            array_values($runs->usual($this->cluster, [$this->statement()], self::NOW - 7 * self::DAY + 50))));
        self::assertSame([], $runs->usual($this->cluster, [$this->statement()], self::NOW - 8 * self::DAY + 50));
        self::assertSame([], $runs->usual($this->cluster, [], self::NOW));
        $around = $runs->around($this->cluster, self::NOW - self::DAY + 9 * 3_600 - 100, self::NOW - self::DAY + 9 * 3_600 + 100);
        self::assertSame([1, 1_000_000.0], [$around[$this->statement()]->executions, $around[$this->statement()]->tookUs]);
        self::assertSame([], $runs->around($this->cluster, self::NOW - self::DAY, self::NOW - self::DAY + 300));
        $nine = self::NOW - self::DAY + 9 * 3_600;
        self::assertSame([], $runs->around($this->cluster, $nine, $nine + 100, 'nobody'));
    }

    public function test_locks_another_plan_and_what_is_not_known_are_answers_too(): void
    {
        $this->history();
        $at = self::NOW - 3_600;
        $this->import([
            ['started_at' => $at, 'duration_us' => 60_000_000, 'lock_us' => 55_000_000],
            ['started_at' => $at, 'sql' => 'SELECT new FROM t', 'user' => 'lab', 'duration_us' => 9_000_000],
            ['started_at' => $at - 7_200, 'duration_us' => 9_000_000],
        ]);
        $locked = $this->ask($at, 'boards');
        self::assertSame([Verdict::Lock, 'It waited for locks for 92% of its time'], [$locked->verdict, $locked->sentence]);
        self::assertContains(['of it waited for locks', '55 s'], $locked->evidence);
        $unknown = $this->ask($at, 'lab');
        self::assertSame([Verdict::Unknown, 'It has run on too few days before to say what is usual for it'],
            [$unknown->verdict, $unknown->sentence]);
        self::assertSame('Nobody knows: no probe ran within five minutes of that moment', $this->ask($at)->sentence);
        // Nine times as long for the same: the statement, and nobody knows why, until it is known that its plan is another one.
        self::assertSame('It is this statement: it took 7.5 times as long as usual for the same work',
            $this->ask($at - 7_200, 'boards')->sentence);
        $print = (string) DB::table('statements')->where('id', $this->statement('SELECT a%'))->value('fingerprint');
        foreach ([30, 2] as $i => $daysAgo) {
            DB::table('plans')->insert(['cluster_id' => $this->cluster->id, 'statement' => $print, 'shape' => str_repeat((string) $i, 32),
                'engine' => 'practice', 'actual' => true, 'first_us' => (self::NOW - $daysAgo * self::DAY) * 1_000_000, 'last_us' => 1,
                'sealed' => '']);
        }
        $plan = $this->ask($at - 7_200, 'boards');
        self::assertSame('It is this statement: it has another plan and took 7.5 times as long as usual', $plan->sentence);
        self::assertContains(['plan', 'another one than a week before'], $plan->evidence);
        self::assertSame($print, $plan->fingerprint);
    }

    public function test_who_was_at_work_and_what_waited_is_told_by_time_in_flight(): void
    {
        $at = self::NOW - 3_600 + 100;
        $this->import([
            ['started_at' => $at, 'user' => 'lab', 'duration_us' => 120_000_000],
            ['started_at' => $at, 'user' => 'boards', 'duration_us' => 90_000_000, 'queued_us' => 60_000_000],
            ['started_at' => $at, 'user' => 'desk', 'duration_us' => 30_000_000],
        ]);
        $runs = app(UsualRuns::class);
        $users = $runs->users($this->cluster, $at - 100, $at + 200, 2);
        self::assertSame(['lab', 'boards'], array_keys($users), 'without what it waited, and the first two');
        self::assertEqualsWithDelta([0.4, 0.1], array_values($users), 1e-6);
        self::assertEqualsWithDelta(0.25, (float) $runs->waiting($this->cluster, $at - 100, $at + 200), 1e-6);
        self::assertNull($runs->waiting($this->cluster, $at - 9_000, $at - 8_000));
        self::assertSame('lab', array_key_first($this->ask($at)->users));
    }

    public function test_contention_is_what_others_waited_and_how_much_of_the_processors_they_have(): void
    {
        $contention = app(Contention::class);
        self::assertSame([1.0, 0], $contention->of($this->cluster, self::NOW));
        $bucket = self::NOW - 300;
        $this->import([
            ['started_at' => $bucket + 10, 'duration_us' => 100_000_000, 'cpu_us' => 75_000_000, 'queued_us' => 9_000_000],
            ['started_at' => $bucket + 20, 'duration_us' => 1_000_000, 'queued_us' => 1_000_000],
        ]);
        [$stretch, $waited] = $contention->of($this->cluster, self::NOW + 299);
        self::assertEqualsWithDelta(1 / (1 - 0.25), $stretch, 0.03);
        self::assertSame(5_000_000, $waited);
        self::assertSame([1.0, 0], $contention->of($this->cluster, self::NOW + 300), 'five minutes later it is over');
        // Nobody takes more than nine tenths.
        $this->import(array_map(static fn (int $i): array => ['started_at' => $bucket + 300 + $i, 'duration_us' => 250_000_000, 'cpu_us' =>
            240_000_000], [1, 2, 3]));
        self::assertEqualsWithDelta(10.0, $contention->of($this->cluster, self::NOW + 300)[0], 1e-9);
    }

    public function test_an_hour_is_slow_by_itself_only_while_the_probe_is_steady_and_only_once(): void
    {
        $this->history();
        $book = app(ProbeBook::class);
        $probe = $book->set($this->cluster, $this->person(), 'SELECT 1', '', 300);
        $slow = self::NOW - 2 * self::DAY + 11 * 3_600;
        $busy = self::NOW - 3 * self::DAY + 11 * 3_600;
        $runs = [];
        for ($at = self::NOW - 8 * self::DAY; $at < self::NOW; $at += 300) {
            $runs[] = new ProbeRun($at, $at >= $busy && $at < $busy + 3_600 ? 2_500_000 : 1_000_000);
        }
        $book->add($probe, $runs);
        $scale = ProbeScale::of($runs, $this->utc);
        $hours = app(SlowHours::class);
        self::assertSame([], $hours->of($this->cluster, $scale, self::NOW));
        // While the system struggled, nine times, and too little in all.
        $this->import([['started_at' => $busy, 'duration_us' => 90_000_000], ['started_at' => $slow, 'duration_us' => 9_500_000]]);
        self::assertSame([], $hours->of($this->cluster, $scale, self::NOW));
        $this->import([['started_at' => $slow + 3_600, 'duration_us' => 25_000_000]]);
        self::assertSame([], $hours->of($this->cluster, $scale, self::NOW));
        $this->import([['started_at' => $slow + 7_200, 'duration_us' => 45_000_000, 'bytes_scanned' => 40_000_000_000, 'user' => 'desk']]);
        // The worst hour is that in which the system struggled, so that nothing is said of this statement.
        self::assertSame([], $hours->of($this->cluster, $scale, self::NOW));
        $this->import([['started_at' => $slow + 7_200, 'duration_us' => 150_000_000, 'bytes_scanned' => 40_000_000_000, 'user' => 'desk']]);
        [$one] = $hours->of($this->cluster, $scale, self::NOW);
        self::assertSame([$slow + 7_200, 'desk', 2], [$one['hour'], $one['user'], $one['now']->executions]);
        self::assertSame(40e9, $one['now']->bytesRead);
    }

    public function test_a_probe_is_due_and_late_by_its_interval(): void
    {
        $probe = app(ProbeBook::class)->set($this->cluster, $this->person(), 'SELECT 1', 's', 120);
        self::assertInstanceOf(Probe::class, $probe);
        self::assertSame([true, true, false, true], [$probe->isDue(null, self::NOW), $probe->isDue(self::NOW - 120, self::NOW),
            $probe->isDue(self::NOW - 119, self::NOW), $probe->isOn]);
        self::assertSame([false, true, false, true], [
            $probe->isLate(self::NOW, self::NOW + 360), $probe->isLate(self::NOW, self::NOW + 361),
            $probe->isLate(null, self::NOW + 360), $probe->isLate(null, self::NOW + 361)]);
        app(ProbeBook::class)->switch($probe, false);
        $off = app(ProbeBook::class)->of($this->cluster);
        self::assertSame([false, false], [$off?->isDue(null, self::NOW), $off?->isLate(null, self::NOW + 9_999)]);
        app(ProbeBook::class)->add($probe, [new ProbeRun(10, 5), new ProbeRun(20, null, 3)], str_repeat('why ', 300));
        self::assertSame(500, mb_strlen((string) app(ProbeBook::class)->of($this->cluster)?->lastError));
        self::assertEquals([new ProbeRun(20, null, 3)], app(ProbeBook::class)->runs($probe, 11, 99));
        self::assertSame(20, app(ProbeBook::class)->last($probe));
        app(ProbeBook::class)->prune(20);
        self::assertCount(1, app(ProbeBook::class)->runs($probe, 0, 99));
        app(ProbeBook::class)->remove($probe);
        self::assertSame([null, 0], [app(ProbeBook::class)->of($this->cluster), DB::table('probe_runs')->count()]);
    }

    public function test_a_moment_of_an_address_is_read_or_complained_of(): void
    {
        $asked = fn (array $query): AskedMoment => AskedMoment::of(Request::create('/', 'GET', $query), $this->utc);
        self::assertSame([Clock::seconds(), '', null], [$asked([])->at, $asked([])->text, $asked([])->complaint]);
        self::assertSame(self::NOW - self::DAY + 39_600, $asked(['at' => ' yesterday 11:00 '])->at);
        self::assertSame([self::NOW, 'soon'], [$asked(['at' => 'soon'])->at, $asked(['at' => 'soon'])->text]);
        self::assertStringContainsString('is not a moment', (string) $asked(['at' => 'soon'])->complaint);
        self::assertSame([self::NOW, ''], [$asked(['at' => ['x']])->at, $asked(['at' => ['x']])->text]);
        self::assertSame(100, mb_strlen($asked(['at' => str_repeat('9', 400)])->text));
    }
}
