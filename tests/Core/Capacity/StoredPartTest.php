<?php

declare(strict_types=1);

namespace Tests\Core\Capacity;

use Fulcrion\Core\Capacity\PartKind;
use Fulcrion\Core\Capacity\StoredPart;
use PHPUnit\Framework\TestCase;
use Random\Engine\Mt19937;
use Random\Randomizer;

final class StoredPartTest extends TestCase
{
    public function test_what_came_and_went_between_two_days_is_told_largest_first(): void
    {
        $table = static fn (string $name, float $bytes): StoredPart => new StoredPart(PartKind::Table, $name, $bytes);
        $old = new StoredPart(PartKind::Versions, 's.a', 700.0);
        self::assertEquals([
            new StoredPart(PartKind::Versions, 's.a', 700.0), $table('s.gone', -500.0), $table('s.a', 100.0), $table('s.new', 5.0),
        ], StoredPart::changed([$table('s.a', 100.0), $table('s.gone', 500.0), $table('s.same', 9.0)],
            [$table('s.a', 200.0), $table('s.new', 5.0), $table('s.same', 9.0), $old]));
        self::assertSame([], StoredPart::changed([], []));
        self::assertSame([], StoredPart::changed([$table('s.a', 100.2)], [$table('s.a', 100.9)]), 'less than a byte is nothing');
    }

    public function test_parts_are_called_by_what_they_are(): void
    {
        $names = array_map(static fn (PartKind $kind): string => (new StoredPart($kind, 's.t', 1.0))->name(), PartKind::cases());
        self::assertSame(['s.t', 'old versions of s.t', 'files of s.t nobody needs', 'backups “s.t”, kept elsewhere'], $names);
        self::assertCount(4, StoredPart::changed([], array_map(static fn (PartKind $kind): StoredPart => new StoredPart($kind, 's.t', 1.0),
            PartKind::cases())), 'and are held apart');
    }

    public function test_changes_add_up_to_the_difference_of_the_sums(): void
    {
        $random = new Randomizer(new Mt19937(71));
        $sum = static fn (array $parts): float => array_sum(array_map(static fn (StoredPart $one): float => $one->bytes, $parts));
        for ($run = 0; $run < 100; $run++) {
            $days = [];
            foreach ([0, 1] as $day) {
                $days[$day] = [];
                foreach (['a', 'b', 'c', 'd', 'e'] as $name) {
                    if ($random->getInt(0, 2) > 0) {
                        $days[$day][] = new StoredPart(PartKind::cases()[$random->getInt(0, 2)], $name, 10.0 * $random->getInt(0, 100));
                    }
                }
            }
            $changed = StoredPart::changed(...$days);
            self::assertEqualsWithDelta($sum($days[1]) - $sum($days[0]), $sum($changed), 1e-6);
            $sizes = array_map(static fn (StoredPart $one): float => abs($one->bytes), $changed);
            $sorted = $sizes;
            rsort($sorted);
            self::assertSame($sorted, $sizes);
            self::assertEquals($changed, array_map(
                static fn (StoredPart $one): StoredPart => new StoredPart($one->kind, $one->object, -$one->bytes),
                StoredPart::changed($days[1], $days[0]),
            ), 'the other way round it is the opposite');
        }
    }
}
