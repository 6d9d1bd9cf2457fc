<?php

declare(strict_types=1);

namespace Tests\Feature;

use App\Limits\Application\KeptLimit;
use App\Limits\Application\LimitBook;
use App\Limits\Application\LimitCounters;
use App\Limits\Application\LimitFacts;
use App\Limits\Application\LimitPage;
use App\Limits\Application\LimitPast;
use App\Limits\Application\LimitStair;
use App\Limits\Application\LimitState;
use App\Limits\Charts\LimitFigure;
use App\Limits\Http\Requests\ChangeLimitRequest;
use App\Platform\Figures\Figure;
use App\Platform\Support\Clock;
use App\Platform\Support\Role;
use Fulcrion\Core\Limits\Act;
use Fulcrion\Core\Limits\Limit;
use Fulcrion\Core\Limits\LimitMeasure;
use Fulcrion\Core\Limits\LimitPeriod;
use Fulcrion\Core\Limits\ScopeKind;
use Fulcrion\Core\Limits\Threshold;
use Fulcrion\Core\Usage\Calendar;
use Fulcrion\Core\Usage\Days;
use Fulcrion\Core\Usage\TeamMembership;
use Illuminate\Support\Carbon;
use Illuminate\Support\Facades\Artisan;
use Illuminate\Support\Facades\DB;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\Attributes\Group;
use SimpleXMLElement;
use Tests\TestCase;

/**
 * The stair, its rails, and what stands on them.
 */
