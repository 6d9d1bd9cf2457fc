<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Estate\Connectors\SourceError;
use App\Estate\Limits\Sending;
use App\Estate\Limits\StatementGate;
use App\Estate\Models\Cluster;
use App\Limits\Application\KeptLimit;
use App\Limits\Application\LimitBook;
use App\Limits\Application\LimitCounters;
use App\Limits\Application\LimitState;
use App\Platform\Support\Clock;
use App\Telemetry\Usage\UsageSums;
use Fulcrion\Core\Limits\Act;
use Fulcrion\Core\Limits\Limit;
use Fulcrion\Core\Limits\LimitMeasure;
use Fulcrion\Core\Limits\LimitPeriod;
use Fulcrion\Core\Limits\ScopeKind;
use Fulcrion\Core\Limits\Sender;
use Fulcrion\Core\Limits\StatementEstimate;
use Fulcrion\Core\Limits\Threshold;
use Fulcrion\Core\Usage\TeamMembership;
use Fulcrion\Tools\Forks;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Cache;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\TestWith;
use Tests\TestCase;

/**
 * Counting by several processes at once, of which some die, some come late and some look at what others change.
 */
final class LimitGuardTest extends TestCase
{
    private Cluster $cluster;

    protected function setUp(): void
    {
        parent::setUp();
        $this->cluster = $this->cluster();
        $this->belong(new TeamMembership('lee', 'lab', 0, null), new TeamMembership('mia', 'lab', 0, null));
    }

    protected function tearDown(): void
    {
        Carbon::setTestNow();
        parent::tearDown();
    }

    private function limit(ScopeKind $kind, string $name, LimitMeasure $measure, int $amount): KeptLimit
    {
        $book = app(LimitBook::class);
        $id = $book->add(
            new Limit($measure, $kind, $name, LimitPeriod::Month, $amount, [new Threshold(60, Act::Note), new Threshold(100, Act::Hold)]),
            '',
            null,
            null,
            '',
            'Ada',
        );
        $book->switch($id, LimitState::On);

        return $book->find($id) ?? self::fail('no limit');
    }

    private function sending(string $login, int $expected): Sending
    {
        return new Sending(
            (new Sender($login, 'boards'))->to($this->cluster->slug),
            $this->cluster,
            'SELECT 1',
            static fn (): StatementEstimate => new StatementEstimate($expected, 0),
        );
    }

    /**
     * @return array{int, int, int} used, reserved, running
     */
    private function counted(KeptLimit $limit): array
    {
        $counters = app(LimitCounters::class);
        $period = $counters->period($limit, Clock::seconds());

        return [$counters->used($limit, $period), ...$counters->running($limit, $period)];
    }

    /**
     * Each process sends what it draws; whatever the order they come in, nobody is let in at or beyond the limit, and every byte that was
     * read is counted once.
     */
    #[TestWith([3])]
    #[TestWith([4])]
    public function test_every_byte_is_counted_once_and_nobody_is_let_in_beyond_the_limit(int $seed): void
    {
        $limit = $this->limit(ScopeKind::Team, 'lab', LimitMeasure::Bytes, 40_000);
        $wide = $this->limit(ScopeKind::Cluster, 'fernhill', LimitMeasure::Executions, 10_000);
        $results = Forks::run(10, function (int $process) use ($seed, $limit): array {
            mt_srand(100 * $seed + $process);
            $gate = app(StatementGate::class);
            $counters = app(LimitCounters::class);
            $read = $ran = $late = 0;
            for ($i = 0; $i < 30; $i++) {
                $expected = mt_rand(0, 1_500);
                try {
                    $admission = $gate->admit($this->sending($process % 2 === 0 ? 'lee' : 'mia', $expected));
                } catch (SourceError) {
                    continue;
                }
                // What is used never falls, so who is in now and sees the limit passed was let in by those that ran already.
                $late += $counters->used($limit, $counters->period($limit, Clock::seconds())) >= 40_000 + 10 * 1_500 ? 1 : 0;
                $actual = mt_rand(0, $expected);
                $admission->settle($actual, 1);
                [$read, $ran] = [$read + $actual, $ran + 1];
            }

            return [$read, $ran, $late];
        });
        $read = array_sum(array_column($results, 0));
        self::assertSame([$read, 0, 0], $this->counted($limit));
        self::assertSame([array_sum(array_column($results, 1)), 0, 0], $this->counted($wide));
        self::assertSame(0, array_sum(array_column($results, 2)));
        // Nobody reads more than was reserved, so one statement at most lies across the limit.
        self::assertLessThan(40_000 + 1_500, $read);
        self::assertGreaterThan(40_000 - 1_500, $read, 'and there was more to be read than room');
        self::assertSame(0, DB::table('limit_runs')->count());
    }

