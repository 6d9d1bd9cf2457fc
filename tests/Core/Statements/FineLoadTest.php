<?php

declare(strict_types=1);

namespace Tests\Core\Statements;

use Fulcrion\Core\Statements\FineLoad;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class FineLoadTest extends TestCase
{
    public function test_what_grew_is_spread_by_the_time_each_half_minute_has_of_it(): void
    {
        // Ten seconds before a border and five behind it.
        self::assertSame(
            [990 => ['executions' => 6, 'load_us' => 66], 1_020 => ['executions' => 3, 'load_us' => 34]],
            FineLoad::spread(['executions' => 9, 'load_us' => 100], 1_010, 1_025),
        );
        self::assertSame([1_020 => ['executions' => 9]], FineLoad::spread(['executions' => 9], 1_020, 1_030));
        self::assertSame([990 => ['executions' => 9]], FineLoad::spread(['executions' => 9], 1_010, 1_020), 'up to a border');
        self::assertSame([1_020 => ['executions' => 9]], FineLoad::spread(['executions' => 9], 1_030, 1_030), 'within one second');
    }

    public function test_what_was_not_read_for_long_is_not_known_so_finely(): void
    {
        self::assertSame([], FineLoad::spread(['executions' => 9], 1_000, 1_000 + FineLoad::LONGEST_SECONDS + 1));
        self::assertNotSame([], FineLoad::spread(['executions' => 9], 1_000, 1_000 + FineLoad::LONGEST_SECONDS));
        self::assertSame([], FineLoad::spread(['executions' => 9], 1_000, 999), 'a clock that was set back');
    }

    public function test_the_parts_together_are_always_what_grew(): void
    {
        $random = new Randomizer(new Mt19937(4));
        for ($i = 0; $i < 500; $i++) {
            $from = 1_700_000_000 + $random->getInt(0, 1_000);
            $to = $from + $random->getInt(0, FineLoad::LONGEST_SECONDS);
            $sums = array_combine(FineLoad::SUMS, array_map(static fn (): int => $random->getInt(0, 10 ** 12), FineLoad::SUMS));
            $parts = FineLoad::spread($sums, $from, $to);
            foreach ($sums as $name => $sum) {
                self::assertSame($sum, array_sum(array_column($parts, $name)));
                self::assertGreaterThanOrEqual(0, min(array_column($parts, $name)));
            }
            foreach (array_keys($parts) as $at) {
                self::assertSame(0, $at % FineLoad::SECONDS);
                self::assertTrue($at < max($to, $from + 1) && $at + FineLoad::SECONDS > $from);
            }
        }
    }
}
