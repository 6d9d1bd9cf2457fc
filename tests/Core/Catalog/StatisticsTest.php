<?php

declare(strict_types=1);

namespace Tests\Core\Catalog;

use Fulcrion\Core\Catalog\ColumnStatistics;
use Fulcrion\Core\Catalog\ColumnType;
use Fulcrion\Core\Catalog\Histogram;
use Fulcrion\Core\Catalog\HyperLogLog;
use Fulcrion\Core\Catalog\TypeKind;
use PHPUnit\Framework\Attributes\TestWith;
use PHPUnit\Framework\TestCase;

final class StatisticsTest extends TestCase
{
    #[TestWith([1])]
    #[TestWith([100])]
    #[TestWith([3000])]
    #[TestWith([20_000])]
    #[TestWith([200_000])]
    public function test_distinct_counts_are_within_five_standard_errors_and_merge(int $distinct): void
    {
        [$all, $even, $odd] = [new HyperLogLog(), new HyperLogLog(), new HyperLogLog()];
        for ($i = 0; $i < $distinct; $i++) {
            $all->add("v{$i}");
            $all->add("v{$i}");
            ($i % 2 === 0 ? $even : $odd)->add("v{$i}");
        }
        self::assertEqualsWithDelta($distinct, $all->estimate(), max(0.5, $distinct * 5 * 0.0163));
        $even->merge($odd);
        self::assertSame($all->estimate(), $even->estimate());
    }

    public function test_a_histogram_knows_shares(): void
    {
        $histogram = Histogram::of(range(1, 1000));
        foreach ([-5 => 0.0, 1 => 0.0, 250 => 0.25, 500 => 0.5, 999 => 0.998, 2000 => 1.0] as $value => $share) {
            self::assertEqualsWithDelta($share, $histogram->below($value), 0.01, (string) $value);
        }
        self::assertSame(0.0, Histogram::of([])->below(3));
        self::assertEqualsWithDelta(0.5, Histogram::of(['a', 'b', 'c', 'd'])->below('c'), 0.15);
    }

    public function test_common_values_have_their_own_share_and_others_share_the_rest(): void
    {
        $values = [...array_fill(0, 700, 'A'), ...array_fill(0, 100, null)];
        for ($i = 0; $i < 200; $i++) {
            $values[] = "r{$i}";
        }
        $statistics = ColumnStatistics::of($values);
        self::assertEqualsWithDelta(201, $statistics->distinct, 8);
        self::assertSame(0.7, $statistics->equal('A'));
        self::assertEqualsWithDelta(0.001, $statistics->equal('r7'), 0.0002);
        self::assertSame(0.0, $statistics->equal('zz'));
        self::assertEqualsWithDelta(0.1, $statistics->nullShare, 0.0001);
        self::assertEquals(
            $statistics,
            ColumnStatistics::fromArray(json_decode((string) json_encode($statistics->toArray(), JSON_PRESERVE_ZERO_FRACTION), true)),
        );
    }

    public function test_values_are_shown_as_people_write_them(): void
    {
        foreach (
            [
                '-0.05' => [ColumnType::decimal(8, 2), -5],
                '12.30' => [ColumnType::decimal(8, 2), 1230],
                '1969-12-31' => [ColumnType::of(TypeKind::Date), -1],
                '1969-12-31 23:59:59.500000' => [ColumnType::of(TypeKind::Timestamp), -500_000],
                '0.1' => [ColumnType::of(TypeKind::Double), 0.1],
                'false' => [ColumnType::of(TypeKind::Boolean), false],
                'NULL' => [ColumnType::of(TypeKind::Text), null],
            ] as $shown => [$type, $value]
        ) {
            self::assertSame($shown, $type->show($value));
        }
    }
}
