<?php

declare(strict_types=1);

namespace Tests\Core\Statistics;

use Fulcrion\Core\Statistics\StudentQuantile;
use InvalidArgumentException;
use PHPUnit\Framework\Attributes\DataProvider;
use PHPUnit\Framework\TestCase;

final class StudentQuantileTest extends TestCase
{
    /**
     * Of printed tables.
     *
     * @return iterable<string, array{float, int, float}>
     */
    public static function table(): iterable
    {
        foreach ([[0.9, 1, 3.078], [0.9, 2, 1.886], [0.9, 3, 1.638], [0.9, 4, 1.533], [0.9, 7, 1.415], [0.9, 12, 1.356], [0.9, 30, 1.310],
            [0.95, 1, 6.314], [0.975, 5, 2.571], [0.975, 10, 2.228], [0.99, 2, 6.965], [0.9, 200, 1.286]] as $row) {
            yield "{$row[0]} with {$row[1]}" => $row;
        }
    }

    #[DataProvider('table')]
    public function test_it_is_as_printed(float $share, int $freedom, float $quantile): void
    {
        self::assertEqualsWithDelta($quantile, StudentQuantile::of($share, $freedom), 0.0006);
    }

    public function test_a_share_below_the_middle_is_refused(): void
    {
        $this->expectException(InvalidArgumentException::class);
        StudentQuantile::of(0.4, 3);
    }
}
