<?php

declare(strict_types=1);

namespace Tests\Core\Limits;

use Fulcrion\Core\Limits\Allowance;
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
}
