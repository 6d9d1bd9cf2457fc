<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Limits\Application\Allowances;
use App\Limits\Application\KeptLimit;
use App\Limits\Application\LimitBook;
use App\Limits\Application\LimitFacts;
use App\Limits\Application\LimitPast;
use App\Limits\Application\LimitState;
use App\Platform\Support\Clock;
use Fulcrion\Core\Limits\ScopeKind;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\TeamMembership;
use Fulcrion\Tools\Demo\DemoLimits;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\Group;
use Tests\TestCase;

/**
 * Limits of the demo world: the team that reads twice as much since a week would have been stopped, and nobody else.
 */
#[Group('today')]
final class LimitDemoTest extends TestCase
{
    protected function setUp(): void
    {
        parent::setUp();
        // A Monday, so that the last week is whole.
        Carbon::setTestNow('2026-11-16 06:00:00');
        $this->cluster();
        $this->belong(new TeamMembership('lee', 'forecast_lab', 0, null), new TeamMembership('hub', 'boards', 0, null));
        $records = [];
        for ($day = 1; $day <= 28; $day++) {
            $at = (int) strtotime('2026-11-16 08:00 UTC') - $day * Days::DAY;
            for ($i = 0; $i < 6; $i++) {
                $records[] = ['started_at' => $at + $i * 3_600, 'duration_us' => 1_000_000, 'sql' => 'SELECT 1', 'user' => 'lee',
                    'bytes_scanned' => ($day <= 7 ? 2 : 1) * 1024 ** 4];
                $records[] = ['started_at' => $at + $i * 3_600, 'duration_us' => 1_000_000, 'sql' => 'SELECT 2', 'user' => 'hub',
                    'bytes_scanned' => 1024 ** 3];
            }
        }
        Artisan::call('telemetry:import', ['file' => $this->file($records), '--cluster' => 'fernhill']);
        Artisan::call('usage:close');
    }

    protected function tearDown(): void
    {
        Carbon::setTestNow();
        parent::tearDown();
    }

    private function past(KeptLimit $limit): LimitPast
    {
        return LimitPast::of($limit, app(LimitFacts::class), app(Calendar::class), Clock::seconds());
    }

    public function test_the_limit_that_waits_would_have_held_the_last_week_and_only_the_team_that_grew(): void
    {
        app(DemoLimits::class)->write(Clock::seconds());
        $limits = app(LimitBook::class)->all();
        self::assertCount(2, $limits);
        [$boards, $lab] = $limits;
        self::assertSame([LimitState::On, 'boards'], [$boards->state, $boards->limit->name]);
        self::assertSame([LimitState::Tried, 'forecast_lab', ScopeKind::Team], [$lab->state, $lab->limit->name, $lab->limit->kind]);
        // Forty-two a week, and a fifth more.
        self::assertSame('50 TiB', $lab->typed());
        self::assertSame(12, $boards->limit->amount);
        $trial = $this->past($lab)->trial;
        self::assertSame(['lee'], array_keys($trial->held));
        self::assertSame(1, $trial->periodsHeld());
        self::assertSame((int) strtotime('2026-11-09 UTC'), array_search(max($trial->wanted), $trial->wanted, true));
        self::assertSame([], $this->past($boards)->trial->held, 'no healthy neighbour is stopped');
        // Written once.
        app(DemoLimits::class)->write(Clock::seconds());
        self::assertSame([2, 1], [DB::table('limits')->count(), DB::table('allowances')->count()]);
    }

    public function test_the_allowance_ends_in_about_ten_days(): void
    {
        app(DemoLimits::class)->write(Clock::seconds());
        [$one] = app(Allowances::class)->all(Clock::seconds());
        self::assertGreaterThan(0.0, $one->outlook->balance());
        self::assertSame(0.0, $one->outlook->beyond(new Days(0, app(Calendar::class)->day(Clock::seconds())))[0], 'it lasted so far');
        $days = intdiv((int) $one->outlook->runsOut() - app(Calendar::class)->day(Clock::seconds()), Days::DAY);
        self::assertGreaterThanOrEqual(5, $days);
        self::assertLessThanOrEqual(15, $days);
    }
}