#[Group('today')]
final class LimitFigureTest extends TestCase
{
    protected function setUp(): void
    {
        parent::setUp();
        // A Wednesday.
        Carbon::setTestNow('2026-11-18 10:30:00');
        $this->cluster();
        $this->belong(new TeamMembership('lee', 'lab', 0, null));
        $records = [];
        for ($day = -30; $day <= 0; $day++) {
            foreach ([8, 9, 10] as $hour) {
                $at = (int) strtotime('2026-11-18 UTC') + $day * Days::DAY + $hour * 3_600;
                for ($i = 0; $i < 4 && $at + $i * 600 < Clock::seconds(); $i++) {
                    $records[] = ['started_at' => $at + $i * 600, 'duration_us' => 1_000, 'sql' => 'SELECT 1', 'user' => 'lee',
                        'bytes_scanned' => 1_000];
                }
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

    private function limit(LimitPeriod $period, int $amount, LimitMeasure $measure = LimitMeasure::Bytes): KeptLimit
    {
        $book = app(LimitBook::class);
        $shares = [new Threshold(50, Act::Note), new Threshold(80, Act::Tell), new Threshold(100, Act::Hold)];
        $id = $book->add(new Limit($measure, ScopeKind::Team, 'lab', $period, $amount, $shares), '', null, null, '', 'Ada');
        $book->switch($id, LimitState::On);

        return $book->find($id) ?? self::fail('no limit');
    }

    private function page(KeptLimit $limit, string $from = ''): LimitPage
    {
        return LimitPage::of($limit, $from, app(LimitCounters::class), app(LimitFacts::class), app(Calendar::class), Clock::seconds());
    }

    private function past(KeptLimit $limit): LimitPast
    {
        return LimitPast::of($limit, app(LimitFacts::class), app(Calendar::class), Clock::seconds());
    }

    /**
     * @return array{SimpleXMLElement, array<string, int>} the drawing, and how often each class stands in it
     */
    private static function drawn(Figure $figure): array
    {
        $svg = new SimpleXMLElement($figure->svg);
        $classes = [];
        $marked = $svg->xpath('//*[@class]');
        foreach (is_array($marked) ? $marked : [] as $one) {
            $classes[(string) $one['class']] = ($classes[(string) $one['class']] ?? 0) + 1;
        }

        return [$svg, $classes];
    }

    public function test_the_past_starts_from_nothing_in_each_week_and_stands_still_where_it_holds(): void
    {
        // Seven days of twelve kilobytes are 84 a week; it would hold at 60, on each Friday at nine.
        $past = $this->past($this->limit(LimitPeriod::Week, 60_000));
        self::assertSame('2026-10-19', gmdate('Y-m-d', $past->days->from), 'whole weeks');
        $stair = LimitStair::past($past, app(Calendar::class), Clock::seconds());
        self::assertCount(5, $stair->stairs);
        foreach ($stair->stairs as $i => $points) {
            self::assertSame(0.0, $points[0][1]);
            $most = max(array_column($points, 1));
            self::assertSame($i < 4 ? 60_000.0 : 35_000.0, $most);
            self::assertSame($i < 4 ? 84_000.0 : 35_000.0, max(array_column($stair->wanted[$i], 1)));
        }
        self::assertCount(4 * 3 + 1, $stair->acts, 'in the present week only a half is reached');
        // Of each whole week the last 24 of 84 executions.
        self::assertEqualsWithDelta(4 * 24.0, array_sum($stair->held), 1e-6);
        [$svg, $classes] = self::drawn(LimitFigure::draw($stair, $past->sentence()));
        self::assertSame([1, 2], [$classes['limit'], $classes['rail']]);
        self::assertSame(13, $classes['act-mark']);
        self::assertSame(5, $classes['ghost']);
        self::assertSame(5, $classes['line s1']);
        $titles = $svg->xpath('//*[@class="held"]/*[local-name()="title"]');
        $titles = array_map(strval(...), is_array($titles) ? $titles : []);
        self::assertNotEmpty($titles);
        self::assertLessThanOrEqual(64, count($titles), 'lozenges do not overlap');
        self::assertStringContainsString('held, from ', $titles[0]);
        self::assertSame('Fri 23 Oct 11:00', $past->heldFrom((int) strtotime('2026-10-19 UTC')));
        self::assertSame('', $past->heldFrom((int) strtotime('2026-11-16 UTC')));
    }

    public function test_the_present_period_ends_with_what_is_counted_now(): void
    {
        $limit = $this->limit(LimitPeriod::Day, 20_000);
        app(LimitCounters::class)->sync($limit, Clock::seconds());
        $page = $this->page($limit);
        $points = $page->stair->stairs[0];
        self::assertSame([Clock::seconds(), (float) $page->used], end($points));
        for ($i = 1; $i < count($points); $i++) {
            self::assertGreaterThanOrEqual($points[$i - 1][0], $points[$i][0], 'time runs on');
            self::assertGreaterThanOrEqual($points[$i - 1][1], $points[$i][1], 'use only grows');
        }
        self::assertSame('Team lab used 55% of 20 kB scanned, 18 November 2026; nothing was held', $page->sentence());
        [, $classes] = self::drawn(LimitFigure::draw($page->stair, $page->sentence()));
        self::assertArrayNotHasKey('held', $classes);
        self::assertArrayNotHasKey('ghost', $classes);
        // A period before is looked at by its first day, and one nobody counted is none.
        DB::table('limit_counters')->insert(['limit_id' => $limit->id, 'from_at' => strtotime('2026-11-16 UTC'), 'settled' => 12_000]);
        $earlier = $this->page($limit, '2026-11-16');
        self::assertSame([false, 12_000], [$earlier->isPresent, $earlier->used]);
        self::assertSame(12_000.0, max(array_column($earlier->stair->stairs[0], 1)));
        foreach (['2026-11-15', 'yesterday', '2026-99-99', "'"] as $from) {
            self::assertTrue($this->page($limit, $from)->isPresent, $from);
        }
        $this->actingAs($this->person(Role::Owner));
        $this->get("/meter/limits/{$limit->id}?from=2026-11-16")->assertOk()->assertSee('aria-current="true"', false);
    }

    public function test_single_statements_stand_upright_by_their_hours(): void
    {
        $limit = $this->limit(LimitPeriod::Statement, 900);
        $past = $this->past($limit);
        self::assertStringContainsString('It would have held about', $past->sentence());
        $stair = LimitStair::past($past, app(Calendar::class), Clock::seconds());
        self::assertSame([], $stair->wanted);
        self::assertSame([1_000.0], array_values(array_unique(array_column($stair->stairs[0], 1))));
        [, $classes] = self::drawn(LimitFigure::draw($stair, $past->sentence()));
        self::assertSame(count($stair->stairs[0]), $classes['line s1']);
    }

    public function test_with_nothing_used_there_is_a_figure_with_its_rails(): void
    {
        foreach (LimitPeriod::cases() as $period) {
            $book = app(LimitBook::class);
            $id = $book->add(
                new Limit(LimitMeasure::Time, ScopeKind::Person, 'nobody', $period, 5_000_000, [new Threshold(100, Act::Hold)]),
                '',
                null,
                null,
                '',
                'Ada',
            );
            $limit = $book->find($id) ?? self::fail('no limit');
            $past = LimitStair::past($this->past($limit), app(Calendar::class), Clock::seconds());
            foreach ([$this->page($limit)->stair, $past] as $stair) {
                [, $classes] = self::drawn(LimitFigure::draw($stair, 'Nothing'));
                self::assertSame(1, $classes['limit'], $period->value);
            }
        }
    }

    /**
     * @return iterable<string, array{LimitMeasure, int, string, string}> measure, amount, in words, as it is typed
     */
    public static function amounts(): iterable
    {
        yield 'binary' => [LimitMeasure::Bytes, 3 * 1024 ** 4, '3 TiB scanned a day', '3 TiB'];
        yield 'decimal' => [LimitMeasure::Bytes, 20_000_000_000, '20 GB scanned a day', '20 GB'];
        yield 'a half' => [LimitMeasure::Bytes, 1_610_612_736, '1.5 GiB scanned a day', '1.5 GiB'];
        yield 'odd bytes' => [LimitMeasure::Bytes, 1_234_567, '1234567 B scanned a day', '1234567 B'];
        yield 'hours' => [LimitMeasure::Time, 36_000_000_000, '10 h in flight a day', '10 h'];
        yield 'minutes' => [LimitMeasure::Time, 900_000_000, '15 min in flight a day', '15 min'];
        yield 'seconds' => [LimitMeasure::Time, 7_000_000, '7 s in flight a day', '7 s'];
        yield 'many' => [LimitMeasure::Executions, 5_000, "5\u{202F}000 executions a day", '5000'];
        yield 'one' => [LimitMeasure::Executions, 1, '1 execution a day', '1'];
        yield 'money' => [LimitMeasure::Cost, 120_500_000, 'a day', '120.5'];
    }

    #[DataProvider('amounts')]
    public function test_amounts_are_said_as_they_were_typed(LimitMeasure $measure, int $amount, string $said, string $typed): void
    {
        $limit = $this->limit(LimitPeriod::Day, $amount, $measure);
        self::assertStringStartsWith('team lab, ', $limit->title());
        self::assertStringContainsString($said, $limit->title());
        self::assertSame($typed, $limit->typed());
        self::assertSame($amount, ChangeLimitRequest::amount($measure, $limit->typed()), 'and read back');
    }
}
