<?php

declare(strict_types=1);

namespace Tests\Core\Storage;

use Fulcrion\Core\Storage\Clustering;
use Fulcrion\Core\Storage\SpaceFillingCurve;
use PHPUnit\Framework\TestCase;

final class CurveTest extends TestCase
{
    public function test_hilbert_s_curve_passes_every_point_once_and_goes_step_by_step(): void
    {
        $points = [];
        for ($x = 0; $x < 32; $x++) {
            for ($y = 0; $y < 32; $y++) {
                $points[SpaceFillingCurve::hilbert($x, $y, 5)] = [$x, $y];
            }
        }
        ksort($points);
        self::assertSame(range(0, 1023), array_keys($points));
        for ($i = 1; $i < 1024; $i++) {
            self::assertSame(1, abs($points[$i][0] - $points[$i - 1][0]) + abs($points[$i][1] - $points[$i - 1][1]));
        }
    }

    public function test_bits_are_interleaved(): void
    {
        self::assertSame(
            [0, 1, 2, 3],
            [
                SpaceFillingCurve::morton(0, 0),
                SpaceFillingCurve::morton(1, 0),
                SpaceFillingCurve::morton(0, 1),
                SpaceFillingCurve::morton(1, 1),
            ],
        );
    }

    public function test_rows_are_sorted_by_columns_one_after_the_other_with_null_first_and_texts_by_bytes(): void
    {
        $order = (new Clustering(['w', 'n']))->order([['b', 'a', 'b', null, 'B', '10', '9'], [2, 5, 1, 9, 3, 0, 0]]);
        self::assertSame([3, 5, 6, 4, 1, 2, 0], $order);
        self::assertSame([1, 2, 0], (new Clustering(['n']))->order([[3, 1, 2]]));
        self::assertSame([], (new Clustering(['n']))->order([[]]));
    }
}
