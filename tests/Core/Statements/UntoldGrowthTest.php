<?php

declare(strict_types=1);

namespace Tests\Core\Statements;

use Fulcrion\Core\Statements\UntoldGrowth;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class UntoldGrowthTest extends TestCase
{
    public function test_what_no_part_accounts_for_is_untold(): void
    {
        self::assertSame(
            ['growth' => ['count' => 3, 'duration_us' => 40], 'balance' => []],
            UntoldGrowth::of(['count' => 10, 'duration_us' => 100], ['count' => 7, 'duration_us' => 60], []),
        );
        self::assertSame(
            ['growth' => null, 'balance' => []],
            UntoldGrowth::of(['count' => 7, 'duration_us' => 60], ['count' => 7, 'duration_us' => 60], []),
        );
        self::assertSame(['growth' => null, 'balance' => []], UntoldGrowth::of([], [], []));
    }

    public function test_a_part_that_is_ahead_of_the_total_is_made_good_later(): void
    {
        $first = UntoldGrowth::of(['count' => 5, 'duration_us' => 50], ['count' => 6, 'duration_us' => 55], []);
        self::assertSame(['growth' => null, 'balance' => ['count' => -1, 'duration_us' => -5]], $first);
        self::assertSame(
            ['growth' => ['count' => 1, 'duration_us' => 0], 'balance' => ['duration_us' => -2]],
            UntoldGrowth::of(['count' => 4, 'duration_us' => 3], ['count' => 2], $first['balance']),
        );
    }

    public function test_time_without_an_execution_waits_for_one(): void
    {
        $first = UntoldGrowth::of(['count' => 1, 'duration_us' => 9], ['count' => 1, 'duration_us' => 5], []);
        self::assertSame(['growth' => null, 'balance' => ['duration_us' => 4]], $first);
        $second = UntoldGrowth::of(['count' => 1, 'duration_us' => 2], [], $first['balance']);
        self::assertSame(['count' => 1, 'duration_us' => 6], $second['growth']);
    }

    public function test_in_the_long_run_nothing_is_lost_or_counted_twice(): void
    {
        $random = new Randomizer(new Mt19937(7));
        for ($case = 0; $case < 200; $case++) {
            $balance = [];
            $totals = $tolds = $untolds = $ahead = 0;
            for ($step = 0; $step < 30; $step++) {
                // Some of what the parts will tell next is in the total already, or the other way round.
                $told = $random->getInt(0, 20);
                $next = $random->getInt(-5, 5);
                $total = max(0, $told + $random->getInt(0, 3) + $next - $ahead);
                $ahead = $next;
                $one = UntoldGrowth::of(['count' => $total], ['count' => $told], $balance);
                $balance = $one['balance'];
                $totals += $total;
                $tolds += $told;
                $untolds += $one['growth']['count'] ?? 0;
                self::assertSame($totals, $tolds + $untolds + ($balance['count'] ?? 0));
                self::assertLessThanOrEqual(0, $balance['count'] ?? 0);
            }
        }
    }
}
