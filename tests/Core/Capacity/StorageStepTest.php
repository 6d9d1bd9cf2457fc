<?php

declare(strict_types=1);

namespace Tests\Core\Capacity;

use Fulcrion\Core\Capacity\StorageReading;
use Fulcrion\Core\Capacity\StorageStep;
use PHPUnit\Framework\TestCase;

final class StorageStepTest extends TestCase
{
    public function test_what_comes_at_once_is_a_step_and_what_trickles_is_none(): void
    {
        self::assertSame([], self::steps([]));
        self::assertSame([], self::steps([100.0]));
        self::assertSame([], self::steps(array_map(static fn (int $hour): float => 1_000.0 + $hour, range(0, 50))));
        // A tenth of one percent an hour, then ten times that and a little more: both ends of the rule.
        $used = array_map(static fn (int $hour): float => 10_000.0 + 10.0 * $hour, range(0, 20));
        self::assertSame([], self::steps([...$used, 10_200.0 + 101.0]), 'ten times, but no hundredth of what there is');
        self::assertSame([[21, 110.0]], self::steps([...$used, 10_200.0 + 110.0]));
        $fast = array_map(static fn (int $hour): float => 1_000.0 + 20.0 * $hour, range(0, 20));
        self::assertSame([], self::steps([...$fast, 1_400.0 + 190.0]), 'an eighth of what there is, but no ten times the usual');
        self::assertSame([[21, 201.0]], self::steps([...$fast, 1_400.0 + 201.0]));
    }

    public function test_hours_of_one_load_are_one_step_and_what_goes_is_another(): void
    {
        $flat = array_fill(0, 10, 1_000.0);
        self::assertSame([[10, 300.0]], self::steps([...$flat, 1_100.0, 1_300.0, 1_300.0]));
        self::assertSame([[10, 300.0], [11, -200.0]], self::steps([...$flat, 1_300.0, 1_100.0, 1_100.0]));
    }

    /**
     * @param  list<float>  $used
     * @return list<array{int, float}>
     */
    private static function steps(array $used): array
    {
        $readings = [];
        foreach ($used as $hour => $bytes) {
            $readings[] = new StorageReading($hour, $bytes, 1e9);
        }

        return array_map(static fn (StorageStep $one): array => [$one->at, $one->bytes], StorageStep::find($readings));
    }
}
