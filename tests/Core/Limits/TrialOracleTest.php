<?php

declare(strict_types=1);

namespace Tests\Core\Limits;

use Fulcrion\Core\Limits\Act;
use Fulcrion\Core\Limits\HourUse;
use Fulcrion\Core\Limits\Limit;
use Fulcrion\Core\Limits\LimitMeasure;
use Fulcrion\Core\Limits\LimitPeriod;
use Fulcrion\Core\Limits\LimitTrial;
use Fulcrion\Core\Limits\ScopeKind;
use Fulcrion\Core\Limits\Threshold;
use Fulcrion\Core\Usage\Days;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * What is computed from hours, held against every single execution played through one after the other.
 */
final class TrialOracleTest extends TestCase
{
    /** Monday, 2 November 2026. */
    private const MONDAY = 1_793_577_600;

    /**
     * @return iterable<string, array{LimitPeriod, int}>
     */
    public static function worlds(): iterable
    {
        foreach ([LimitPeriod::Day, LimitPeriod::Week, LimitPeriod::Month] as $period) {
            for ($seed = 1; $seed <= 6; $seed++) {
                yield "{$period->value} {$seed}" => [$period, $seed];
            }
        }
    }

    #[DataProvider('worlds')]
    public function test_each_execution_played_through_is_held_where_the_hours_say(LimitPeriod $period, int $seed): void
    {
        $random = new Randomizer(new Mt19937($seed));
        [$hours, $events] = self::world($random);
        $perPeriod = [];
        foreach ($events as [$at, , $each]) {
            $day = $period->days($at - $at % Days::DAY)->from;
            $perPeriod[$day] = ($perPeriod[$day] ?? 0.0) + $each;
        }
        // About half of the periods pass it.
        sort($perPeriod);
        $amount = max(1, (int) (0.8 * $perPeriod[intdiv(count($perPeriod), 2)]));
        $limit = new Limit(
            LimitMeasure::Bytes,
            ScopeKind::Team,
            'lab',
            $period,
            $amount,
            [new Threshold(50, Act::Note), new Threshold(100, Act::Hold)],
        );
        [$held, $began] = self::played($limit, $events);
        $trial = LimitTrial::of($limit, $hours);
        self::assertGreaterThan(0, array_sum($held));
        foreach (['ada', 'bren', 'cole'] as $who) {
            // Of each period one execution lies on the border.
            self::assertEqualsWithDelta($held[$who] ?? 0, $trial->held[$who] ?? 0.0, count($perPeriod) + 0.5, $who);
        }
        self::assertSame(count($began), $trial->periodsHeld());
        foreach ($trial->acts as $act) {
            if ($act->threshold->act === Act::Hold) {
                self::assertEqualsWithDelta($began[$act->day], $act->at, 900, 'within the quarter of an hour an execution is apart');
            }
        }
    }

    /**
     * @return array{list<HourUse>, list<array{int, string, float}>} hours, and executions by time: moment, who, what each has
     */
    private static function world(Randomizer $random): array
    {
        $hours = $events = [];
        for ($hour = 0; $hour < 21 * 24; $hour++) {
            $at = self::MONDAY + $hour * 3_600;
            foreach (['ada', 'bren', 'cole'] as $who) {
                if ($random->getInt(0, 2) === 0) {
                    continue;
                }
                $executions = $random->getInt(4, 12);
                $amount = $random->getInt(1_000, 60_000);
                $hours[] = new HourUse($at, $at - $at % Days::DAY, $who, $executions, $amount);
                for ($i = 0; $i < $executions; $i++) {
                    // In the middle of its even part of the hour.
                    $events[] = [$at + (int) (3_600 * ($i + 0.5) / $executions), $who, $amount / $executions];
                }
            }
        }
        usort($events, static fn (array $a, array $b): int => $a[0] <=> $b[0]);

        return [$hours, $events];
    }

    /**
     * @param  list<array{int, string, float}>  $events
     * @return array{array<string, int>, array<int, int>} held by whom, and the moment each period began to hold
     */
    private static function played(Limit $limit, array $events): array
    {
        $used = $held = $began = [];
        foreach ($events as [$at, $who, $each]) {
            $day = $limit->period->days($at - $at % Days::DAY)->from;
            if (($used[$day] ?? 0.0) >= $limit->holdsAt()) {
                $held[$who] = ($held[$who] ?? 0) + 1;
                $began[$day] ??= $at;

                continue;
            }
            $used[$day] = ($used[$day] ?? 0.0) + $each;
            if ($used[$day] >= $limit->holdsAt()) {
                $began[$day] = $at;
            }
        }

        return [$held, $began];
    }
}
