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

    public function test_spans_are_counted_in_each_step_they_touch(): void
    {
        self::assertSame([0.0, 0.0, 0.0, 0.0, 0.0], self::counts([]));
        // An end belongs to what comes after it.
        self::assertSame([1.0, 1.0, 0.0, 0.0, 0.0], self::counts([[900, 1_120]]));
        self::assertSame([0.0, 0.0, 1.0, 1.0, 1.0], self::counts([[1_120, null]]));
        self::assertSame([0.0, 2.0, 1.0, 0.0, 0.0], self::counts([[1_060, 1_061], [1_119, 1_121]]));
        self::assertSame([0.0, 0.0, 0.0, 0.0, 1.0], self::counts([[1_299, 5_000]]));
        // What was over before, or comes after, touches nothing.
        self::assertSame([0.0, 0.0, 0.0, 0.0, 0.0], self::counts([[900, 980], [900, 1_000], [1_300, null], [1_400, 1_500]]));
        self::assertSame([], Steps::counts([[0, null]], 10, 10, 60));
    }

    /**
     * @param  list<array{int, int|null}>  $spans
     * @return list<float>
     */
    private static function counts(array $spans): array
    {
        return Steps::counts($spans, 1_000, 1_300, 60);
    }
}
