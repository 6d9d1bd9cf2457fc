<?php

declare(strict_types=1);

namespace Tests\Core\Time;

use Fulcrion\Core\Time\Steps;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

/**
 * How finely a span of time is cut.
 */
final class StepsTest extends TestCase
{
    #[TestWith([1, 10])]
    #[TestWith([2_400, 10])]
    #[TestWith([2_401, 30])]
    #[TestWith([7_200, 30])]
    #[TestWith([7_201, 60])]
    #[TestWith([14_400, 60])]
    #[TestWith([1_000_000, 60])]
    public function test_the_shortest_that_cuts_a_span_into_few_enough_pieces(int $seconds, int $step): void
    {
        self::assertSame($step, Steps::shortest($seconds, [10, 30, 60], 240));
    }
}
