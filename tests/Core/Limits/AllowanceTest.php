<?php

declare(strict_types=1);

namespace Tests\Core\Limits;

use Fulcrion\Core\Limits\Allowance;
use Fulcrion\Core\Limits\AllowanceMeasure;
use Fulcrion\Core\Limits\AllowanceOutlook;
use Fulcrion\Core\Usage\Days;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class AllowanceTest extends TestCase
{
    public function test_it_accrues_up_to_its_cap_and_is_used_up_before_anything_costs(): void
    {
        $over = (new Allowance(1.0, 3.0))->over([
            [true, 0.0], [true, 0.5], [false, 0.0], [true, 0.0], [true, 0.0], [true, 2.0], [true, 3.0], [false, 1.0], [true, 0.0],
        ]);
        self::assertSame([1.0, 1.5, 1.5, 2.5, 3.0, 1.0, 0.0, 0.0, 1.0], array_column($over, 'balance'));
        self::assertSame([1.0, 1.0, 0.0, 1.0, 0.5, 0.0, 1.0, 0.0, 1.0], array_column($over, 'added'));
        self::assertSame([0.0, 0.0, 0.0, 0.0, 0.5, 1.0, 0.0, 0.0, 0.0], array_column($over, 'lost'));
        self::assertSame([0.0, 0.0, 0.0, 0.0, 0.0, 0.0, 1.0, 1.0, 0.0], array_column($over, 'beyond'));
    }

    public function test_it_begins_with_what_there_is_and_no_more_than_its_cap(): void
    {
        self::assertSame(5.0, (new Allowance(1.0, 8.0, 4.0))->over([[true, 0.0]])[0]->balance);
        self::assertSame(8.0, (new Allowance(1.0, 8.0, 40.0))->over([[true, 0.0]])[0]->balance);
        self::assertSame([], (new Allowance(1.0, 8.0))->over([]));
    }

    public function test_what_is_used_is_what_is_taken_and_what_is_beyond(): void
    {
        $random = new Randomizer(new Mt19937(23));
        for ($i = 0; $i < 50; $i++) {
            $allowance = new Allowance($random->getInt(0, 300) / 100, $random->getInt(0, 2000) / 100, $random->getInt(0, 2500) / 100);
            $days = [];
            for ($day = 0; $day < 60; $day++) {
                $days[] = [$random->getInt(0, 3) > 0, $random->getInt(0, 2) === 0 ? $random->getInt(0, 800) / 100 : 0.0];
            }
            $before = min($allowance->cap, $allowance->start);
            foreach ($allowance->over($days) as $place => $one) {
                self::assertEqualsWithDelta($before + $one->added - ($one->used - $one->beyond), $one->balance, 1e-9);
                self::assertEqualsWithDelta($days[$place][0] ? $allowance->perDay : 0.0, $one->added + $one->lost, 1e-9);
                self::assertGreaterThanOrEqual(-1e-9, min($one->added, $one->lost, $one->balance, $one->beyond));
                self::assertLessThanOrEqual($allowance->cap + 1e-9, $one->balance);
                self::assertTrue($one->beyond < 1e-9 || $one->balance < 1e-9, 'nothing costs while there is some');
                $before = $one->balance;
            }
        }
    }

    public function test_it_goes_on_as_use_is_forecast_and_says_when_it_runs_out(): void
    {
        // Two a day from Monday to Friday, each of which adds one: ten weeks, so that all models see the same week again and again.
        $inUse = $used = [];
        for ($day = 0; $day < 70; $day++) {
            $inUse[] = $day % 7 < 5;
            $used[] = $day % 7 < 5 ? 2.0 : 0.0;
        }
        $monday = 1_793_577_600;
        $outlook = AllowanceOutlook::of(new Allowance(1.0, 60.0, 60.0), $monday, $inUse, $used, 28);
        self::assertSame(70, $outlook->known);
        self::assertCount(98, $outlook->days);
        // Fifty days in use took one each, and the cap lost the first day's.
        self::assertEqualsWithDelta(9.0, $outlook->balance(), 1e-9);
        // The tenth day in use from now on wants one more than there is: the Friday of the second week.
        self::assertSame($monday + (70 + 11) * Days::DAY, $outlook->runsOut());
        [$was, $will] = $outlook->beyond(new Days($monday + 77 * Days::DAY, $monday + 91 * Days::DAY));
        self::assertSame(0.0, $was);
        self::assertEqualsWithDelta(1.0 + 5.0, $will, 0.2);
        self::assertSame([0.0, 0.0], $outlook->beyond(new Days($monday, $monday + 70 * Days::DAY)));
    }

    public function test_what_lasts_does_not_run_out_and_nothing_known_is_no_error(): void
    {
        $outlook = AllowanceOutlook::of(new Allowance(2.0, 10.0), 0, array_fill(0, 30, true), array_fill(0, 30, 1.0), 30);
        self::assertNull($outlook->runsOut());
        self::assertSame(9.0, $outlook->balance());
        $new = AllowanceOutlook::of(new Allowance(2.0, 10.0, 4.0), 0, [], [], 30);
        self::assertSame([0, 4.0, null], [$new->known, $new->balance(), $new->runsOut()]);
        self::assertCount(30, $new->days);
    }

    public function test_what_it_is_of_is_counted_or_written_down(): void
    {
        foreach (AllowanceMeasure::cases() as $one) {
            self::assertNotSame($one->usage() === null, $one->written() === null, $one->value);
            self::assertNotSame('', $one->label());
        }
        self::assertSame([1.0, 1.0, 1_099_511_627_776.0, 3_600_000_000.0, 1.0], array_map(
            static fn (AllowanceMeasure $one): float => $one->size(),
            AllowanceMeasure::cases(),
        ));
    }
}