    public function test_processes_that_die_leave_their_part_only_until_it_is_swept(): void
    {
        $limit = $this->limit(ScopeKind::Person, 'lee', LimitMeasure::Executions, 12);
        $sent = Forks::run(8, function (int $process): int {
            $gate = app(StatementGate::class);
            $in = 0;
            for ($i = 0; $i < 3; $i++) {
                try {
                    $admission = $gate->admit($this->sending('lee', 0));
                } catch (SourceError) {
                    continue;
                }
                $in++;
                // Every other process forgets what it was let in for, as one does that is killed.
                if ($process % 2 === 0) {
                    $admission->settle(0, 0);
                }
            }

            return $in;
        });
        self::assertSame(12, array_sum($sent));
        [$used, $reserved, $running] = $this->counted($limit);
        self::assertSame(12, $used + $reserved);
        self::assertSame($reserved, $running);
        Carbon::setTestNow(Carbon::now()->addMinutes(11));
        self::assertSame($reserved, app(LimitCounters::class)->sweep());
        self::assertSame([$used, 0, 0], $this->counted($limit));
        self::assertSame(0, app(LimitCounters::class)->sweep());
        // What ends after it was swept is counted all the same, and gives nothing back twice.
        $admission = app(StatementGate::class)->admit($this->sending('lee', 0));
        Carbon::setTestNow(Carbon::now()->addMinutes(11));
        app(LimitCounters::class)->sweep();
        $admission->settle(0, 0);
        self::assertSame([$used + 1, 0, 0], $this->counted($limit));
    }

    public function test_a_first_statement_of_a_period_counts_what_was_used_before_it_once(): void
    {
        $limit = $this->limit(ScopeKind::Person, 'lee', LimitMeasure::Executions, 100);
        DB::table('limit_counters')->delete();
        $this->used(40);
        $sent = Forks::run(10, function (): int {
            app(StatementGate::class)->admit($this->sending('lee', 0))->settle(0, 0);

            return 1;
        });
        self::assertSame(10, array_sum($sent));
        self::assertSame([50, 0, 0], $this->counted($limit));
    }

    private function used(int $executions): void
    {
        $today = Clock::seconds() - Clock::seconds() % 86_400;
        DB::table('usage_teams')->insert(['id' => 1, 'name' => 'lab']);
        DB::table('origins')->insert([
            'id' => 1, 'digest' => str_repeat('0', 16), 'database_name' => 'd', 'user_name' => 'lee', 'application' => 'a',
            'client_host' => 'h',
        ]);
        DB::table('statements')->insert(['id' => 1, 'fingerprint' => md5('1'), 'kind' => 'read', 'text' => 'SELECT 1']);
        DB::table('usage_facts')->insert([
            'day_at' => $today, 'cluster_id' => $this->cluster->id, 'team_id' => 1, 'origin_id' => 1, 'statement_id' => 1,
            'executions' => $executions,
        ]);
        DB::table('usage_days')->insert(['cluster_id' => $this->cluster->id, 'day_at' => $today]);
        UsageSums::day($this->cluster->id, $today);
    }

    public function test_whoever_changes_the_team_is_counted_there_within_a_minute(): void
    {
        Carbon::setTestNow('2026-11-18 12:00:00');
        $limit = $this->limit(ScopeKind::Team, 'lab', LimitMeasure::Executions, 100);
        $send = function (string $login): int {
            app(StatementGate::class)->admit($this->sending($login, 0))->settle(0, 0);

            return (int) DB::table('limit_counters')->sum('settled');
        };
        self::assertSame([1, 2, 2], [$send('lee'), $send('mia'), $send('nora')]);
        $at = Clock::seconds();
        $this->belong(new TeamMembership('lee', 'lab', 0, $at), new TeamMembership('nora', 'lab', $at, null),
            new TeamMembership('mia', 'lab', 0, null));
        Carbon::setTestNow('2026-11-18 12:01:01');
        Cache::forget('members-of-teams');
        self::assertSame([2, 3, 4], [$send('lee'), $send('mia'), $send('nora')]);
        self::assertSame('100 executions', $limit->whole());
    }

    public function test_teams_are_those_usage_is_counted_for(): void
    {
        $this->belong(new TeamMembership('Lee', 'lab', 0, null), new TeamMembership('mia', '', 0, null));
        $lab = $this->limit(ScopeKind::Team, 'lab', LimitMeasure::Executions, 100);
        $nobodys = $this->limit(ScopeKind::Team, 'unassigned', LimitMeasure::Executions, 100);
        foreach (['lee', 'LEE', 'mia', 'nora'] as $login) {
            app(StatementGate::class)->admit($this->sending($login, 0))->settle(0, 0);
        }
        self::assertSame(['lee' => ['Lee', 'lab']], app(LimitBook::class)->members());
        self::assertSame([2, 2], [$this->counted($lab)[0], $this->counted($nobodys)[0]]);
    }

    public function test_an_act_is_done_once_whoever_sees_it_first(): void
    {
        $limit = $this->limit(ScopeKind::Person, 'lee', LimitMeasure::Bytes, 1_000);
        Forks::run(8, function (): int {
            app(StatementGate::class)->admit($this->sending('lee', 0))->settle(90, 0);

            return 1;
        });
        self::assertSame([720, 0, 0], $this->counted($limit));
        self::assertSame(
            [[60, 'note']],
            DB::table('limit_acts')->get()->map(static fn ($row): array => [(int) $row->percent, (string) $row->act])->all(),
        );
        self::assertGreaterThanOrEqual(600, (int) DB::table('limit_acts')->value('used'));
        self::assertLessThan(690, (int) DB::table('limit_acts')->value('used'), 'at the moment it was reached');
    }
}
